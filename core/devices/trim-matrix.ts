import { dbToGain } from './math.ts';
import type { Params } from '../model/types.ts';

/** Matrix [ll, lr, rl, rr]: left out = ll·L + lr·R. Order: swap, polarity, mono, balance, gain. */
export function trimMatrix(p: Params): [number, number, number, number] {
  let m = p.swap ? [0, 1, 1, 0] : [1, 0, 0, 1];
  const [pl, pr] = [p.polarityL ? -1 : 1, p.polarityR ? -1 : 1];
  m = [m[0] * pl, m[1] * pl, m[2] * pr, m[3] * pr];
  if (p.mono) {
    const [a, b] = [(m[0] + m[2]) / 2, (m[1] + m[3]) / 2];
    m = [a, b, a, b];
  }
  const bal = (p.balance as number) / 100;
  const g = dbToGain(p.gain as number);
  const [gl, gr] = [g * Math.min(1, 1 - bal), g * Math.min(1, 1 + bal)];
  return [m[0] * gl, m[1] * gl, m[2] * gr, m[3] * gr];
}
