import { changesSince, DEVICE_TYPES, isUsed, playedAs, valueIn } from '../../devices/index.ts';
import { EQ_BANDS } from '../../devices/eq.ts';
import { logFrequencies } from '../../measure/response.ts';
import { canonicalJson } from '../../model/json.ts';
import type { ParamSpec } from '../../model/param.ts';
import type { Device, Id } from '../../model/types.ts';
import { toPosition } from '../../model/units.ts';
import { DB, bandsApart, bandsOf, type Bands } from './bands.ts';
import { saturated, squared, WHOLE } from './apart.ts';

/** A device as far as it is heard. */
export interface DeviceShape {
  kind: 'device';
  type: string;
  /** one place for each value of its type: a number in the measure of its unit; NaN where it says nothing */
  numbers: Float64Array;
  /** the others: switches, choices and texts; null where they say nothing */
  words: readonly (string | null)[];
  /** 0 … 1, how much of it comes through */
  wet: number;
  bands: Bands | null;
  /** what else it plays with: its key, the hardware behind it, the state of a third-party device */
  beside: string;
  /** how far it is from not being there */
  alone: number;
  /** dB at some frequencies, of one that only filters; worked out when it is asked for */
  tone: () => Float64Array | null;
}

/** How much the whole way of a value counts, by its unit, where it is not measured otherwise below. */
const WAY: Record<string, number> = { ms: 1, s: 1, '%': 0.8, ':1': 0.8, pan: 0.6, st: 2, ct: 0.8 };
const OTHER_WAY = 0.8;
/** octaves of a frequency that are one whole difference */
const OCTAVES = 4;
/** a choice that is another one, a text that is */
const CHOICE = 0.3;
const TEXT = 0.6;
/** what it plays with is another */
const BESIDE = 0.3;
/** how quickly differences of values fill a device */
export const FILL = 2;
/** dB of a response that make two filters wholly unlike */
const TONE = 8;
const TONE_AT = logFrequencies(24);
const RATE = 48000;
/** values of devices that only make something louder or filter it: without them they are not there */
const GAINS: Record<string, readonly string[]> = { eq: ['in', 'out'], trim: ['gain', 'balance'] };
const BAND_VALUE = /^b\d+\./;

/** A number in the measure by which it is compared: dB and octaves as they are, others by their way on the slider. */
function measured(spec: ParamSpec, v: number): number {
  if (spec.unit === 'dB' && spec.taper !== 'level') return v / DB;
  if (spec.unit === 'Hz') return Math.log2(v) / OCTAVES;
  return toPosition(spec, v) * (WAY[spec.unit ?? ''] ?? OTHER_WAY);
}

/** What of a type is compared: made once for each. */
interface Measure {
  numbers: readonly ParamSpec[];
  /** switches, choices and texts; what a part is called is not heard */
  words: readonly ParamSpec[];
  /** where among the numbers it is said how much comes through; −1 where all does */
  wet: number;
}
const measures = new Map<string, Measure>();

function measureOf(type: string): Measure {
  const known = measures.get(type);
  if (known) return known;
  const { params = [], wet } = DEVICE_TYPES[type] ?? {};
  const own = type === 'eq' ? params.filter((p) => !BAND_VALUE.test(p.id)) : params;
  const numbers = own.filter((p) => p.kind === 'number');
  const words = own.filter((p) => p.kind !== 'number' && !p.id.endsWith('.name'));
  const measure = { numbers, words, wet: numbers.findIndex((p) => p.id === wet) };
  measures.set(type, measure);
  return measure;
}

/** Where an id leads inside of a preset: names say nothing. */
export type Places = (id: Id) => string;

/** What a device is as far as it is heard; null of one that does nothing at all. */
export function deviceShape(d: Device, places: Places): DeviceShape | null {
  const spec = DEVICE_TYPES[d.type];
  if (d.state !== 'on' || (spec && !spec.params.length && !spec.foreign)) return null;
  const { numbers, words, wet } = measureOf(d.type);
  const shape = {
    kind: 'device' as const,
    type: d.type,
    numbers: Float64Array.from(numbers, (p) => (isUsed(d, p.id) ? measured(p, Number(valueIn(d, p))) : NaN)),
    words: words.map((p) => (isUsed(d, p.id) ? String(valueIn(d, p)) : null)),
    wet: wet < 0 ? 1 : Number(valueIn(d, numbers[wet])) / 100,
    bands: d.type === 'eq' ? bandsOf(d.params, EQ_BANDS) : null,
    beside: besideOf(d, places),
  };
  return { ...shape, alone: aloneOf(shape), tone: toneOf(d) };
}

