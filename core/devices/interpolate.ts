import { kaiser } from './math.ts';

export const PEAK_HALF = 12;

/**
 * Windowed sincs (Kaiser) of 2 · half taps for so many places from a sample on, up to the next: the first is the
 * sample itself. Each passes a constant unchanged.
 */
export const interpolators = (places: number, half: number, beta = 8): Float64Array[] =>
  Array.from({ length: places }, (_, p) => {
    const h = new Float64Array(half * 2);
    let sum = 0;
    for (let k = 0; k < h.length; k++) {
      const t = k - half + 1 - p / places;
      h[k] = sinc(t) * kaiser(t / half, beta);
      sum += h[k];
    }
    return h.map((v) => v / sum);
  });

/** No output of the filters exceeds the largest input times this: the sum of the magnitudes of the worst one's taps. */
export const normOf = (filters: readonly Float64Array[]): number =>
  Math.max(...filters.map((h) => h.reduce((a, b) => a + Math.abs(b), 0)));

/** What true peak is read with. */
export const PEAK_FILTER = interpolators(4, PEAK_HALF);
export const PEAK_NORM = normOf(PEAK_FILTER);

/**
 * The interpolator of ITU-R BS.1770-5, annex 2: 4 phases × 12 taps at 48 kHz (from memory). Meters that follow
 * the letter read with it, so a true-peak limiter has to keep under it as well.
 */
const QUARTER = [
  0.001708984375, 0.010986328125, -0.0196533203125, 0.033203125, -0.0594482421875, 0.1373291015625,
  0.97216796875, -0.102294921875, 0.047607421875, -0.026611328125, 0.014892578125, -0.00830078125,
];
const HALF = [
  -0.0291748046875, 0.029296875, -0.0517578125, 0.089111328125, -0.16650390625, 0.465087890625, 0.77978515625,
  -0.2003173828125, 0.1015625, -0.0582275390625, 0.0330810546875, -0.0189208984375,
];
export const ANNEX_FILTER: Float64Array[] = [QUARTER, HALF, HALF.toReversed(), QUARTER.toReversed()].map(
  (h) => Float64Array.from(h),
);
export const ANNEX_TAPS = 12;

export function sinc(t: number): number {
  return t === 0 ? 1 : Math.sin(Math.PI * t) / (Math.PI * t);
}
