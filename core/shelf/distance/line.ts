import { canonicalJson } from '../../model/json.ts';
import type { Id, PartId, PresetContent, Send, Track } from '../../model/types.ts';
import { aligned, squared, WHOLE } from './apart.ts';
import { racksIn, slotIds } from '../../session/slots.ts';
import { chainShape, chainsApart, type ChainShape } from './chain.ts';
import type { Places } from './device.ts';
import { levelAt } from './level.ts';

interface SendShape {
  level: number;
  pan: number;
  tap: string;
  to: string;
}

/** A line of a preset as far as it is heard. */
export interface LineShape {
  /** its role, and whether it came along at the far side: lines of two are never compared */
  place: string;
  chain: ChainShape;
  sends: readonly SendShape[];
  /** fader, pan and trim before the chain, in the measure by which they are compared */
  numbers: readonly number[];
  /** what is either the same or not, with what it counts */
  words: readonly string[];
}

/** What the words of a line count, in their order: see `wordsOf`. */
const WORDS = [0.3, 0.5, 0.3, 0.2, 0.2, 0.6, 0.6, 0.4, 0.2, 0.1];
/** Parts that are heard, of all that a preset can bring. */
const HEARD: readonly PartId[] = [
  'chain',
  'sends',
  'level',
  'pan',
  'output',
  'input',
  'keys',
  'clips',
  'automation',
];
const TAP = 0.2;
const TO = 0.3;
const TRIM_DB = 24;

function placesIn(content: PresetContent): Places {
  const known = new Map([
    ...content.tracks.map((t, i) => [t.id, `line ${i}`] as const),
    ...content.spares.map((t, i) => [t.id, `spare ${i}`] as const),
  ]);
  return (id) => known.get(id) ?? 'out';
}

/** What a lane moves, by where that stands in its line. */
function partsOf(t: Track): Places {
  const handles = racksIn(t.chain).flatMap((r) => r.handles);
  const ids = [t.id, ...t.sends.map((s) => s.id), ...slotIds(t.chain), ...handles.map((h) => h.id)];
  return (id) => String(ids.indexOf(id));
}

function lanesOf(t: Track): unknown[] {
  if (!t.automation?.length) return [];
  const parts = partsOf(t);
  return t.automation.map((l) => [parts(l.of), l.param, l.on, l.points]);
}

/** The lines of a preset's content, and the buses and returns that came along. */
export function lineShapes(content: PresetContent): LineShape[] {
  const places = placesIn(content);
  const shapeOf = (t: Track, isSpare: boolean): LineShape => {
    const own = content.trackParts?.[t.id] ?? content.parts;
    const has = (part: PartId) => isSpare || own.includes(part);
    return {
      place: `${isSpare ? 'spare' : 'line'} ${t.role}`,
      chain: has('chain') ? chainShape(t.chain, places) : [],
      sends: has('sends') ? t.sends.filter((s) => s.on).map((s) => sendShape(s, places)) : [],
      numbers: [
        has('level') ? levelAt(t.level) : NaN,
        has('pan') ? t.pan / 200 : NaN,
        (t.inputTrim ?? 0) / TRIM_DB,
      ],
      words: theOne(wordsOf(t, has, places)),
    };
  };
  return [...content.tracks.map((t) => shapeOf(t, false)), ...content.spares.map((t) => shapeOf(t, true))];
}

/** Lists of words as they came first: most lines have one of a few, and a list need not be compared with itself. */
const known = new Map<string, readonly string[]>();
const MOST_KNOWN = 5000;
function theOne(words: readonly string[]): readonly string[] {
  const text = words.join('\n');
  const one = known.get(text) ?? words;
  if (known.size >= MOST_KNOWN) known.clear();
  known.set(text, one);
  return one;
}

const sendShape = (s: Send, places: Places): SendShape => ({
  level: levelAt(s.level),
  pan: s.panMode === 'own' ? s.pan / 200 : 0,
  tap: `${s.tap} ${s.panMode}`,
  to: places(s.to),
});

/** A way in or out as it is written, but for ids, which become places. */
function endText(end: Track['input'] | Track['output'], places: Places): string {
  const { slot: _slot, ...rest } = end as Track['input'] & { slot?: Id };
  const names = Object.keys(rest);
  // most lead to a line, or to one place of their kind
  if (names.length === 1) return rest.kind;
  if (!('track' in rest)) return canonicalJson(rest);
  const track = places(rest.track);
  return names.length === 2 ? `${rest.kind} ${track}` : canonicalJson({ ...rest, track });
}

/** A list as a text, whatever the order of its keys; most are empty. */
const textOf = (list: readonly unknown[]): string => (list.length ? canonicalJson(list) : '[]');

function wordsOf(t: Track, has: (part: PartId) => boolean, places: Places): string[] {
  const heard = ({ id: _id, ...rest }: { id: Id }) => rest;
  return [
    String(t.polarity),
    `${t.mute || t.state === 'inactive'} ${t.solo}`,
    String(t.channels),
    has('output') ? endText(t.output, places) : '',
    has('input') ? endText(t.input, places) : '',
    has('clips') ? textOf(t.clips.map(heard)) : '',
    has('clips') ? textOf((t.notes ?? []).map(({ id: _id, name: _name, ...rest }) => rest)) : '',
    has('automation') ? textOf(lanesOf(t)) : '',
    t.folder === null ? '' : places(t.folder),
    HEARD.filter(has).join(),
  ];
}

const sends = {
  between: (a: SendShape, b: SendShape): number =>
    squared(a.level - b.level) +
    squared(a.pan - b.pan) +
    squared(a.tap === b.tap ? 0 : TAP) +
    squared(a.to === b.to ? 0 : TO),
  /** a send that is not there is one whose fader is down */
  alone: (s: SendShape): number => squared(s.level) + squared(TO),
};

function wordsApart(a: readonly string[], b: readonly string[]): number {
  let sum = 0;
  for (let i = 0; i < a.length; i++) if (a[i] !== b[i]) sum += squared(WORDS[i]);
  return sum;
}

/** The sum of squares between two lines; what is cheaply known comes first. */
function lineApart(a: LineShape, b: LineShape, limit = Infinity): number {
  if (a.place !== b.place) return Infinity;
  let sum = 0;
  for (let i = 0; i < a.numbers.length; i++) {
    // a value that only one of both is meant to bring says nothing about the other
    const way = a.numbers[i] - b.numbers[i];
    if (way === way) sum += squared(way);
  }
  if (a.words !== b.words) sum += wordsApart(a.words, b.words);
  if (sum > limit) return Infinity;
  sum += aligned(a.sends, b.sends, sends);
  return sum > limit ? Infinity : sum + chainsApart(a.chain, b.chain, limit - sum);
}

const lines = { between: lineApart, alone: (): number => squared(WHOLE) };

/** The sum of squares between the lines of two presets; Infinity where it is over a limit. */
export function linesApart(a: readonly LineShape[], b: readonly LineShape[], limit = Infinity): number {
  if (squared(WHOLE) * Math.abs(a.length - b.length) > limit) return Infinity;
  return aligned(a, b, lines, limit);
}
