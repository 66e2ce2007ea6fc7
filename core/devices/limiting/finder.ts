import { copy, doubles, peaks } from '../kernels/index.ts';
import { lazily } from '../../model/lazily.ts';
import { ANNEX_FILTER, ANNEX_TAPS, interpolators, normOf } from '../interpolate.ts';

/** Where peaks between samples are looked for. */
export interface Grid {
  /** samples to either side that a place is interpolated from: so many are waited for */
  half: number;
  filters: () => Filters;
}
interface Filters {
  /** what `peaks` takes: all places but the sample itself */
  taps: Float64Array;
  /** no filter makes more of the largest sample */
  norm: number;
}

/**
 * @param places from one sample to the next, the sample itself included; an even number
 * @param beta of the filters' window: the smaller, the closer they come to half the rate
 */
export function gridOf(places: number, half: number, beta?: number): Grid {
  const filters = lazily(() => {
    const between = interpolators(places, half, beta).slice(1);
    return { taps: inPairs(between), norm: normOf(between) };
  });
  return { half, filters };
}

/**
 * Filters, each a mirror image of another one or of itself, as `peaks` takes them. The first of a pair is half the sum
 * and half the difference of both; the other one is their difference.
 */
function inPairs(filters: readonly Float64Array[]): Float64Array {
  const half = filters[0].length / 2;
  const pairs = Math.ceil(filters.length / 2);
  const row = Math.ceil(pairs / 2) * 4;
  const out = new Float64Array(row * half);
  for (let p = 0; p < pairs; p++) {
    for (let j = 0; j < half; j++) {
      const [left, right] = [filters[p][half - 1 - j], filters[p][half + j]];
      out[j * row + 2 * p] = 0.5 * (right + left);
      out[j * row + 2 * p + 1] = 0.5 * (right - left);
    }
  }
  return out;
}

/** Backwards, since a filter meets the latest sample first. */
const annexTaps = lazily(() => inPairs(ANNEX_FILTER.map((h) => h.toReversed())));
const ANNEX_HALF = ANNEX_TAPS / 2;

/**
 * Says of each sample how high the sound goes at it or before the next one: by interpolation, and by the letter of
 * BS.1770-5, whose filter reaches from 5 samples before to 6 behind.
 */
export class PeakFinder {
  private readonly left: Float64Array;
  private readonly right: Float64Array;
  private readonly taps: Float64Array;
  private readonly annex: Float64Array;
  private readonly norm: number;
  private readonly reach: number;
  /** for how many samples a peak between samples may still be over the ceiling */
  private hot = 0;
  /** the height at each sample of the block, `half` samples late */
  private readonly heights: Float64Array;

  constructor(
    private readonly grid: Grid,
    maxBlock: number,
  ) {
    this.reach = grid.half * 2;
    // the kernel looks at places in fours
    this.left = doubles(this.reach + maxBlock + 4);
    this.right = doubles(this.reach + maxBlock + 4);
    this.heights = doubles(maxBlock + 4);
    const { taps, norm } = grid.filters();
    this.taps = doubles(taps.length);
    this.taps.set(taps);
    this.norm = norm;
    const annex = annexTaps();
    this.annex = doubles(annex.length);
    this.annex.set(annex);
  }

  /** @param r null where both sides are one; `between`: the peaks between samples, too */
  find(l: Float64Array, r: Float64Array | null, n: number, ceiling: number, between: boolean): Float64Array {
    const { left, right, reach, heights, grid } = this;
    copy(left, reach, l, 0, n);
    if (r) copy(right, reach, r, 0, n);
    const now = reach - grid.half;
    for (let i = 0; i < n; i++) {
      const a = Math.abs(left[now + i]);
      const b = r ? Math.abs(right[now + i]) : 0;
      heights[i] = a > b ? a : b;
    }
    if (between) this.look(l, r, n, ceiling / this.norm);
    copy(left, 0, left, n, reach);
    if (r) copy(right, 0, right, n, reach);
    return heights;
  }

  /** A filter only reaches the ceiling where a sample over ceiling ÷ its norm lies within it. */
  private look(l: Float64Array, r: Float64Array | null, n: number, safe: number): void {
    let from = -1;
    for (let i = 0; i < n; i++) {
      const isLoud = Math.abs(l[i]) > safe || (r !== null && Math.abs(r[i]) > safe);
      if (isLoud) this.hot = this.reach + 1;
      else if (this.hot > 0) this.hot--;
      if (this.hot > 0 && from < 0) from = i;
      if (this.hot === 0 && from >= 0) {
        this.stretch(r !== null, from, i - from);
        from = -1;
      }
    }
    if (from >= 0) this.stretch(r !== null, from, n - from);
  }

  private stretch(sides: boolean, from: number, n: number): void {
    const { left, right, taps, annex, grid, heights } = this;
    const next = this.reach - grid.half + 1 + from;
    peaks(left, next, n, taps, grid.half, heights, from);
    peaks(left, next, n, annex, ANNEX_HALF, heights, from);
    if (!sides) return;
    peaks(right, next, n, taps, grid.half, heights, from);
    peaks(right, next, n, annex, ANNEX_HALF, heights, from);
  }

  twin(): void {
    this.right.set(this.left);
  }
  reset(): void {
    this.left.fill(0);
    this.right.fill(0);
    this.hot = 0;
  }
}
