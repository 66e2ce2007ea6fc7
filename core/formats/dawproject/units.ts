import { MIN_LEVEL } from '../../model/types.ts';
import { attr, type Element } from './xml.ts';

/**
 * Units of the format's parameters (version 1.0, from memory of its public schema), and what a value means in
 * each of them.
 */
export type Unit =
  'linear' | 'normalized' | 'percent' | 'decibel' | 'hertz' | 'semitones' | 'seconds' | 'beats' | 'bpm';

/** What is measured here: dB, −100 … 100, Hz, seconds, n:1, Q, bpm. */
export type Quantity = 'gain' | 'pan' | 'frequency' | 'time' | 'ratio' | 'q' | 'tempo';

/** What a conversion may have to know: the song's tempo and the lowest value that the element allows. */
export interface Around {
  /** bpm */
  tempo: number;
  min: number | null;
  /** the value that stood there, in the file's unit */
  stood: number | null;
}
interface Conversion {
  from(v: number, around: Around): number;
  to(v: number, around: Around): number;
}

const decibels = (gain: number) => (gain > 0 ? 20 * Math.log10(gain) : MIN_LEVEL);
const linear = (db: number) => (db <= MIN_LEVEL ? 0 : Math.pow(10, db / 20));
const turned: Conversion['from'] = (v) => 1 / v;
const times = (n: number): Conversion => ({ from: (v) => v * n, to: (v) => v / n });
const same = times(1);
/** a share of the whole way from left to right, of −1 … 1 where the element goes below 0 */
const across = (whole: number, centred: boolean): Conversion => {
  const isCentred = (a: Around) => (a.min === null ? centred : a.min < 0);
  return {
    from: (v, a) => (isCentred(a) ? (100 * v) / whole : (200 * v) / whole - 100),
    to: (v, a) => (isCentred(a) ? (v * whole) / 100 : ((v + 100) * whole) / 200),
  };
};
/** under 1 it is how much comes out for each dB that goes in: 0.25 is 4:1 */
const slope = (whole: number): Conversion => ({
  from: (v) => (v > 0 && v < whole ? whole / v : v / whole),
  to: (v, a) => (a.stood !== null && a.stood > 0 && a.stood < whole ? whole / v : v * whole),
});
const semitonesOf = (hz: number) => 69 + 12 * Math.log2(hz / 440);
/** quality of a band so many octaves wide at −3 dB: √(2^n) / (2^n − 1) */
const qOf = (octaves: number) => Math.sqrt(2 ** octaves) / (2 ** octaves - 1);
const octavesOf = (q: number) => (2 * Math.asinh(1 / (2 * q))) / Math.LN2;

const QUANTITIES: Record<Quantity, Partial<Record<Unit, Conversion>>> = {
  gain: {
    decibel: same,
    linear: { from: decibels, to: linear },
    normalized: { from: decibels, to: linear },
    percent: { from: (v) => decibels(v / 100), to: (v) => 100 * linear(v) },
  },
  pan: {
    normalized: across(1, false),
    linear: across(1, true),
    percent: across(100, true),
  },
  frequency: {
    hertz: same,
    linear: same,
    // numbered as keys are: 69 is 440 Hz (ISO 16)
    semitones: { from: (v) => 440 * 2 ** ((v - 69) / 12), to: semitonesOf },
    bpm: times(1 / 60),
    seconds: { from: turned, to: turned },
    beats: { from: (v, a) => a.tempo / 60 / v, to: (v, a) => a.tempo / 60 / v },
  },
  time: {
    seconds: same,
    linear: same,
    beats: { from: (v, a) => (v * 60) / a.tempo, to: (v, a) => (v * a.tempo) / 60 },
    hertz: { from: turned, to: turned },
    bpm: { from: (v) => 60 / v, to: (v) => 60 / v },
  },
  ratio: { linear: slope(1), normalized: slope(1), percent: slope(100) },
  q: {
    linear: same,
    percent: times(1 / 100),
    semitones: { from: (v) => qOf(v / 12), to: (v) => 12 * octavesOf(v) },
  },
  tempo: {
    bpm: same,
    linear: same,
    hertz: times(60),
    seconds: { from: (v) => 60 / v, to: (v) => 60 / v },
  },
};

