/**
 * The two sums of a convolution that is done in parts: the first samples of the impulse response one by one, all others
 * as products of spectra.
 */

/** out[i] = Σ h[j] · x[from + i − j] for n samples; the `taps − 1` samples before x[from] are read, too. */
export function head(
  x: Float64Array,
  from: number,
  n: number,
  h: Float64Array,
  out: Float64Array,
  at: number,
): void {
  const taps = h.length;
  for (let i = 0; i < n; i++) {
    let sum = 0;
    for (let j = 0; j < taps; j++) sum += h[j] * x[from + i - j];
    out[at + i] = sum;
  }
}

/**
 * Adds the products of some parts of the impulse response with the blocks that they meet. A spectrum of N bins is N real
 * and N imaginary parts; what is real at half the rate stands in the imaginary part of bin 0.
 */
export interface Spectra {
  /** spectra of the last blocks, round and round; a spectrum every `stride` doubles, the first one at `first` */
  blocks: Float64Array;
  first: number;
  stride: number;
  count: number;
  /** spectra of the parts, one after the other */
  parts: Float64Array;
  bins: number;
}

/** @param newest place of the latest block; part p meets the block p places before it; parts from … to − 1 */
export function multiply(sum: Float64Array, s: Spectra, newest: number, from: number, to: number): void {
  const { blocks, first, stride, count, parts, bins } = s;
  for (let p = from; p < to; p++) {
    const x = first + ((newest - p + count) % count) * stride;
    const h = p * 2 * bins;
    sum[0] += blocks[x] * parts[h];
    sum[bins] += blocks[x + bins] * parts[h + bins];
    for (let k = 1; k < bins; k++) {
      const [a, b] = [blocks[x + k], blocks[x + bins + k]];
      const [c, d] = [parts[h + k], parts[h + bins + k]];
      sum[k] += a * c - b * d;
      sum[bins + k] += a * d + b * c;
    }
  }
}
