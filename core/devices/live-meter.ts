import { Oversampler } from './oversample.ts';
import { gainToDb, settled } from './math.ts';
import { power, tenTo } from '../model/power.ts';

/** Order of the live meter's figures. */
export const METER_READINGS = [
  'peak left',
  'peak right',
  'true peak',
  'momentary',
  'short-term',
  'integrated',
  'correlation',
] as const;

const NONE = -160;
/** the integrated figure's histogram: tenths of a LU from −70 to +10 LUFS */
const LOW = -70;
const BINS = 800;

/**
 * Loudness after ITU-R BS.1770-5 while the sound runs (the gated mean comes from a histogram of the 400 ms
 * blocks in tenths of a LU, so that it needs no memory of the past), peaks held, true peak of four
 * times oversampling, and the correlation of the sides over about 0.3 s. Allocates nothing while it runs.
 */
export class LiveMeter {
  /** in the order of METER_READINGS: dBFS, dBFS, dBTP, LUFS, LUFS, LUFS, −1 … 1 */
  readonly readings = new Float64Array(7);
  private readonly over: Oversampler[];
  private readonly sections: [number, number, number, number, number][];
  private readonly s = new Float64Array(8);
  private readonly parts = new Float64Array(30);
  private filled = 0;
  private at = 0;
  private sum = 0;
  private frames = 0;
  private readonly step: number;
  private readonly power = new Float64Array(BINS);
  private readonly count = new Float64Array(BINS);
  private readonly c = new Float64Array(3);
  private readonly fall: number;

  constructor(sampleRate: number, maxBlock: number) {
    this.over = [0, 1].map(() => new Oversampler(4, maxBlock));
    this.sections = kWeighting(sampleRate);
    this.step = Math.round(sampleRate / 10);
    this.fall = 1 - Math.exp(-1 / (0.3 * sampleRate));
    this.reset();
  }

  take(l: Float64Array, r: Float64Array, n: number): void {
    const out = this.readings;
    const c = this.c;
    const k = this.fall;
    let pl = 0;
    let pr = 0;
    let ll = c[0];
    let rr = c[1];
    let lr = c[2];
    for (let i = 0; i < n; i++) {
      const x = l[i];
      const y = r[i];
      const a = Math.abs(x);
      const b = Math.abs(y);
      if (a > pl) pl = a;
      if (b > pr) pr = b;
      ll += k * (x * x - ll);
      rr += k * (y * y - rr);
      lr += k * (x * y - lr);
    }
    c[0] = settled(ll);
    c[1] = settled(rr);
    c[2] = settled(lr);
    out[6] = ll > 1e-12 && rr > 1e-12 ? lr / Math.sqrt(ll * rr) : 0;
    out[0] = Math.max(out[0], gainToDb(pl));
    out[1] = Math.max(out[1], gainToDb(pr));
    let top = Math.max(pl, pr);
    for (let ch = 0; ch < 2; ch++) {
      const up = this.over[ch].raise(ch === 0 ? l : r, n);
      for (let i = 0; i < n * 4; i++) {
        const a = Math.abs(up[i]);
        if (a > top) top = a;
      }
    }
    out[2] = Math.max(out[2], gainToDb(top));
    for (let i = 0; i < n;) {
      const m = Math.min(n - i, this.step - this.frames);
      this.weigh(l, i, i + m, 0);
      this.weigh(r, i, i + m, 4);
      this.frames += m;
      i += m;
      if (this.frames === this.step) this.tenth();
    }
  }

  private weigh(x: Float64Array, from: number, to: number, o: number): void {
    const [[b0, b1, b2, a1, a2], [, , , e1, e2]] = this.sections;
    const s = this.s;
    let s1 = s[o];
    let s2 = s[o + 1];
    let p1 = s[o + 2];
    let p2 = s[o + 3];
    let sum = 0;
    for (let i = from; i < to; i++) {
      const v = x[i];
      const y = b0 * v + s1;
      s1 = b1 * v - a1 * y + s2;
      s2 = b2 * v - a2 * y;
      const z = y + p1;
      p1 = -2 * y - e1 * z + p2;
      p2 = y - e2 * z;
      sum += z * z;
    }
    s[o] = settled(s1);
    s[o + 1] = settled(s2);
    s[o + 2] = settled(p1);
    s[o + 3] = settled(p2);
    this.sum += sum;
  }

  /** A tenth of a second is full: new momentary, short-term and integrated figures. */
  private tenth(): void {
    const p = this.parts;
    const out = this.readings;
    p[this.at] = this.sum / this.step;
    this.at = (this.at + 1) % 30;
    this.filled = Math.min(30, this.filled + 1);
    this.sum = 0;
    this.frames = 0;
    const mean = (count: number) => {
      let s = 0;
      for (let i = 1; i <= count; i++) s += p[(this.at - i + 30) % 30];
      return s / count;
    };
    if (this.filled >= 4) {
      const m = mean(4);
      const level = lufs(m);
      out[3] = level;
      const bin = Math.floor((level - LOW) * 10);
      if (bin >= 0) {
        this.power[Math.min(BINS - 1, bin)] += m;
        this.count[Math.min(BINS - 1, bin)]++;
      }
      out[5] = this.integrated();
    }
    if (this.filled === 30) out[4] = lufs(mean(30));
  }

  private integrated(): number {
    const over = (from: number) => {
      let s = 0;
      let n = 0;
      for (let i = Math.max(0, from); i < BINS; i++) {
        s += this.power[i];
        n += this.count[i];
      }
      return n ? s / n : 0;
    };
    const all = over(0);
    return all > 0 ? lufs(over(Math.floor((lufs(all) - 10 - LOW) * 10))) : NONE;
  }

  /** Starts the held and integrated figures again. */
  reset(): void {
    this.readings.fill(NONE);
    this.readings[6] = 0;
    this.s.fill(0);
    this.c.fill(0);
    this.parts.fill(0);
    this.power.fill(0);
    this.count.fill(0);
    this.filled = this.at = this.frames = 0;
    this.sum = 0;
    for (const o of this.over) o.reset();
  }
}

const lufs = (power: number) => (power > 1e-16 ? -0.691 + 10 * Math.log10(power) : NONE);

/**
 * K-weighting as two sections [b0, b1, b2, a1, a2] at any rate: the analogue prototypes behind BS.1770's 48
 * kHz table (high shelf 1681.97 Hz, +3.99984 dB, Q 0.70718; high-pass 38.135 Hz,
 * Q 0.50033), bilinear. At 48 kHz they give the table's coefficients, which tests/reference checks.
 */
export function kWeighting(fs: number): [number, number, number, number, number][] {
  const k = Math.tan((Math.PI * 1681.974450955533) / fs);
  const vh = tenTo(3.999843853973347 / 20);
  const vb = power(vh, 0.4996667741545416);
  const q = 0.7071752369554196;
  const a0 = 1 + k / q + k * k;
  const h = Math.tan((Math.PI * 38.13547087602444) / fs);
  const hq = 0.5003270373238773;
  const d = 1 + h / hq + h * h;
  return [
    [
      (vh + (vb * k) / q + k * k) / a0,
      (2 * (k * k - vh)) / a0,
      (vh - (vb * k) / q + k * k) / a0,
      (2 * (k * k - 1)) / a0,
      (1 - k / q + k * k) / a0,
    ],
    [1, -2, 1, (2 * (h * h - 1)) / d, (1 - h / hq + h * h) / d],
  ];
}
