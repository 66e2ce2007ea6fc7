import { PeakFinder, type Grid } from './finder.ts';
import type { Release } from './release.ts';

export interface PassOptions {
  /** samples: the longest window, and how long a change of it fades */
  maxWindow: number;
  fade: number;
  maxBlock: number;
  grid: Grid;
  release: Release;
}

/**
 * One pass: needed gain → minimum over the window → release → mean over the window → multiply the delayed
 * sound.
 */
export class Pass {
  private readonly ring: Float64Array;
  private readonly ringR: Float64Array;
  /** the share that gets the same gain, where there is one */
  private share: { l: Float64Array; r: Float64Array } | null = null;
  private readonly mask: number;
  private readonly finder: PeakFinder;
  private readonly release: Release;
  private readonly late: number;
  private readonly fadeLength: number;
  /** monotonic queue of the minimum: gains and the times they came */
  private readonly qg: Float64Array;
  private readonly qt: Float64Array;
  private head = 0;
  private tail = 0;
  /** released gains over the window, and their sum */
  private readonly mean: Float64Array;
  private sum: number;
  private t = 0;
  private window: number;
  private peak = false;
  /** the gains of a block: with the window, and, while it fades, with the one before */
  private readonly gains: Float64Array;
  private readonly oldGains: Float64Array;
  /**
   * the window before the last change, its sum of gains, how many frames its fade still takes, and the window
   * that is asked for
   */
  private oldWindow = 1;
  private oldSum = 1;
  private fade = 0;
  private wanted = 1;

  constructor({ maxWindow, fade, maxBlock, grid, release }: PassOptions) {
    this.fadeLength = fade;
    this.late = grid.half;
    this.release = release;
    this.finder = new PeakFinder(grid, maxBlock);
    let size = 256;
    while (size < maxWindow + grid.half * 2 + 64) size *= 2;
    this.ring = new Float64Array(size);
    this.ringR = new Float64Array(size);
    this.mask = size - 1;
    this.qg = new Float64Array(size);
    this.qt = new Float64Array(size);
    this.mean = new Float64Array(size).fill(1);
    this.gains = new Float64Array(maxBlock);
    this.oldGains = new Float64Array(maxBlock);
    this.window = this.wanted = maxWindow;
    this.sum = maxWindow;
  }

  /** @param release ms; @param peak whether peaks between samples count */
  set(window: number, release: number, peak: boolean, immediate: boolean): void {
    this.release.set(release);
    this.peak = peak;
    if (window === this.window) {
      this.wanted = window;
      return;
    }
    // a change waits for the one before it to have faded over
    this.wanted = window;
    if (immediate) {
      this.window = this.oldWindow = window;
      this.fade = 0;
      this.sum = this.over(window);
    } else if (this.fade === 0) this.turn();
  }

  private turn(): void {
    this.oldWindow = this.window;
    this.oldSum = this.sum;
    this.window = this.wanted;
    this.sum = this.over(this.window);
    this.fade = this.fadeLength;
  }

  /** Sum of the released gains over the last so many samples. */
  private over(window: number): number {
    let s = 0;
    for (let k = 1; k <= window; k++) s += this.mean[(this.t - k) & this.mask];
    return s;
  }

  /**
   * Limits l and r (null: both sides are one) to a ceiling; a share of them gets the same gain.
   * @returns the deepest gain
   */
  process(
    l: Float64Array,
    r: Float64Array | null,
    n: number,
    ceiling: number,
    shareL: Float64Array | null,
    shareR: Float64Array | null,
  ): number {
    const heights = this.finder.find(l, r, n, ceiling, this.peak);
    const least = this.weigh(heights, n, ceiling);
    this.apply(l, this.ring, n);
    if (r) this.apply(r, this.ringR, n);
    if (shareL && shareR) {
      const share = (this.share ??= { l: this.ring.slice().fill(0), r: this.ring.slice().fill(0) });
      this.apply(shareL, share.l, n);
      this.apply(shareR, share.r, n);
    }
    this.t += n;
    this.fade = Math.max(0, this.fade - n);
    // the running sum is made anew once a block: it would drift
    this.sum = this.over(this.window);
    if (this.fade === 0 && this.wanted !== this.window) this.turn();
    if (this.t > 0x3fffffff) this.rewind();
    return Math.max(least, 1e-6);
  }

  /** Heights become gains. */
  private weigh(heights: Float64Array, n: number, ceiling: number): number {
    const { mask, qg, qt, mean, window, oldWindow, gains, oldGains, release } = this;
    let { head, tail, sum, oldSum, t } = this;
    let least = 1;
    for (let i = 0; i < n; i++, t++) {
      const need = heights[i] > ceiling ? ceiling / heights[i] : 1;
      // sliding minimum over the window and one sample to either side of it: a peak between two samples needs
      // both
      while (tail > head && qg[(tail - 1) & mask] >= need) tail--;
      qg[tail & mask] = need;
      qt[tail & mask] = t;
      tail++;
      while (qt[head & mask] < t - window - 1) head++;
      const hold = release.next(qg[head & mask]);
      sum += hold - mean[(t - window) & mask];
      if (i < this.fade) {
        oldSum += hold - mean[(t - oldWindow) & mask];
        oldGains[i] = oldSum / oldWindow;
      }
      mean[t & mask] = hold;
      const g = sum / window;
      gains[i] = g > 1 ? 1 : g;
      if (g < least) least = g;
    }
    this.head = head;
    this.tail = tail;
    this.oldSum = oldSum;
    return least;
  }

  /** x comes out as late as the window is long, times the gains. */
  private apply(x: Float64Array, ring: Float64Array, n: number): void {
    const { mask, gains, oldGains, fade, fadeLength } = this;
    const delay = this.window + this.late;
    const oldDelay = this.oldWindow + this.late;
    const moving = Math.min(fade, n);
    let { t } = this;
    for (let i = 0; i < moving; i++, t++) {
      ring[t & mask] = x[i];
      const now = ring[(t - delay) & mask] * gains[i];
      const w = (fade - i) / fadeLength;
      x[i] = now + w * (ring[(t - oldDelay) & mask] * oldGains[i] - now);
    }
    for (let i = moving; i < n; i++, t++) {
      ring[t & mask] = x[i];
      x[i] = ring[(t - delay) & mask] * gains[i];
    }
  }

  /** Brings the clock back by whole rings, so that indices stay small integers. */
  private rewind(): void {
    const by = this.t - (this.t & this.mask) - (this.mask + 1);
    this.t -= by;
    for (let k = this.head; k < this.tail; k++) this.qt[k & this.mask] -= by;
    const shift = this.head & ~this.mask;
    this.head -= shift;
    this.tail -= shift;
  }

  /** The right side goes on from where the left one is. */
  twin(): void {
    this.ringR.set(this.ring);
    this.finder.twin();
  }

  reset(): void {
    this.ring.fill(0);
    this.ringR.fill(0);
    this.share?.l.fill(0);
    this.share?.r.fill(0);
    this.mean.fill(1);
    this.head = this.tail = 0;
    this.sum = this.window;
    this.finder.reset();
    this.release.reset();
  }
}
