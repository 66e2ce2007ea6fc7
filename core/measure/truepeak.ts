import { doubles, tallest } from '../devices/kernels/index.ts';
import { lazily } from '../model/lazily.ts';
import { PEAK_FILTER as FILTER, PEAK_HALF as HALF, PEAK_NORM as NORM } from '../devices/interpolate.ts';

// taken out of the global object once: a look-up per sample is slow in sandboxed test runs
const { ceil, floor, log10, max, min } = Math;

/** Samples that are looked at together; longer than the filter reaches to either side. */
const STRETCH = 16;

/**
 * True peak in dBTP: the largest magnitude of the signal oversampled 4 times (ITU-R BS.1770-5, annex 2; at 96
 * kHz and above the samples already lie that close, so 2 times). The stretch with the largest sample
 * is looked at first; others that cannot exceed the peak found so far (their largest sample × the filter's L1
 * norm, or a closer bound) are skipped, which changes nothing in the result.
 */
export function truePeak(channels: Float32Array[], sampleRate: number): number {
  let peak = 0;
  for (const x of channels) peak = scan(x, peak, strideAt(sampleRate));
  return decibels(peak);
}

const strideAt = (sampleRate: number): number => (sampleRate >= 96000 ? 2 : 1);
const decibels = (peak: number): number => (peak > 0 ? 20 * log10(peak) : -Infinity);

/** Stretches beside those that are looked at: the filter reaches into them. */
const BESIDE = 2;
/** Stretches that a piece is gathered to before it is looked at. */
const PIECE = 512;

/** The true peak of one channel that comes in pieces: the same figure as of the whole. */
export class TruePeakMeter {
  private peak = 0;
  private readonly stride: number;
  /** what came and still matters; in front what lies beside the first stretch that is not looked at yet */
  private readonly kept = new Float32Array((PIECE + 2 * BESIDE) * STRETCH);
  private filled = BESIDE * STRETCH;

  constructor(sampleRate: number) {
    this.stride = strideAt(sampleRate);
  }
  add(x: Float32Array): void {
    for (let from = 0; from < x.length;) {
      const n = min(x.length - from, this.kept.length - this.filled);
      this.kept.set(x.subarray(from, from + n), this.filled);
      this.filled += n;
      from += n;
      if (this.filled === this.kept.length) this.look(PIECE);
    }
  }
  /** dBTP of all that came. */
  end(): number {
    const rest = this.kept.subarray(0, this.filled);
    this.peak = scan(rest, this.peak, this.stride, BESIDE);
    return decibels(this.peak);
  }
  private look(stretches: number): void {
    this.peak = scan(this.kept, this.peak, this.stride, BESIDE, BESIDE + stretches);
    this.kept.copyWithin(0, stretches * STRETCH);
    this.filled -= stretches * STRETCH;
  }
}

/** @param first, last which stretches are looked at; what lies beside them only counts for the filter */
function scan(
  x: Float32Array,
  peak: number,
  stride: number,
  first = 0,
  last = ceil(x.length / STRETCH),
): number {
  const { all, middle, window } = tables();
  const h = stride === 1 ? all : middle;
  const tops = largest(x);
  let loudest = first;
  for (let k = first + 1; k < last; k++) if (tops[k] > tops[loudest]) loudest = k;
  if (first < last && tops[loudest] * NORM > peak) peak = look(x, loudest, h, window, peak);
  for (let k = first; k < last; k++) {
    if (max(tops[k], k > 0 ? tops[k - 1] : 0, k + 1 < tops.length ? tops[k + 1] : 0) * NORM > peak) {
      peak = look(x, k, h, window, peak);
    }
  }
  return peak;
}

/** The largest of what was found and of one stretch. */
function look(x: Float32Array, k: number, h: Float64Array, window: Float64Array, peak: number): number {
  const at = k * STRETCH;
  const n = min(x.length, at + STRETCH) - at;
  const from = at - HALF + 1;
  if (from >= 0 && from + window.length <= x.length) {
    for (let i = 0; i < window.length; i++) window[i] = x[from + i];
  } else {
    for (let i = 0; i < window.length; i++) window[i] = x[from + i] ?? 0;
  }
  for (let i = HALF - 1; i < HALF - 1 + n; i++) {
    const height = Math.abs(window[i]);
    if (height > peak) peak = height;
  }
  return boundOf(window) > peak ? max(peak, tallest(window, n, h)) : peak;
}

