/**
 * Peaks between samples: out[i] becomes at least the largest magnitude that filters make at n places of x. A filter and
 * its mirror image go together: what they share works on the sums of samples that lie alike to either side, what they
 * differ by on the differences, so that two filters cost as much as one.
 * @param x the two samples around the first place are x[from − 1] and x[from]
 * @param h for each tap, from the inside out, the shares of all pairs, even and odd in turn; an even number of pairs
 */
export function peaks(
  x: Float64Array,
  from: number,
  n: number,
  h: Float64Array,
  taps: number,
  out: Float64Array,
  at: number,
): void {
  const row = h.length / taps;
  for (let i = 0; i < n; i++) {
    const place = from + i;
    let most = out[at + i];
    for (let f = 0; f < row; f += 2) {
      let even = 0;
      let odd = 0;
      for (let j = 0, k = f; j < taps; j++, k += row) {
        const left = x[place - 1 - j];
        const right = x[place + j];
        even += h[k] * (right + left);
        odd += h[k + 1] * (right - left);
      }
      const height = Math.abs(even) + Math.abs(odd);
      if (height > most) most = height;
    }
    out[at + i] = most;
  }
}
