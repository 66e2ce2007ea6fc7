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
  numbers: readonly number[];
  /** the others: switches, choices and texts; null where they say nothing */
  words: readonly (string | null)[];
  /** 0 … 1, how much of it comes through */
  wet: number;
  bands: Bands | null;
  /** the line that its key comes from, by its place; null of one that listens to itself */
  key: { tap: string; place: string } | null;
  /** what else it plays with: the hardware behind it, the state of a third-party device */
  beside: string;
  /** how far it is from not being there */
  alone: number;
  /** dB at some frequencies, worked out when it is asked for; null of what does more than filter */
  tone: (() => Float64Array) | null;
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
  /** of one that only makes something louder or filters it, the numbers that are gains: where, and as they do nothing */
  gains: readonly { at: number; default: number }[] | null;
}
const measures = new Map<string, Measure>();

function measureOf(type: string): Measure {
  const known = measures.get(type);
  if (known) return known;
  const { params = [], wet } = DEVICE_TYPES[type] ?? {};
  const own = type === 'eq' ? params.filter((p) => !BAND_VALUE.test(p.id)) : params;
  const numbers = own.filter((p) => p.kind === 'number');
  const words = own.filter((p) => p.kind !== 'number' && !p.id.endsWith('.name'));
  const gains = GAINS[type]?.map((id) => {
    const at = numbers.findIndex((p) => p.id === id);
    return { at, default: measured(numbers[at], numbers[at].default as number) };
  });
  const measure = { numbers, words, wet: numbers.findIndex((p) => p.id === wet), gains: gains ?? null };
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
  // made in one piece: tens of thousands of them are made in a row
  const shape: DeviceShape = {
    kind: 'device',
    type: d.type,
    numbers: numbersOf(d, numbers),
    words: words.map((p) => (isUsed(d, p.id) ? String(valueIn(d, p)) : null)),
    wet: wet < 0 ? 1 : Number(valueIn(d, numbers[wet])) / 100,
    bands: d.type === 'eq' ? bandsOf(d.params, EQ_BANDS) : null,
    key: d.key.kind === 'track' ? { tap: d.key.tap, place: places(d.key.track) } : null,
    beside: besideOf(d),
    alone: WHOLE,
    tone: toneOf(d),
  };
  shape.alone = aloneOf(shape);
  return shape;
}

function numbersOf(d: Device, specs: readonly ParamSpec[]): number[] {
  const { used } = DEVICE_TYPES[d.type] ?? {};
  // plain lists: thousands of typed ones cost more than what is in them
  const numbers: number[] = [];
  for (const spec of specs) {
    const isHeard = !used || used(d.params, spec.id);
    numbers.push(isHeard ? measured(spec, Number(valueIn(d, spec))) : NaN);
  }
  return numbers;
}

function besideOf(d: Device): string {
  // where what it was set with sounds as what it has now, there is nothing to tell
  const sound = changesSince(d).length ? d.revision : 0;
  if (!d.hardware && !d.foreign) return sound ? String(sound) : '';
  const { id: _id, ...hardware } = (d.hardware ?? {}) as Record<string, unknown>;
  const foreign = d.foreign && {
    identifier: d.foreign.identifier,
    state: d.foreign.state?.sha256,
    params: d.foreign.params,
  };
  return canonicalJson([hardware, foreign ?? null, sound]);
}

/** How far a device is from not being there: a gain by its dB, an echo by how much of it comes through. */
function aloneOf(s: DeviceShape): number {
  const { words, wet, gains } = measureOf(s.type);
  if (wet >= 0) return saturated(FILL * s.wet);
  if (!gains) return WHOLE;
  let sum = 0;
  for (const those of s.bands?.values() ?? []) for (const b of those) sum += squared(b.alone);
  for (const gain of gains) sum += squared(s.numbers[gain.at] - gain.default);
  for (let i = 0; i < words.length; i++) {
    if (s.words[i] !== String(words[i].default)) sum += squared(CHOICE);
  }
  return saturated(FILL * Math.sqrt(sum));
}

/** Of a device's document it keeps the values alone, and those only of a filter: shapes are kept for long. */
function toneOf({ type, params }: Device): DeviceShape['tone'] {
  if (!GAINS[type]) return null;
  // the first revision is the plain one: what the present one does near half the rate is not worth the wait
  const respond = playedAs({ type, revision: 1 }).response!;
  let tone: Float64Array | null = null;
  return () => {
    tone ??= Float64Array.from(TONE_AT, (f) => {
      const [re, im] = respond(params, f, RATE);
      return 20 * Math.log10(Math.max(1e-6, Math.hypot(re, im)));
    });
    return tone;
  };
}

const isOtherKey = (a: DeviceShape['key'], b: DeviceShape['key']): boolean =>
  a?.tap !== b?.tap || a?.place !== b?.place;

/** How far two devices are apart, from 0 to 1; Infinity where they do different things. */
export function devicesApart(a: DeviceShape, b: DeviceShape): number {
  if (a.type !== b.type) return tonesApart(a, b);
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
  if (a.beside !== b.beside || isOtherKey(a.key, b.key)) sum += squared(BESIDE);
  return saturated(FILL * Math.sqrt(sum));
}

/** Filters of two types by what they do. */
function tonesApart(a: DeviceShape, b: DeviceShape): number {
  if (!a.tone || !b.tone) return Infinity;
  const [one, other] = [a.tone(), b.tone()];
  const sum = one.reduce((all, v, i) => all + squared(v - other[i]), 0);
  return saturated(Math.sqrt(sum / one.length) / TONE);
}

/** Whether a device of a type that stands alone counts as much as it is heard, and not whole. */
export const countsAsHeard = (type: string): boolean => type in GAINS || measureOf(type).wet >= 0;
