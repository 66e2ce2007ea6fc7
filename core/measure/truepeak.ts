import { PEAK_FILTER as FILTER, PEAK_HALF as HALF, PEAK_NORM as NORM } from '../devices/interpolate.ts';

// taken out of the global object once: a look-up per sample is slow in sandboxed test runs
const { ceil, floor, log10, max, min } = Math;

/** Samples that are looked at together; longer than the filter reaches to either side. */
const STRETCH = 16;

/**
 * True peak in dBTP: the largest magnitude of the signal oversampled 4 times (ITU-R BS.1770-5, annex 2; at 96
 * kHz and above the samples already lie that close, so 2 times). The stretch with the largest sample
 * is looked at first; others that cannot exceed the peak found so far (their largest sample × the filter's L1
 * norm) are skipped, which changes nothing in the result.
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
    this.kept.fill(0, this.filled);
    const left = ceil((this.filled - BESIDE * STRETCH) / STRETCH);
    this.peak = scan(this.kept, this.peak, this.stride, BESIDE, BESIDE + min(left, PIECE + BESIDE));
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
  const taps = HALF * 2;
  // taps of the three phases between samples, interleaved, so that one pass reads each sample once; at high
  // rates only the middle one
  const h = new Float64Array(taps * 3);
  for (let k = 0; k < taps; k++) {
    for (let p = 1; p < 4; p++) h[k * 3 + p - 1] = stride === 1 || p === 2 ? FILTER[p][k] : 0;
  }
  const window = new Float64Array(STRETCH + taps);
  const tops = largest(x);
  const look = (k: number) => {
    const at = k * STRETCH;
    for (let i = 0; i < window.length; i++) {
      const j = at - HALF + 1 + i;
      window[i] = j >= 0 && j < x.length ? x[j] : 0;
    }
    peak = convolve(window, h, min(x.length, at + STRETCH) - at, taps, peak);
  };
  let loudest = first;
  for (let k = first + 1; k < last; k++) if (tops[k] > tops[loudest]) loudest = k;
  if (first < last && tops[loudest] * NORM > peak) look(loudest);
  for (let k = first; k < last; k++) {
    if (max(tops[k], k > 0 ? tops[k - 1] : 0, k + 1 < tops.length ? tops[k + 1] : 0) * NORM > peak) look(k);
  }
  return peak;
}

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

function convolve(w: Float64Array, h: Float64Array, n: number, taps: number, peak: number): number {
  for (let i = 0; i < n; i++) {
    let a = 0;
    let b = 0;
    let c = 0;
    for (let k = 0, j = 0; k < taps; k++, j += 3) {
      const v = w[i + k];
      a += h[j] * v;
      b += h[j + 1] * v;
      c += h[j + 2] * v;
    }
    const d = w[i + HALF - 1];
    if (a > peak) peak = a;
    else if (-a > peak) peak = -a;
    if (b > peak) peak = b;
    else if (-b > peak) peak = -b;
    if (c > peak) peak = c;
    else if (-c > peak) peak = -c;
    if (d > peak) peak = d;
    else if (-d > peak) peak = -d;
  }
  return peak;
}