/** A number of the file in our unit; null where the unit says nothing about such a value. */
export const fromUnit = (q: Quantity, unit: string, v: number, around: Around): number | null => {
  const x = conversion(q, unit)?.from(v, around) ?? NaN;
  return Number.isFinite(x) ? tidy(q, x) : null;
};
/** The other way round. */
export const toUnit = (q: Quantity, unit: string, v: number, around: Around): number | null => {
  const x = conversion(q, unit)?.to(v, around) ?? NaN;
  return Number.isFinite(x) ? Number(x.toPrecision(10)) : null;
};
const conversion = (q: Quantity, unit: string): Conversion | undefined =>
  Object.hasOwn(QUANTITIES[q], unit) ? QUANTITIES[q][unit as Unit] : undefined;
/** Without the last digits that the way there and back leaves. */
const tidy = (q: Quantity, v: number) =>
  Number(q === 'gain' || q === 'pan' ? v.toFixed(6) : v.toPrecision(12));

export const numberAt = (e: Element | null, name: string): number | null => {
  const v = attr(e, name)?.trim();
  return v && Number.isFinite(Number(v)) ? Number(v) : null;
};
export const aroundOf = (e: Element | null, tempo: number): Around => ({
  tempo,
  min: numberAt(e, 'min'),
  stood: numberAt(e, 'value'),
});

/** How a value is read: where it stands, what it is, the unit when none is written, who is told what. */
export interface Reading {
  quantity: Quantity;
  usual: Unit;
  tempo: number;
  /** its name in a note: “Lead”: level */
  what: string;
  note(text: string): void;
}

/** A parameter's value in our unit; null when there is none, or none that can be understood (which is noted). */
export function readValue(e: Element | null, r: Reading): number | null {
  const written = attr(e, 'value');
  if (!e || written === null) return null;
  const v = numberAt(e, 'value');
  const unit = attr(e, 'unit') ?? r.usual;
  const read = v === null ? null : fromUnit(r.quantity, unit, v, aroundOf(e, r.tempo));
  if (read === null) {
    r.note(`${r.what} of “${written}” ${unit} could not be read; it is as a new one here.`);
  } else if (r.quantity === 'ratio' && (unit !== 'linear' || v! < 1)) {
    r.note(`${r.what} of ${written} ${unit} was read as ${Number(read.toFixed(2))}:1.`);
  }
  return read;
}

/**
 * Writes a value in the unit that stands there, or in the usual one where it cannot be said so; a range that
 * would shut it out is widened.
 */
export function writeValue(e: Element, q: Quantity, usual: Unit, tempo: number, v: number): void {
  const unit = attr(e, 'unit');
  let out = unit !== null ? toUnit(q, unit, v, aroundOf(e, tempo)) : null;
  if (out === null) {
    if (unit !== null) {
      // its range was in that unit too
      for (const a of ['min', 'max']) e.removeAttribute(a);
      e.setAttribute('unit', usual);
    }
    out = toUnit(q, usual, v, aroundOf(e, tempo))!;
  }
  e.setAttribute('value', String(out));
  const [min, max] = [numberAt(e, 'min'), numberAt(e, 'max')];
  if (max !== null && out > max) e.setAttribute('max', String(out));
  if (min !== null && out < min) e.setAttribute('min', String(out));
}

/** A switch's value: "true" or "1". */
export const isOn = (e: Element | null, usual: boolean): boolean => {
  const v = attr(e, 'value')?.trim().toLowerCase();
  if (v === 'true' || v === '1') return true;
  return v === 'false' || v === '0' ? false : usual;
};
