import type { Params } from '../../model/types.ts';
import { squared } from './apart.ts';

/** A band of an EQ that is switched on. */
export interface Band {
  type: string;
  /** octaves above 1 Hz */
  at: number;
  /** dB; 0 of those that have none */
  gain: number;
  /** octaves */
  q: number;
  /** dB per octave */
  slope: number;
  /** how far it is from not being there */
  alone: number;
  /** 0 … 1: how much where it stands counts */
  weight: number;
}

/** Bands that are on, by their type. */
export type Bands = ReadonlyMap<string, readonly Band[]>;

/** dB of a band or of a gain that are one whole difference: a third of it is heard at once. */
export const DB = 24;
/** octaves that are one whole difference of a frequency, and of a Q */
const OCTAVES = 4;
const Q_OCTAVES = 6;
/** dB from which on where a band stands counts in full: of one that does nothing it does not matter */
const FULL = 12;
/** of bands without a gain */
const PASS = 0.5;
const STEEPEST = 48;

const GAINLESS = new Set(['highPass', 'lowPass', 'notch', 'bandPass']);

/** What the values of a band are called, made once for each. */
const idsOf = (n: number) => ({
  on: `b${n}.on`,
  type: `b${n}.type`,
  freq: `b${n}.freq`,
  gain: `b${n}.gain`,
  q: `b${n}.q`,
  slope: `b${n}.slope`,
});
const IDS: ReturnType<typeof idsOf>[] = [];

/** The bands that are on. @param count how many the device has */
export function bandsOf(p: Params, count: number): Bands {
  const bands = new Map<string, Band[]>();
  for (let n = 1; n <= count; n++) {
    const ids = (IDS[n] ??= idsOf(n));
    if (p[ids.on] !== true) continue;
    const band = bandOf(p, ids);
    const those = bands.get(band.type);
    if (those) those.push(band);
    else bands.set(band.type, [band]);
  }
  return bands;
}

function bandOf(p: Params, ids: ReturnType<typeof idsOf>): Band {
  const type = String(p[ids.type]);
  const isGainless = GAINLESS.has(type);
  const gain = isGainless ? 0 : Number(p[ids.gain]);
  const hasSlope = type === 'highPass' || type === 'lowPass';
  return {
    type,
    gain,
    at: Math.log2(Number(p[ids.freq])),
    q: Math.log2(Number(p[ids.q])),
    slope: hasSlope ? Number(p[ids.slope]) : 0,
    alone: isGainless ? PASS : Math.abs(gain) / DB,
    weight: isGainless ? 1 : Math.min(1, Math.abs(gain) / FULL),
  };
}

/** The square of how far two bands of one type are apart. */
function between(a: Band, b: Band): number {
  const weight = Math.max(a.weight, b.weight);
  return (
    squared((a.gain - b.gain) / DB) +
    squared((weight * (a.at - b.at)) / OCTAVES) +
    squared((weight * (a.q - b.q)) / Q_OCTAVES) +
    squared((a.slope - b.slope) / STEEPEST)
  );
}

/**
 * The least sum of squares that makes the bands of one EQ those of another. Bands stand in series, so their order says
 * nothing: bands of one type are paired as they fit best, or stand alone.
 */
export function bandsApart(a: Bands, b: Bands): number {
  let sum = 0;
  for (const [type, those] of a) sum += typeApart(those, b.get(type) ?? NONE);
  for (const [type, those] of b) if (!a.has(type)) sum += typeApart(NONE, those);
  return sum;
}
const NONE: readonly Band[] = [];

/** The same for bands of one type: every pairing is looked at, band by band. */
function typeApart(a: readonly Band[], b: readonly Band[], from = 0, taken = 0): number {
  if (from === a.length) {
    let rest = 0;
    for (let j = 0; j < b.length; j++) if (!(taken & (1 << j))) rest += squared(b[j].alone);
    return rest;
  }
  const x = a[from];
  let least = squared(x.alone) + typeApart(a, b, from + 1, taken);
  for (let j = 0; j < b.length; j++) {
    if (taken & (1 << j)) continue;
    const here = between(x, b[j]);
    if (here < least) least = Math.min(least, here + typeApart(a, b, from + 1, taken | (1 << j)));
  }
  return least;
}
