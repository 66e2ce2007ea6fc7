import type { Params } from '../model/types.ts';

/**
 * One copy: cents, ms and place (−1 … 1). The outer ones are the furthest out of tune; delays differ so that
 * no two copies comb alike.
 */
export function voiceOf(p: Params, k: number): { cents: number; ms: number; place: number } {
  const n = Number(p.voices);
  const side = k % 2 === 0 ? -1 : 1;
  const rank = 1 - Math.floor(k / 2) * 0.45;
  return {
    cents: -side * rank * (p.detune as number),
    ms: (p.delay as number) * (1 + 0.37 * k),
    place: (n === 3 && k === 2 ? 0 : side * rank) * ((p.spread as number) / 100),
  };
}