const TAPS = HALF * 2;
/**
 * Taps of the three phases between samples, interleaved, so that one pass reads each sample once; at high rates only
 * the middle one.
 */
function interleaved(phases: readonly number[]): Float64Array {
  const h = doubles(TAPS * 3);
  for (const p of phases) for (let k = 0; k < TAPS; k++) h[3 * k + p - 1] = FILTER[p][k];
  return h;
}
/** `window`: a stretch with what the filter reaches of its neighbours */
const tables = lazily(() => ({
  all: interleaved([1, 2, 3]),
  middle: interleaved([2]),
  window: doubles(STRETCH + TAPS),
}));

/**
 * The largest magnitude in each stretch. Found on the bits: without its sign a float orders like a whole
 * number (IEEE 754), and the larger of two whole numbers needs no branch, while which sample is the largest
 * cannot be guessed; twice as fast.
 */
function largest(x: Float32Array): Float32Array {
  const bits = new Int32Array(x.buffer, x.byteOffset, x.length);
  const out = new Int32Array(ceil(x.length / STRETCH));
  const whole = floor(x.length / STRETCH);
  for (let k = 0, i = 0; k < whole; k++, i += STRETCH) {
    let a = 0;
    let b = 0;
    for (let j = i; j < i + STRETCH; j += 2) {
      const p = ((bits[j] & 0x7fffffff) - a) | 0;
      const q = ((bits[j + 1] & 0x7fffffff) - b) | 0;
      a = (a + (p & ~(p >> 31))) | 0;
      b = (b + (q & ~(q >> 31))) | 0;
    }
    out[k] = a > b ? a : b;
  }
  for (let i = whole * STRETCH; i < x.length; i++) out[whole] = max(out[whole], bits[i] & 0x7fffffff);
  return new Float32Array(out.buffer);
}

/**
 * A bound on what the filter makes of a stretch that is close where the sound is low against the rate: each phase is a
 * straight line between two samples, plus a rest. The rest's first two moments are taken up by two taps of their own
 * (`even`: the sum of their magnitudes); what is left is a filter of second differences (`bent`: its magnitudes), so
 * that nothing exceeds (1 + even) × the largest sample + bent × the largest second difference.
 */
const bound = lazily((): { even: number; bent: number } => {
  let [even, bent] = [0, 0];
  for (let p = 1; p < FILTER.length; p++) {
    const rest = Float64Array.from(FILTER[p]);
    rest[HALF - 1] -= 1 - p / FILTER.length;
    rest[HALF] -= p / FILTER.length;
    const sum = rest.reduce((a, b) => a + b, 0);
    const moment = rest.reduce((a, b, k) => a + (k - HALF + 1) * b, 0);
    rest[HALF] -= moment;
    rest[HALF - 1] -= sum - moment;
    even = max(even, Math.abs(moment) + Math.abs(sum - moment));
    // twice summed up
    let [once, twice, size] = [0, 0, 0];
    for (const tap of rest) {
      once += tap;
      twice += once;
      size += Math.abs(twice);
    }
    bent = max(bent, size);
  }
  return { even, bent };
});

/** What the filter makes of the stretch in a window at most. */
function boundOf(w: Float64Array): number {
  let [tall, bent] = [0, 0];
  for (let i = HALF - 1; i < HALF + STRETCH; i++) {
    const height = Math.abs(w[i]);
    if (height > tall) tall = height;
  }
  for (let i = 1; i < w.length - 1; i++) {
    const bend = Math.abs(w[i - 1] - 2 * w[i] + w[i + 1]);
    if (bend > bent) bent = bend;
  }
  const shares = bound();
  return (1 + shares.even) * tall + shares.bent * bent;
}
