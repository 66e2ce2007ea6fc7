import { copy, doubles } from './kernels/index.ts';

/**
 * Integer delay of a stereo signal whose length can change without a click: the old and new tap are
 * crossfaded over 10 ms.
 */
export class StereoDelay {
  private l: Float64Array = new Float64Array(0);
  private r: Float64Array = new Float64Array(0);
  private mask = 0;
  private at = 0;
  private from = 0;
  private fade = 0;
  /** samples until the ring holds enough of the past for the new length: the old tap plays until then */
  private wait = 0;
  private filled = 0;
  private readonly fadeLength: number;
  length = 0;
  /** a length that was asked for while a fade was on; its turn comes when that fade has ended */
  private next = -1;
  constructor(
    sampleRate: number,
    private readonly maxBlock: number,
  ) {
    this.fadeLength = Math.round(sampleRate * 0.01);
  }

  /** Sets the delay in samples; may allocate, so it is called between blocks only. */
  set(samples: number, immediate: boolean): void {
    this.next = -1;
    if (samples === this.length) return;
    if (!immediate && this.fade > 0) {
      this.reserve(samples);
      this.next = samples;
      return;
    }
    this.reserve(samples);
    this.begin(samples, immediate);
  }

  private begin(samples: number, immediate: boolean): void {
    if (this.length === 0 && this.fade === 0) this.filled = 0;
    this.from = this.length;
    this.length = samples;
    this.fade = immediate ? 0 : this.fadeLength;
    this.wait = immediate ? 0 : Math.max(0, samples - this.filled);
  }

  private reserve(samples: number): void {
    if (samples > 0 && samples + this.maxBlock > this.l.length) {
      let size = 256;
      while (size < samples + this.maxBlock) size *= 2;
      const [ol, or, om] = [this.l, this.r, this.mask];
      this.l = doubles(size);
      this.r = doubles(size);
      this.mask = size - 1;
      for (let i = 0; i < ol.length; i++) {
        this.l[(this.at - 1 - i) & this.mask] = ol[(this.at - 1 - i) & om];
        this.r[(this.at - 1 - i) & this.mask] = or[(this.at - 1 - i) & om];
      }
    }
  }

  get idle(): boolean {
    return this.length === 0 && this.fade === 0;
  }

  /** Delays n frames in place. */
  process(l: Float64Array, r: Float64Array, n: number): void {
    if (this.idle || this.mask === 0) return;
    if (this.isSteady) {
      this.steady(l, r, n);
      return;
    }
    const { mask, length, from, fadeLength } = this;
    const [bl, br] = [this.l, this.r];
    let at = this.at;
    let fade = this.fade;
    let wait = this.wait;
    for (let i = 0; i < n; i++) {
      bl[at & mask] = l[i];
      br[at & mask] = r[i];
      let a = bl[(at - length) & mask];
      let b = br[(at - length) & mask];
      if (fade > 0) {
        const g = fade / fadeLength;
        a += g * (bl[(at - from) & mask] - a);
        b += g * (br[(at - from) & mask] - b);
        if (wait > 0) wait--;
        else fade--;
      }
      l[i] = a;
      r[i] = b;
      at++;
    }
    this.at = at & mask;
    this.fade = fade;
    this.wait = wait;
    this.filled = Math.min(this.l.length, this.filled + n);
    if (fade === 0 && this.next >= 0) {
      const to = this.next;
      this.next = -1;
      if (to !== this.length) this.begin(to, false);
    }
  }

  /** Whether a block may be only heard, by `hear`: nothing is on its way from one length to another. */
  get isSteady(): boolean {
    return this.fade === 0 && this.next < 0;
  }
  /** Takes n frames in where nobody wants what comes out, so that it can go on from there. */
  hear(l: Float64Array, r: Float64Array, n: number): void {
    if (this.idle || this.mask === 0) return;
    this.take(l, r, n);
    this.at = (this.at + n) & this.mask;
  }

  /** The same with nothing fading: in at one place of the ring, out at another, each in one or two pieces. */
  private steady(l: Float64Array, r: Float64Array, n: number): void {
    const { l: bl, r: br, mask, at } = this;
    const out = (at - this.length) & mask;
    const b = Math.min(n, mask + 1 - out);
    this.take(l, r, n);
    copy(l, 0, bl, out, b);
    copy(r, 0, br, out, b);
    if (b < n) {
      copy(l, b, bl, 0, n - b);
      copy(r, b, br, 0, n - b);
    }
    this.at = (at + n) & mask;
  }
  private take(l: Float64Array, r: Float64Array, n: number): void {
    const { l: bl, r: br, mask, at } = this;
    const a = Math.min(n, mask + 1 - at);
    copy(bl, at, l, 0, a);
    copy(br, at, r, 0, a);
    if (a < n) {
      copy(bl, 0, l, a, n - a);
      copy(br, 0, r, a, n - a);
    }
    this.filled = Math.min(mask + 1, this.filled + n);
  }

  reset(): void {
    this.l.fill(0);
    this.r.fill(0);
  }
}
