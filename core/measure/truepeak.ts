import { PEAK_FILTER as FILTER, PEAK_HALF as HALF, PEAK_NORM as NORM } from '../devices/interpolate.ts';

// taken out of the global object once: a look-up per sample is slow in sandboxed test runs
const { log10, max, min } = Math;

/**
 * True peak in dBTP: the largest magnitude of the signal oversampled 4 times (ITU-R BS.1770-5, annex 2; at 96 kHz and above the samples already lie that close, so 2 times). Stretches
 * that cannot exceed the peak found so far (their largest sample × the filter's L1 norm) are skipped, which changes nothing in the result.
 */
export function truePeak(channels: Float32Array[], sampleRate: number): number {
  let peak = 0;
  for (const x of channels) peak = scan(x, peak, sampleRate >= 96000 ? 2 : 1);
  return peak > 0 ? 20 * log10(peak) : -Infinity;
}

function scan(x: Float32Array, peak: number, stride: number): number {
  const STRETCH = 32;
  const taps = HALF * 2;
  // taps of the three phases between samples, interleaved, so that one pass reads each sample once; at high rates only the middle one
  const h = new Float64Array(taps * 3);
  for (let k = 0; k < taps; k++) for (let p = 1; p < 4; p++) h[k * 3 + p - 1] = stride === 1 || p === 2 ? FILTER[p][k] : 0;
  const window = new Float64Array(STRETCH + taps);
  for (let at = 0; at < x.length; at += STRETCH) {
    const end = min(x.length, at + STRETCH);
    const from = max(0, at - HALF), to = min(x.length, end + HALF);
    let top = 0;
    for (let i = from; i < to; i++) { const a = x[i] < 0 ? -x[i] : x[i]; if (a > top) top = a; }
    if (top * NORM <= peak) continue;
    for (let i = 0; i < window.length; i++) {
      const j = at - HALF + 1 + i;
      window[i] = j >= 0 && j < x.length ? x[j] : 0;
    }
    peak = convolve(window, h, end - at, taps, peak);
  }
  return peak;
}

function convolve(w: Float64Array, h: Float64Array, n: number, taps: number, peak: number): number {
  for (let i = 0; i < n; i++) {
    let a = 0, b = 0, c = 0;
    for (let k = 0, j = 0; k < taps; k++, j += 3) {
      const v = w[i + k];
      a += h[j] * v;
      b += h[j + 1] * v;
      c += h[j + 2] * v;
    }
    const d = w[i + HALF - 1];
    if (a > peak) peak = a; else if (-a > peak) peak = -a;
    if (b > peak) peak = b; else if (-b > peak) peak = -b;
    if (c > peak) peak = c; else if (-c > peak) peak = -c;
    if (d > peak) peak = d; else if (-d > peak) peak = -d;
  }
  return peak;
}
