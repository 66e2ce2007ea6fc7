import { exp2, log2, settled } from '../math.ts';

/**
 * The inner loops in TypeScript: what the SIMD kernels are checked against, and what runs where there is no
 * SIMD.
 */

// abs and sqrt are single instructions when taken from the global object once
const { abs, sqrt } = Math;
/** the detector's range: −140 to +138 dB */
export const FLOOR = 1e-7;
export const CEILING = 8e6;
/**
 * Places in a compressor's values: threshold, knee, 1 − 1/ratio, (attack + release)/2, (attack − release)/2,
 * makeup, mix, link.
 */
export const T = 0;
export const W = 1;
export const S = 2;
export const K1 = 3;
export const K2 = 4;
export const MK = 5;
export const MX = 6;
export const LK = 7;

/**
 * Second-order sections after each other on both sides, transposed direct form II. Two sections and both
 * channels share one loop, state in locals: that shape is what makes it fast.
 * @param c five coefficients a section; s four states a section (left s1 s2, right s1 s2); list the sections
 * to run, in order
 */
export function cascade(
  l: Float64Array,
  r: Float64Array,
  from: number,
  to: number,
  c: Float64Array,
  s: Float64Array,
  list: Int32Array,
  count: number,
): void {
  let k = 0;
  for (; k + 1 < count; k += 2) pair(l, r, from, to, c, s, list[k], list[k + 1]);
  if (k < count) single(l, r, from, to, c, s, list[k]);
}

function pair(
  l: Float64Array,
  r: Float64Array,
  from: number,
  to: number,
  c: Float64Array,
  s: Float64Array,
  i: number,
  j: number,
): void {
  const p = i * 5;
  const q = j * 5;
  const u = i * 4;
  const v = j * 4;
  const b0 = c[p];
  const b1 = c[p + 1];
  const b2 = c[p + 2];
  const a1 = c[p + 3];
  const a2 = c[p + 4];
  const d0 = c[q];
  const d1 = c[q + 1];
  const d2 = c[q + 2];
  const e1 = c[q + 3];
  const e2 = c[q + 4];
  let s1 = s[u];
  let s2 = s[u + 1];
  let t1 = s[u + 2];
  let t2 = s[u + 3];
  let p1 = s[v];
  let p2 = s[v + 1];
  let q1 = s[v + 2];
  let q2 = s[v + 3];
  for (let k = from; k < to; k++) {
    const x = l[k];
    const z = r[k];
    const y = b0 * x + s1;
    const w = b0 * z + t1;
    s1 = b1 * x - a1 * y + s2;
    t1 = b1 * z - a1 * w + t2;
    s2 = b2 * x - a2 * y;
    t2 = b2 * z - a2 * w;
    const g = d0 * y + p1;
    const h = d0 * w + q1;
    p1 = d1 * y - e1 * g + p2;
    q1 = d1 * w - e1 * h + q2;
    p2 = d2 * y - e2 * g;
    q2 = d2 * w - e2 * h;
    l[k] = g;
    r[k] = h;
  }
  s[u] = settled(s1);
  s[u + 1] = settled(s2);
  s[u + 2] = settled(t1);
  s[u + 3] = settled(t2);
  s[v] = settled(p1);
  s[v + 1] = settled(p2);
  s[v + 2] = settled(q1);
  s[v + 3] = settled(q2);
}

function single(
  l: Float64Array,
  r: Float64Array,
  from: number,
  to: number,
  c: Float64Array,
  s: Float64Array,
  i: number,
): void {
  const p = i * 5;
  const u = i * 4;
  const b0 = c[p];
  const b1 = c[p + 1];
  const b2 = c[p + 2];
  const a1 = c[p + 3];
  const a2 = c[p + 4];
  let s1 = s[u];
  let s2 = s[u + 1];
  let t1 = s[u + 2];
  let t2 = s[u + 3];
  for (let k = from; k < to; k++) {
    const x = l[k];
    const z = r[k];
    const y = b0 * x + s1;
    const w = b0 * z + t1;
    s1 = b1 * x - a1 * y + s2;
    t1 = b1 * z - a1 * w + t2;
    s2 = b2 * x - a2 * y;
    t2 = b2 * z - a2 * w;
    l[k] = y;
    r[k] = w;
  }
  s[u] = settled(s1);
  s[u + 1] = settled(s2);
  s[u + 2] = settled(t1);
  s[u + 3] = settled(t2);
}