function besideOf(d: Device, places: Places): string {
  const isPlain = d.key.kind === 'own' && !d.hardware && !d.foreign && !DEVICE_TYPES[d.type]?.earlier;
  if (isPlain) return '';
  const { id: _id, ...hardware } = (d.hardware ?? {}) as Record<string, unknown>;
  const foreign = d.foreign && {
    identifier: d.foreign.identifier,
    state: d.foreign.state?.sha256,
    params: d.foreign.params,
  };
  const key = d.key.kind === 'track' ? [d.key.tap, places(d.key.track)] : '';
  const sound = changesSince(d).length ? d.revision : 0;
  return canonicalJson([key, hardware, foreign ?? null, sound]);
}

/** How far a device is from not being there: a gain by its dB, an echo by how much of it comes through. */
function aloneOf(s: Omit<DeviceShape, 'alone' | 'tone'>): number {
  const { numbers, words, wet } = measureOf(s.type);
  if (wet >= 0) return saturated(FILL * s.wet);
  const gains = GAINS[s.type];
  if (!gains) return WHOLE;
  let sum = 0;
  for (const b of [...(s.bands?.values() ?? [])].flat()) sum += squared(b.alone);
  numbers.forEach((p, i) => {
    if (gains.includes(p.id)) sum += squared(s.numbers[i] - measured(p, p.default as number));
  });
  words.forEach((p, i) => {
    if (s.words[i] !== String(p.default)) sum += squared(CHOICE);
  });
  return saturated(FILL * Math.sqrt(sum));
}

function toneOf(d: Device): DeviceShape['tone'] {
  // the first revision is the plain one: what the present one does near half the rate is not worth the wait
  const respond = GAINS[d.type] ? playedAs({ type: d.type, revision: 1 }).response : undefined;
  let tone: Float64Array | null = null;
  return () => {
    if (!respond) return null;
    tone ??= Float64Array.from(TONE_AT, (f) => {
      const [re, im] = respond(d.params, f, RATE);
      return 20 * Math.log10(Math.max(1e-6, Math.hypot(re, im)));
    });
    return tone;
  };
}

/** How far two devices are apart, from 0 to 1; Infinity where they do different things. */
export function devicesApart(a: DeviceShape, b: DeviceShape): number {
  if (a.type !== b.type) return tonesApart(a.tone(), b.tone());
  const { words, wet } = measureOf(a.type);
  // of an echo that nothing comes through of, nothing else matters
  const weight = Math.max(a.wet, b.wet);
  let sum = 0;
  for (let i = 0; i < a.numbers.length; i++) {
    const way = a.numbers[i] - b.numbers[i];
    if (way === way) sum += squared(i === wet ? way : weight * way);
  }
  for (let i = 0; i < words.length; i++) {
    const [x, y] = [a.words[i], b.words[i]];
    if (x !== y && x !== null && y !== null) {
      sum += squared(weight * (words[i].kind === 'text' ? TEXT : CHOICE));
    }
  }
  if (a.bands && b.bands) sum += bandsApart(a.bands, b.bands);
  if (a.beside !== b.beside) sum += squared(BESIDE);
  return saturated(FILL * Math.sqrt(sum));
}

/** Filters of two types by what they do. */
function tonesApart(a: Float64Array | null, b: Float64Array | null): number {
  if (!a || !b) return Infinity;
  const sum = a.reduce((all, v, i) => all + squared(v - b[i]), 0);
  return saturated(Math.sqrt(sum / a.length) / TONE);
}

/** Whether a device of a type that stands alone counts as much as it is heard, and not whole. */
export const countsAsHeard = (type: string): boolean => type in GAINS || measureOf(type).wet >= 0;
