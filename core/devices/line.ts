import { BETWEEN_PHASES as PHASES, BETWEEN_TAPS, betweenTable } from './kernels/between.ts';
import { between as readBetween, doubles } from './kernels/index.ts';
import { settled } from './math.ts';

/** How a line is read between its samples: the value t (0 … 1) of the way from ring[i] to ring[i + 1]. */
export type Between = (ring: Float64Array, i: number, mask: number, t: number) => number;

/** Moments that are read together at most. */
export const TOGETHER = 64;

/**
 * A delay line that is read between its samples (T. I. Laakso and others, "Splitting the unit delay", IEEE Signal
 * Processing Magazine 13(1), 1996).
 */
export class FractionalLine {
  readonly mask: number;
  /** its beginning stands behind its end once more, so that a reader's taps lie in one piece */
  private readonly ring: Float64Array;
  /** place of the next sample to be written */
  private at = 0;
  constructor(
    samples: number,
    private readonly between: Between = windowed,
  ) {
    let size = 16;
    while (size < samples + BETWEEN_TAPS + TOGETHER) size *= 2;
    this.ring = doubles(size + BETWEEN_TAPS);
    this.mask = size - 1;
  }
  write(x: number): void {
    const { at, ring, mask } = this;
    const clean = settled(x);
    ring[at] = clean;
    if (at < BETWEEN_TAPS) ring[mask + 1 + at] = clean;
    this.at = (at + 1) & mask;
  }
  /** The shortest time that can be read, in samples. */
  get least(): number {
    return this.between === windowed ? BETWEEN_TAPS / 2 : 2;
  }
  /** For how many moments a line may be read before what comes meanwhile is written, where no time is shorter. */
  ahead(shortest: number): number {
    const room = Math.floor(shortest) - this.least + 1;
    return Math.max(1, Math.min(TOGETHER, room));
  }
  /**
   * Reads n moments, of which `written` are written already.
   * @param times how long ago each, in samples (1: the last one before the moment); what was there comes out in place
   */
  read(times: Float64Array, n: number, written = 0): void {
    const { ring, mask, least, between } = this;
    const from = this.at - written;
    for (let k = 0; k < n; k++) if (times[k] < least) times[k] = least;
    if (between === windowed) {
      readBetween(ring, mask, from, times, n);
      return;
    }
    for (let k = 0; k < n; k++) {
      const whole = times[k] | 0;
      times[k] = between(ring, from + k - whole - 1, mask, 1 - (times[k] - whole));
    }
  }
  reset(): void {
    this.ring.fill(0);
  }
}

/** By 16 taps; see kernels/between.ts. */
export function windowed(ring: Float64Array, i: number, mask: number, t: number): number {
  const shares = betweenTable();
  const place = t * PHASES;
  const p = place | 0;
  const part = place - p;
  const h = p * BETWEEN_TAPS;
  let y = 0;
  for (let k = 0; k < BETWEEN_TAPS; k++) {
    const a = shares[h + k];
    y += (a + part * (shares[h + BETWEEN_TAPS + k] - a)) * ring[(i - BETWEEN_TAPS / 2 + 1 + k) & mask];
  }
  return y;
}

/** By a polynomial of third order. */
export function lagrange(ring: Float64Array, i: number, mask: number, t: number): number {
  const a = ring[(i - 1) & mask];
  const b = ring[i & mask];
  const c = ring[(i + 1) & mask];
  const d = ring[(i + 2) & mask];
  const u = t + 1;
  const v = t - 1;
  const w = t - 2;
  return (-a * t * v * w) / 6 + (b * u * v * w) / 2 - (c * u * t * w) / 2 + (d * u * t * v) / 6;
}
