import type { Params } from '../model/types.ts';

/** Names of two, three and four bands. */
const NAMES = [
  ['Low', 'High'],
  ['Low', 'Mid', 'High'],
  ['Low', 'Low mid', 'High mid', 'High'],
];

export const bandNames = (count: number): string[] => NAMES[count - 2];
export const bandName = (n: number, of: number): string => bandNames(of)[n - 1];

/** Crossover frequencies in rising order, at least a sixth of an octave apart. */
export function corners(p: Params, fs: number): number[] {
  const out = ['f1', 'f2', 'f3']
    .slice(0, Number(p.bands) - 1)
    .map((k) => Math.min(p[k] as number, 0.45 * fs))
    .sort((a, b) => a - b);
  for (let i = 1; i < out.length; i++) out[i] = Math.max(out[i], out[i - 1] * 1.125);
  return out;
}
