import { square, tenTo, twoTo } from '../model/power.ts';
/**
 * Fast log2 and exp2: a table over exponent and the first 8 bits of the mantissa, and a third-order
 * correction; relative error under 1e-11 (0.0001 dB is 1.7e-5 in log2), checked against
 * Math in tests/reference/devices.test.ts. Math.log10 and Math.pow per sample are the slowest part of a plain
 * compressor; one index for both parts keeps this at a few instructions.
 */
const f64 = new Float64Array(1);
const high = new Int32Array(f64.buffer);
const LOG_LOW = -40;
const EXP_LOW = -48;
const SPAN = 64;
const LOG_R = new Float64Array(SPAN * 256);
const LOG_T = new Float64Array(SPAN * 256);
const EXP_T = new Float64Array(SPAN * 256);
for (let k = 0; k < 256; k++) {
  const part = (k + 0.5) / 256;
  const centre = 1 + part;
  const [logOfCentre, powerOfPart] = [Math.log2(centre), twoTo(part)];
  // doubling is exact, so that these are twoTo of the sums to the last bit
  let logScale = twoTo(-LOG_LOW) / centre;
  let exponential = powerOfPart * twoTo(EXP_LOW);
  for (let e = 0; e < SPAN; e++) {
    LOG_R[e * 256 + k] = logScale;
    LOG_T[e * 256 + k] = logOfCentre + e + LOG_LOW;
    EXP_T[e * 256 + k] = exponential;
    logScale *= 0.5;
    exponential *= 2;
  }
}

/** log2 for 2^−40 ≤ x < 2^24 (−240 to +144 dB); the caller holds x in that range. */
export function log2(x: number): number {
  f64[0] = x;
  const j = (high[1] >> 12) - ((1023 + LOG_LOW) << 8);
  const r = x * LOG_R[j] - 1;
  return LOG_T[j] + r * (1.4426950408889634 - r * (0.7213475204444817 - 0.4808983469629878 * r));
}

/** 2^x for −48 ≤ x < 16. */
export function exp2(x: number): number {
  const t = (x - EXP_LOW) * 256;
  const n = t | 0;
  const u = (t - n - 0.5) * (0.6931471805599453 / 256);
  const b = EXP_T[n];
  return b + b * u * (1 + u * (0.5 + u * (1 / 6)));
}

/** dB of one doubling of amplitude: 20·log10(2). */
export const DB_PER_OCTAVE = 6.020599913279624;
export const dbToGain = (db: number): number => (db <= -144 ? 0 : tenTo(db / 20));
export const gainToDb = (g: number): number => (g <= 1e-8 ? -160 : 20 * Math.log10(g));

/**
 * One-pole coefficient 1 − e^(−1/(t·fs)): 63 % of the way in t (Giannoulis, Massberg, Reiss 2012, eq. 6). t
 * in ms.
 */
export const poleFor = (ms: number, sampleRate: number): number =>
  1 - Math.exp(-1000 / (Math.max(ms, 1e-3) * sampleRate));

/** The largest magnitude of the first n samples. */
export function tallestOf(x: Float64Array, n: number): number {
  let top = 0;
  for (let i = 0; i < n; i++) {
    const size = Math.abs(x[i]);
    if (size > top) top = size;
  }
  return top;
}

/** A value that goes linearly to its target over a number of samples. */
export class Ramp {
  value: number;
  target: number;
  step = 0;
  left = 0;
  constructor(v: number) {
    this.value = this.target = v;
  }
  to(v: number, samples: number): void {
    if (samples < 1) {
      this.value = this.target = v;
      this.left = 0;
      return;
    }
    if (v === this.target) return;
    this.target = v;
    this.left = samples;
    this.step = (v - this.value) / samples;
  }
  /** Moves on by n samples; the caller uses `value` before and after. */
  advance(n: number): void {
    if (this.left === 0) return;
    if (n >= this.left) {
      this.value = this.target;
      this.left = 0;
    } else {
      this.value += this.step * n;
      this.left -= n;
    }
  }
  /** Multiplies both sides by the value, sample by sample while it moves; costs nothing at 1. */
  scale(l: Float64Array, r: Float64Array, n: number): void {
    const moving = Math.min(this.left, n);
    let v = this.value;
    for (let i = 0; i < moving; i++) {
      v += this.step;
      l[i] *= v;
      r[i] *= v;
    }
    this.advance(n);
    v = this.value;
    if (v !== 1) {
      for (let i = moving; i < n; i++) {
        l[i] *= v;
        r[i] *= v;
      }
    }
  }
}

/**
 * Several values that go to their targets together, stepped every 8 samples. Process `span(rest)` frames with
 * `now`, then `advance` by as many.
 */
export class Glide {
  readonly now: Float64Array;
  private readonly goal: Float64Array;
  private readonly delta: Float64Array;
  private left = 0;
  constructor(
    count: number,
    private readonly samples: number,
  ) {
    this.now = new Float64Array(count);
    this.goal = new Float64Array(count);
    this.delta = new Float64Array(count);
  }
  set(values: ArrayLike<number>, immediate: boolean): void {
    let changed = false;
    for (let k = 0; k < this.goal.length; k++) {
      if (this.goal[k] !== values[k]) {
        this.goal[k] = values[k];
        changed = true;
      }
    }
    if (immediate) {
      this.now.set(this.goal);
      this.left = 0;
      return;
    }
    if (!changed) return;
    this.left = this.samples;
    for (let k = 0; k < this.goal.length; k++) this.delta[k] = (this.goal[k] - this.now[k]) / this.samples;
  }
  get moving(): boolean {
    return this.left > 0;
  }
  /** how much value k moves in each sample of the present span, for what must not even move in steps of 8 */
  slope(k: number): number {
    return this.left > 0 ? this.delta[k] : 0;
  }
  span(rest: number): number {
    return this.left > 0 ? Math.min(8, this.left, rest) : rest;
  }
  advance(m: number): void {
    if (this.left === 0) return;
    this.left -= m;
    if (this.left === 0) {
      this.now.set(this.goal);
      return;
    }
    for (let k = 0; k < this.now.length; k++) this.now[k] += this.delta[k] * m;
  }
}

/**
 * Values under this are set to zero: denormal numbers cost ten times. (Asked of the magnitude, here and in other
 * loops: a branch on the sign of a sound is guessed wrong every other time, and a wrong guess costs as much as the
 * rest of a loop.)
 */
export const settled = (x: number): number => (Math.abs(x) < 1e-30 ? 0 : x);

/** Smoothing time of parameter moves in samples: 20 ms. */
export const smoothing = (sampleRate: number): number => Math.round(sampleRate * 0.02);

/** the height of a Kaiser window of the beta that was asked for last: whole tables have one */
const middle = { beta: NaN, height: 1 };
/** Kaiser window at −1…1. */
export function kaiser(t: number, beta: number): number {
  if (Math.abs(t) >= 1) return 0;
  if (beta !== middle.beta) Object.assign(middle, { beta, height: bessel0(beta) });
  return bessel0(beta * Math.sqrt(1 - t * t)) / middle.height;
}

/** Modified Bessel function of the first kind, order 0, by its series. */
function bessel0(x: number): number {
  let sum = 1;
  let term = 1;
  for (let k = 1; k < 60 && term > sum * 1e-17; k++) {
    term *= square(x / (2 * k));
    sum += term;
  }
  return sum;
}
