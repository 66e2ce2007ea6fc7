import { createDevice } from '../session/create.ts';
import type { Device } from '../model/types.ts';
import { THIRDS } from './figures.ts';

/** How one sound's balance differs from another's. */
export interface Balance {
  /** Hz, centres of the thirds of an octave */
  frequencies: readonly number[];
  /** dB that this sound has more than the other, each third against its own whole */
  difference: number[];
  /** the most striking of it in words, loudest first; empty where nothing stands out */
  words: string[];
}

/** what is under this is no difference that anybody would name, dB */
const NAMED = 2;
/** what lies this far under the whole in both is noise, dB */
const QUIET = -50;
const MOST_NAMED = 3;

/** @param was thirds of the sound that a preset was made with @param now thirds of this one */
export function balanceOf(was: readonly number[], now: readonly number[]): Balance {
  const told = THIRDS.map((_, i) => Math.max(was[i] ?? -90, now[i] ?? -90) >= QUIET);
  // against the middle of all: what stands out in one place does not make the rest less
  const middle = medianOf(THIRDS.flatMap((_, i) => (told[i] ? [now[i] - was[i]] : [])));
  const raw = THIRDS.map((_, i) => (told[i] ? now[i] - was[i] - middle : 0));
  // a band of its own says little: three together do
  const difference = raw.map((v, i) => (v + (raw[i - 1] ?? v) + (raw[i + 1] ?? v)) / 3);
  return { frequencies: THIRDS, difference, words: humps(difference).slice(0, MOST_NAMED).map(wordsFor) };
}

const medianOf = (list: number[]): number => list.sort((a, b) => a - b)[list.length >> 1] ?? 0;

interface Hump {
  frequency: number;
  db: number;
}
/** Places where a difference is largest, an octave apart at least, the largest first. */
function humps(difference: readonly number[]): Hump[] {
  const out: Hump[] = [];
  const order = difference.map((_, i) => i).sort((a, b) => Math.abs(difference[b]) - Math.abs(difference[a]));
  for (const i of order) {
    if (Math.abs(difference[i]) < NAMED) break;
    const isApart = out.every((h) => Math.abs(Math.log2(h.frequency / THIRDS[i])) >= 1);
    if (isApart) out.push({ frequency: THIRDS[i], db: difference[i] });
  }
  return out;
}

function wordsFor({ frequency, db }: Hump): string {
  const at =
    frequency >= 1000 ? `${Number((frequency / 1000).toFixed(1))} kHz` : `${Math.round(frequency)} Hz`;
  const amount = `${Math.abs(Math.round(db))} dB ${db > 0 ? 'more' : 'less'}`;
  return `${amount} at ${at} than the voice this was made for`;
}

/**
 * An EQ that would bring one balance to the other: a bell an octave wide for each of the places that stand out, at most
 * 12 dB. It is inactive until it is wanted.
 */
export function balanceEq(balance: Balance): Device {
  const bands = humps(balance.difference).slice(0, 8);
  const values = bands.flatMap(({ frequency, db }, i) => [
    [`b${i + 1}.on`, true],
    [`b${i + 1}.type`, 'bell'],
    [`b${i + 1}.freq`, Math.round(frequency)],
    [`b${i + 1}.gain`, Math.round(Math.max(-12, Math.min(12, -db)) * 10) / 10],
    [`b${i + 1}.q`, 1.41],
  ]);
  return createDevice('eq', Object.fromEntries(values), { name: 'Balance of the voice', state: 'inactive' });
}