/**
 * Both channels get one gain, from the louder of the two. Three passes over a scratch (level → wanted
 * reduction → smoothed reduction → gain): only the middle one depends on the sample
 * before it, so the machine can work on several samples of the other two at once; that is twice as fast as
 * one loop.
 */
export function linked(
  l: Float64Array,
  r: Float64Array,
  dl: Float64Array,
  dr: Float64Array,
  from: number,
  to: number,
  v: Float64Array,
  s: Float64Array,
  report: Float64Array,
  kr: number,
  work: Float64Array,
): void {
  const t = v[T];
  const half = v[W] / 2;
  const slope = v[S];
  const k1 = v[K1];
  const k2 = v[K2];
  const mk = v[MK];
  const mix = v[MX];
  const dry = 1 - v[MX];
  const bend = half > 1e-6 ? slope / (4 * half) : 0;
  let y = s[0];
  let p = s[2];
  let most = report[0];
  let loud = report[1];
  for (let i = from; i < to; i++) {
    const a = abs(dl[i]);
    const b = abs(dr[i]);
    let e = a > b ? a : b;
    if (kr > 0) {
      p += kr * (e * e - p);
      e = sqrt(p);
    }
    if (e < FLOOR) e = FLOOR;
    if (e > loud) {
      if (e > CEILING) e = CEILING;
      loud = e;
    }
    const over = log2(e) - t;
    if (over <= -half) work[i] = 0;
    else work[i] = over >= half ? slope * over : bend * (over + half) * (over + half);
  }
  for (let i = from; i < to; i++) {
    const d = work[i] - y;
    y += k1 * d + k2 * abs(d);
    work[i] = y;
    if (y > most) most = y;
  }
  for (let i = from; i < to; i++) {
    const g = dry + mix * exp2(mk - work[i]);
    l[i] *= g;
    r[i] *= g;
  }
  s[0] = s[1] = y;
  s[2] = s[3] = p;
  report[0] = most;
  report[1] = loud;
}

export function powers(x: Float64Array, from: number, to: number): void {
  for (let i = from; i < to; i++) x[i] = exp2(x[i]);
}

/**
 * Half-band filter, n frames to 2n: even outputs are the symmetric sum over the history, odd ones a plain
 * delay. `up` holds `taps` past values before the n new ones; the outputs go into dst from `at` on.
 */
export function raise(
  up: Float64Array,
  g: Float64Array,
  dst: Float64Array,
  at: number,
  n: number,
  taps: number,
  skip: number,
): void {
  const half = taps >> 1;
  const last = taps - 1;
  for (let i = 0; i < n; i++) {
    const p = taps + i;
    let s = 0;
    for (let k = 0; k < half; k++) s += g[k] * (up[p - k] + up[p - last + k]);
    dst[at + 2 * i] = s;
    dst[at + 2 * i + 1] = up[p - skip];
  }
}

/** The way back: 2n samples into the n new even and odd ones behind `taps` past ones, then n frames out. */
export function lower(
  src: Float64Array,
  even: Float64Array,
  odd: Float64Array,
  g: Float64Array,
  dst: Float64Array,
  n: number,
  taps: number,
  skip: number,
): void {
  for (let i = 0; i < n; i++) {
    even[taps + i] = src[2 * i];
    odd[taps + i] = src[2 * i + 1];
  }
  sumDown(even, odd, g, dst, n, taps, skip);
}
export function sumDown(
  even: Float64Array,
  odd: Float64Array,
  g: Float64Array,
  dst: Float64Array,
  n: number,
  taps: number,
  skip: number,
): void {
  const half = taps >> 1;
  const last = taps - 1;
  for (let i = 0; i < n; i++) {
    const p = taps + i;
    let s = 0;
    for (let k = 0; k < half; k++) s += g[k] * (even[p - k] + even[p - last + k]);
    dst[i] = 0.5 * (s + odd[p - skip - 1]);
  }
}

