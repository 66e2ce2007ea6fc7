import { lazily } from '../../model/lazily.ts';
import { sinc } from '../interpolate.ts';
import { kaiser } from '../math.ts';

/** Taps of an interpolator, and how many places between two samples have taps of their own. */
export const BETWEEN_TAPS = 16;
export const BETWEEN_PHASES = 256;

/** values of the table of taps */
export const BETWEEN_SIZE = (BETWEEN_PHASES + 2) * BETWEEN_TAPS;

/**
 * Windowed sinc (Kaiser, β 5; 16 taps) at 256 places between two samples; between these the taps are
 * interpolated in a straight line. Each place passes a constant unchanged. Within 0.1 dB to 0.38 of the rate. Made when
 * it is needed first: a page that only shows things does not wait for it.
 */
export const betweenTable = lazily((): Float64Array => {
  const out = new Float64Array(BETWEEN_SIZE);
  for (let p = 0; p <= BETWEEN_PHASES + 1; p++) {
    const taps = out.subarray(p * BETWEEN_TAPS, (p + 1) * BETWEEN_TAPS);
    for (let k = 0; k < BETWEEN_TAPS; k++) {
      const t = k - BETWEEN_TAPS / 2 + 1 - p / BETWEEN_PHASES;
      taps[k] = sinc(t) * kaiser(t / (BETWEEN_TAPS / 2), 5);
    }
    const sum = taps.reduce((a, b) => a + b, 0);
    taps.forEach((v, k) => (taps[k] = v / sum));
  }
  return out;
});

/**
 * A delay line read between its samples, at n moments after each other.
 * @param ring its first 16 samples stand behind its end once more
 * @param at the place that is written next at the first moment
 * @param times how long ago, in samples, at each moment (1: the last sample); at least half the taps. What was there
 * comes out in their place
 */
export function between(ring: Float64Array, mask: number, at: number, times: Float64Array, n: number): void {
  const shares = betweenTable();
  for (let k = 0; k < n; k++) {
    const d = times[k];
    const whole = d | 0;
    const place = (1 - (d - whole)) * BETWEEN_PHASES;
    const p = place | 0;
    const part = place - p;
    const h = p * BETWEEN_TAPS;
    const i = (at + k - whole - BETWEEN_TAPS / 2) & mask;
    let y = 0;
    for (let j = 0; j < BETWEEN_TAPS; j++) {
      const a = shares[h + j];
      y += (a + part * (shares[h + BETWEEN_TAPS + j] - a)) * ring[i + j];
    }
    times[k] = y;
  }
}
