import { StereoDelay } from '../devices/align.ts';
import { Ramp } from '../devices/math.ts';
import { MixList, copy, doubles, mix } from '../devices/kernels/index.ts';

const list = new MixList();

/** A connection while it runs: gains that glide and a delay that lines it up. */
export class EdgeRun {
  readonly gl: Ramp;
  readonly gr: Ramp;
  private readonly delay: StereoDelay;
  private sl: Float64Array | null = null;
  private sr: Float64Array | null = null;
  private readonly glide: number;

  /** `start` 0 fades a new connection in, 1 has it whole from the first sample. */
  constructor(
    sampleRate: number,
    private readonly maxBlock: number,
    private start: number,
  ) {
    this.gl = new Ramp(0);
    this.gr = new Ramp(0);
    this.delay = new StereoDelay(sampleRate, maxBlock);
    this.glide = Math.round(sampleRate * 0.01);
  }

  set(gainL: number, gainR: number, delay: number, immediate: boolean): void {
    const now = immediate || this.start === 1;
    this.start = 0;
    this.gl.to(gainL, now ? 0 : this.glide);
    this.gr.to(gainR, now ? 0 : this.glide);
    this.delay.set(delay, now);
    if (!this.delay.idle && !this.sl) {
      this.sl = doubles(this.maxBlock);
      this.sr = doubles(this.maxBlock);
    }
  }

  reset(): void {
    this.delay.reset();
  }

  /** Whether it is a plain gain now: nothing glides, nothing is delayed. */
  get steady(): boolean {
    return this.delay.idle && this.gl.left === 0 && this.gr.left === 0;
  }

  /** Adds n frames of the source to the destination. */
  add(sl: Float64Array, sr: Float64Array, dl: Float64Array, dr: Float64Array, n: number): void {
    if (!this.delay.idle) {
      const cl = this.sl!;
      const cr = this.sr!;
      copy(cl, 0, sl, 0, n);
      copy(cr, 0, sr, 0, n);
      this.delay.process(cl, cr, n);
      sl = cl;
      sr = cr;
    }
    if (this.gl.left === 0 && this.gr.left === 0) {
      const a = this.gl.value;
      const b = this.gr.value;
      if (a === 0 && b === 0) return;
      list.push(sl, sr, a, b);
      mix(dl, dr, n, list);
      list.count = 0;
      return;
    }
    mixRamped(sl, dl, n, this.gl);
    mixRamped(sr, dr, n, this.gr);
  }
}

/** dst += src × a gain that is on its way; moves the gain on by n. */
export function mixRamped(src: Float64Array, dst: Float64Array, n: number, g: Ramp): void {
  const moving = Math.min(g.left, n);
  let v = g.value;
  const dv = g.step;
  for (let i = 0; i < moving; i++) {
    v += dv;
    dst[i] += v * src[i];
  }
  g.advance(n);
  v = g.value;
  for (let i = moving; i < n; i++) dst[i] += v * src[i];
}

/** Both sides by the same gain, while it moves and after. */
export function scaleBoth(l: Float64Array, r: Float64Array, n: number, g: Ramp): void {
  const { value, left } = g;
  if (left <= 0 && value === 1) return;
  scaleRamped(l, n, g);
  g.value = value;
  g.left = left;
  scaleRamped(r, n, g);
}

/** buf ×= a gain that is on its way. */
export function scaleRamped(buf: Float64Array, n: number, g: Ramp): void {
  const moving = Math.min(g.left, n);
  let v = g.value;
  const dv = g.step;
  for (let i = 0; i < moving; i++) {
    v += dv;
    buf[i] *= v;
  }
  g.advance(n);
  v = g.value;
  if (v !== 1) for (let i = moving; i < n; i++) buf[i] *= v;
}