const { tanh: tanhExact } = Math;
const LOG2_E = 1.4426950408889634;
/** tanh by the fast exponential; error under 1e-7. */
export function tanh(x: number): number {
  // beyond 5 the whole is closer to ±1 than 1e-4 and the table ends; the plain function goes on
  if (x > 5 || x < -5) return tanhExact(x);
  return 1 - 2 / (exp2(2 * LOG2_E * x) + 1);
}
export function saturate(x: Float64Array, from: number, to: number, gain: number, bias: number): void {
  const t = tanh(bias);
  const k = 1 / (1 - t * t);
  for (let i = from; i < to; i++) x[i] = k * (tanh(gain * x[i] + bias) - t);
}

/** From this step on the antiderivative is divided; below, the mean is that of the ends with a correction, within 2e-6. */
const STEEP = 0.15;
/** ln cosh(x) + ln 2, the antiderivative of tanh. */
export const tanhIntegral = (x: number): number => abs(x) + Math.log1p(Math.exp(-2 * abs(x)));

/**
 * Saturation by the antiderivative (J. D. Parker, V. Zavalishin, E. Le Bivic, DAFx 2016; S. Bilbao, F. Esqueda,
 * J. D. Parker, V. Välimäki, IEEE Signal Processing Letters 24(7), 2017; both from memory): the mean of the curve on the
 * way from one sample to the next. On a short way that is the mean of both ends less d/12 · (f'(b) − f'(a)) (Euler and
 * Maclaurin), with f' = 1 − tanh². s: the last input behind the drive, a place that is not used, the last output.
 */
export function saturateMean(
  x: Float64Array,
  from: number,
  to: number,
  gain: number,
  bias: number,
  s: Float64Array,
): void {
  const t = tanhExact(bias);
  const k = 0.5 / (1 - t * t);
  let last = s[0] + bias;
  let before = s[2];
  let p = tanhExact(last);
  for (let i = from; i < to; i++) {
    const u = gain * x[i] + bias;
    const q = tanhExact(u);
    const d = u - last;
    const isSteep = d > STEEP || d < -STEEP;
    const mean = isSteep
      ? (tanhIntegral(u) - tanhIntegral(last)) / d
      : 0.5 * (p + q) + (d / 12) * (q * q - p * p);
    const y = mean - t;
    // the mean delays by half a sample; that of two outputs makes it a whole one
    x[i] = k * (y + before);
    before = y;
    last = u;
    p = q;
  }
  s[0] = last - bias;
  s[2] = before;
}

/** Linear to 1 − s, then a parabola that arrives level at 1 (reached at 1 + s). */
export function clip(x: number, s: number): number {
  const a = abs(x);
  const lo = 1 - s;
  let y = a;
  if (a >= 1 + s) y = 1;
  else if (a > lo) y = a - ((a - lo) * (a - lo)) / (4 * s);
  return x < 0 ? -y : y;
}

/** Antiderivative of `clip`, zero at 0, even. */
export function clipIntegral(x: number, s: number): number {
  const a = abs(x);
  const lo = 1 - s;
  const hi = 1 + s;
  if (a <= lo) return 0.5 * a * a;
  if (a >= hi) {
    const d = hi - lo;
    return 0.5 * hi * hi - (s > 0 ? (d * d * d) / (12 * s) : 0) + (a - hi);
  }
  const d = a - lo;
  return 0.5 * a * a - (d * d * d) / (12 * s);
}

/**
 * Clipping by the antiderivative (see clipper.ts); s: the last input, a place that is not used, the last
 * output.
 */
export function clipBlock(
  x: Float64Array,
  from: number,
  to: number,
  gain: number,
  ceiling: number,
  soft: number,
  s: Float64Array,
): void {
  let last = s[0];
  let integral = clipIntegral(last, soft);
  let before = s[2];
  for (let i = from; i < to; i++) {
    const u = x[i] * gain;
    const f = clipIntegral(u, soft);
    const d = u - last;
    const y = d > 1e-7 || d < -1e-7 ? (f - integral) / d : clip(0.5 * (u + last), soft);
    // the integral delays by half a sample; the mean of two outputs makes that a whole one
    x[i] = 0.5 * ceiling * (y + before);
    before = y;
    last = u;
    integral = f;
  }
  s[0] = last;
  s[2] = before;
}

