import { kaiser } from './math.ts';

const PHASES = 4;
export const PEAK_HALF = 12;

/**
 * Interpolator of 4 phases × 24 taps: windowed sinc (Kaiser, β 8), each phase scaled to pass a constant
 * unchanged.
 */
export const PEAK_FILTER: Float64Array[] = Array.from({ length: PHASES }, (_, p) => {
  const h = new Float64Array(PEAK_HALF * 2);
  let sum = 0;
  for (let k = 0; k < h.length; k++) {
    const t = k - PEAK_HALF + 1 - p / PHASES;
    h[k] = sinc(t) * kaiser(t / PEAK_HALF, 8);
    sum += h[k];
  }
  return h.map((v) => v / sum);
});
/**
 * No output of the filter exceeds the largest input times this: the sum of the taps' magnitudes of the worst
 * phase.
 */
export const PEAK_NORM = Math.max(...PEAK_FILTER.map((h) => h.reduce((a, b) => a + Math.abs(b), 0)));

export function sinc(t: number): number {
  return t === 0 ? 1 : Math.sin(Math.PI * t) / (Math.PI * t);
}
