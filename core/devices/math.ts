/**
 * Fast log2 and exp2 by table and a second-order correction: relative error under 1e-8 (0.0001 dB is 1.7e-5 in log2), checked against Math in
 * core/devices/devices.test.ts. Math.log10 and Math.pow per sample are the slowest part of a plain compressor.
 */
const f32 = new Float32Array(1);
const i32 = new Int32Array(f32.buffer);
const LOG_T = new Float64Array(256);
const LOG_R = new Float64Array(256);
const EXP_T = new Float64Array(256);
const POW2 = new Float64Array(513);
for (let i = 0; i < 256; i++) {
  const centre = 1 + (i + 0.5) / 256;
  LOG_T[i] = Math.log2(centre);
  LOG_R[i] = 1 / centre;
  EXP_T[i] = Math.pow(2, (i + 0.5) / 256);
}
for (let i = 0; i <= 512; i++) POW2[i] = Math.pow(2, i - 256);

/** log2 of a positive number inside Float32's normal range. */
export function log2(x: number): number {
  f32[0] = x;
  const b = i32[0];
  i32[0] = (b & 0x7fffff) | 0x3f800000;
  const k = (b >> 15) & 255;
  const r = f32[0] * LOG_R[k] - 1;
  return (b >> 23) - 127 + LOG_T[k] + r * (1.4426950408889634 - 0.7213475204444817 * r);
}

/** 2^x for −256 ≤ x < 256. */
export function exp2(x: number): number {
  const whole = Math.floor(x);
  const t = (x - whole) * 256;
  const k = t | 0;
  const u = (t - k - 0.5) * (0.6931471805599453 / 256);
  return POW2[whole + 256] * EXP_T[k] * (1 + u * (1 + 0.5 * u));
}

/** dB of one doubling of amplitude: 20·log10(2). */
export const DB_PER_OCTAVE = 6.020599913279624;
export const dbToGain = (db: number): number => (db <= -144 ? 0 : Math.pow(10, db / 20));
export const gainToDb = (g: number): number => (g <= 1e-8 ? -160 : 20 * Math.log10(g));

/** One-pole coefficient 1 − e^(−1/(t·fs)): 63 % of the way in t (Giannoulis, Massberg, Reiss 2012, eq. 6). t in ms. */
export const poleFor = (ms: number, sampleRate: number): number => 1 - Math.exp(-1000 / (Math.max(ms, 1e-3) * sampleRate));

/** A value that goes linearly to its target over a number of samples. */
export class Ramp {
  value: number;
  target: number;
  step = 0;
  left = 0;
  constructor(v: number) { this.value = this.target = v; }
  to(v: number, samples: number): void {
    if (v === this.target) return;
    this.target = v;
    if (samples < 1) { this.value = v; this.left = 0; return; }
    this.left = samples;
    this.step = (v - this.value) / samples;
  }
  /** Moves on by n samples; the caller uses `value` before and after. */
  advance(n: number): void {
    if (this.left === 0) return;
    if (n >= this.left) { this.value = this.target; this.left = 0; } else { this.value += this.step * n; this.left -= n; }
  }
}

/** Smoothing time of parameter moves in samples: 20 ms. */
export const smoothing = (sampleRate: number): number => Math.round(sampleRate * 0.02);

/** Integer delay of a stereo signal whose length can change without a click: the old and new tap are crossfaded over 10 ms. */
export class StereoDelay {
  private l = new Float64Array(0);
  private r = new Float64Array(0);
  private mask = 0;
  private at = 0;
  private from = 0;
  private fade = 0;
  private readonly fadeLength: number;
  length = 0;
  constructor(sampleRate: number, private readonly maxBlock: number) { this.fadeLength = Math.round(sampleRate * 0.01); }

  /** Sets the delay in samples; may allocate, so it is called between blocks only. */
  set(samples: number, immediate: boolean): void {
    if (samples === this.length) return;
    if (samples > 0 && samples + this.maxBlock > this.l.length) {
      let size = 256;
      while (size < samples + this.maxBlock) size *= 2;
      const [ol, or, om] = [this.l, this.r, this.mask];
      this.l = new Float64Array(size);
      this.r = new Float64Array(size);
      this.mask = size - 1;
      for (let i = 0; i < ol.length; i++) {
        this.l[(this.at - 1 - i) & this.mask] = ol[(this.at - 1 - i) & om];
        this.r[(this.at - 1 - i) & this.mask] = or[(this.at - 1 - i) & om];
      }
    }
    this.from = this.length;
    this.length = samples;
    this.fade = immediate ? 0 : this.fadeLength;
  }

  get idle(): boolean { return this.length === 0 && this.fade === 0; }

  /** Delays n frames in place. */
  process(l: Float64Array, r: Float64Array, n: number): void {
    if (this.idle || this.mask === 0) return;
    const { mask, length, from, fadeLength } = this;
    const [bl, br] = [this.l, this.r];
    let at = this.at;
    let fade = this.fade;
    for (let i = 0; i < n; i++) {
      bl[at & mask] = l[i];
      br[at & mask] = r[i];
      let a = bl[(at - length) & mask];
      let b = br[(at - length) & mask];
      if (fade > 0) {
        const g = fade / fadeLength;
        a += g * (bl[(at - from) & mask] - a);
        b += g * (br[(at - from) & mask] - b);
        fade--;
      }
      l[i] = a;
      r[i] = b;
      at++;
    }
    this.at = at & mask;
    this.fade = fade;
  }

  reset(): void { this.l.fill(0); this.r.fill(0); }
}
