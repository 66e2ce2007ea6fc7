import { PEAK_FILTER as FILTER, PEAK_HALF as HALF, PEAK_NORM as NORM } from '../devices/interpolate.ts';

// taken out of the global object once: a look-up per sample is slow in sandboxed test runs
const { floor, log10, max, min } = Math;

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
  for (const x of channels) peak = scan(x, peak, sampleRate >= 96000 ? 2 : 1);
  return peak > 0 ? 20 * log10(peak) : -Infinity;
}

function scan(x: Float32Array, peak: number, stride: number): number {
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
  let loudest = 0;
  for (let k = 1; k < tops.length; k++) if (tops[k] > tops[loudest]) loudest = k;
  if (tops.length && tops[loudest] * NORM > peak) look(loudest);
  for (let k = 0; k < tops.length; k++) {
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
  const out = new Int32Array(Math.ceil(x.length / STRETCH));
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