/** The largest magnitude of three filters at n places of a window; h: their taps, interleaved. */
export function tallest(x: Float64Array, n: number, h: Float64Array): number {
  let most = 0;
  for (let i = 0; i < n; i++) {
    let a = 0;
    let b = 0;
    let c = 0;
    for (let j = 0, k = i; j < h.length; j += 3, k++) {
      const v = x[k];
      a += h[j] * v;
      b += h[j + 1] * v;
      c += h[j + 2] * v;
    }
    most = Math.max(most, Math.abs(a), Math.abs(b), Math.abs(c));
  }
  return most;
}

/** Sources of one sum: pairs of buffers with a gain for each side, used from 0 to `count`. */
export class MixList {
  count = 0;
  readonly l: Float64Array[] = [];
  readonly r: Float64Array[] = [];
  readonly gl: number[] = [];
  readonly gr: number[] = [];
  push(l: Float64Array, r: Float64Array, gl: number, gr: number): void {
    const k = this.count++;
    this.l[k] = l;
    this.r[k] = r;
    this.gl[k] = gl;
    this.gr[k] = gr;
  }
}

/**
 * Adds all sources of a list to l and r; four at a time, so that the sum is read and written once for all of
 * them.
 */
export function mix(l: Float64Array, r: Float64Array, n: number, m: MixList): void {
  let k = 0;
  for (; k + 3 < m.count; k += 4) {
    sum4(l, n, m.l[k], m.l[k + 1], m.l[k + 2], m.l[k + 3], m.gl[k], m.gl[k + 1], m.gl[k + 2], m.gl[k + 3]);
    sum4(r, n, m.r[k], m.r[k + 1], m.r[k + 2], m.r[k + 3], m.gr[k], m.gr[k + 1], m.gr[k + 2], m.gr[k + 3]);
  }
  for (; k < m.count; k++) {
    sum1(l, n, m.l[k], m.gl[k]);
    sum1(r, n, m.r[k], m.gr[k]);
  }
}

function sum4(
  d: Float64Array,
  n: number,
  a: Float64Array,
  b: Float64Array,
  c: Float64Array,
  e: Float64Array,
  ga: number,
  gb: number,
  gc: number,
  ge: number,
): void {
  for (let i = 0; i < n; i++) d[i] += ga * a[i] + gb * b[i] + (gc * c[i] + ge * e[i]);
}

function sum1(d: Float64Array, n: number, a: Float64Array, g: number): void {
  let i = 0;
  for (const m = n - 3; i < m; i += 4) {
    const w = d[i] + g * a[i];
    const x = d[i + 1] + g * a[i + 1];
    const y = d[i + 2] + g * a[i + 2];
    const z = d[i + 3] + g * a[i + 3];
    d[i] = w;
    d[i + 1] = x;
    d[i + 2] = y;
    d[i + 3] = z;
  }
  for (; i < n; i++) d[i] += g * a[i];
}

/**
 * n 32-bit numbers in the second half of the place of n doubles become those doubles, times a gain; true when one is no
 * finite number. Each double is written where the numbers before it were read already.
 * @param floats the place of `x`, as 32-bit numbers
 */
export function widen(x: Float64Array, floats: Float32Array, n: number, gain: number): boolean {
  let sum = 0;
  for (let i = 0; i < n; i++) {
    const one = gain * floats[n + i];
    x[i] = one;
    sum += one * 0;
  }
  return sum !== 0;
}

/** Whether any of the first n samples of either side is no finite number: x · 0 is 0 for all others. */
export function unclean(l: Float64Array, r: Float64Array, n: number): boolean {
  let sum = 0;
  let more = 0;
  for (let i = 0; i < n; i++) {
    sum += l[i] * 0;
    more += r[i] * 0;
  }
  return sum + more !== 0;
}
