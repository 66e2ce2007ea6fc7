import { poleFor } from '../math.ts';

/** How the gain comes back: from the least gain that is needed now to the gain that is there. */
export interface Release {
  /** @param ms time of the release */
  set(ms: number): void;
  /** the gain for the next sample, from the least gain that the window needs */
  next(low: number): number;
  reset(): void;
}

/** Goes down at once and comes back exponentially. */
export class PlainRelease implements Release {
  private hold = 1;
  private pole = 1;
  constructor(private readonly sampleRate: number) {}
  set(ms: number): void {
    this.pole = poleFor(ms, this.sampleRate);
  }
  next(low: number): number {
    const { hold } = this;
    const now = low < hold ? low : hold + this.pole * (low - hold);
    this.hold = now > 0.9999999 ? 1 : now;
    return this.hold;
  }
  reset(): void {
    this.hold = 1;
  }
}

/** Longer than half a wave of the lowest note that is to stay clean (16 Hz) leaves between two of its peaks. */
const HOLD_MS = 32;
/** How slowly sustained reduction is taken for granted, and how much longer than the release it stays. */
const SETTLE_MS = 60;
const LONGER = 4;
const LEAST_SLOW_MS = 240;

/**
 * Comes back exponentially, but no further than to what was needed all along: what the last 32 ms and the 32 ms before
 * both needed moves a slow gain. A single peak does not touch it; sustained sound takes it with it, and a low note is
 * then held by a gain that stands still instead of one that breathes with each wave (two time constants after each
 * other are common practice).
 */
export class AdaptingRelease implements Release {
  private hold = 1;
  private slow = 1;
  private pole = 1;
  private back = 1;
  private readonly settle: number;
  private readonly step: number;
  /** least gains of the last milliseconds, the place of the one that is being made, and how much of it is left */
  private readonly lows = new Float64Array(2 * HOLD_MS + 1).fill(1);
  private at = 0;
  private left: number;
  /** of the last 32 ms and of those before */
  private recent = 1;
  private older = 1;

  constructor(private readonly sampleRate: number) {
    this.step = this.left = Math.round(sampleRate / 1000);
    this.settle = poleFor(SETTLE_MS, sampleRate);
  }
  set(ms: number): void {
    this.pole = poleFor(ms, this.sampleRate);
    this.back = poleFor(Math.max(LEAST_SLOW_MS, ms * LONGER), this.sampleRate);
  }
  next(low: number): number {
    if (this.left-- === 0) this.turn();
    if (low < this.lows[this.at]) this.lows[this.at] = low;
    if (low < this.recent) this.recent = low;
    const { hold, recent, older } = this;
    const needed = recent > older ? recent : older;
    let { slow } = this;
    slow += (needed < slow ? this.settle : this.back) * (needed - slow);
    if (slow > 0.9999999) slow = 1;
    this.slow = slow;
    const goal = low < slow ? low : slow;
    const now = goal < hold ? goal : hold + this.pole * (goal - hold);
    this.hold = now > 0.9999999 ? 1 : now;
    return this.hold;
  }
  /** A new millisecond; the oldest one is forgotten. */
  private turn(): void {
    this.left = this.step - 1;
    const { lows } = this;
    this.at = (this.at + 1) % lows.length;
    lows[this.at] = 1;
    this.recent = this.older = 1;
    for (let k = 1; k < lows.length; k++) {
      const low = lows[(this.at + k) % lows.length];
      if (k <= HOLD_MS && low < this.older) this.older = low;
      if (k > HOLD_MS && low < this.recent) this.recent = low;
    }
  }
  reset(): void {
    this.hold = this.slow = this.recent = this.older = 1;
    this.lows.fill(1);
  }
}
