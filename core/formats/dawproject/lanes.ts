import { laneTarget, laneValue } from '../../session/automation.ts';
import { same } from '../../model/json.ts';
import { MAX_LEVEL, MIN_LEVEL, type Id, type Lane, type LanePoint, type Track } from '../../model/types.ts';
import { aroundOf, fromUnit, isOn, numberAt, toUnit } from './units.ts';
import { append, attr, kid, kids, type Element } from './xml.ts';

/** The element of the file that a lane of a track's level, pan or mute, or of a send's level, belongs to. */
export const WORDS = { level: 'Volume', pan: 'Pan', mute: 'Mute' } as const;
export type Word = keyof typeof WORDS;
/** Pieces that a slope is cut into, since the format goes straight in gain and our faders do not. */
const PIECES = 12;

/** A lane's places in the file: the track's channel, or one of its sends. */
export interface Home {
  track: Track;
  of: Id;
  element: Element;
  words: readonly Word[];
}

/** What a word measures, the unit where none is written, and the values that it can have here. */
const MEASURES = {
  level: { quantity: 'gain', usual: 'linear', min: MIN_LEVEL, max: MAX_LEVEL },
  pan: { quantity: 'pan', usual: 'normalized', min: -100, max: 100 },
} as const;

const toFile = (home: Home, word: Word, tempo: number, v: number): string => {
  if (word === 'mute') return String(v >= 0.5);
  const e = kid(home.element, WORDS[word]);
  const { quantity, usual } = MEASURES[word];
  return String(toUnit(quantity, attr(e, 'unit') ?? usual, v, aroundOf(e, tempo)) ?? 0);
};
/** NaN where the point has no number, or its unit says nothing about such a value. */
const fromFile = (home: Home, word: Word, tempo: number, unit: string | null, point: Element): number => {
  if (word === 'mute') return isOn(point, false) ? 1 : 0;
  const e = kid(home.element, WORDS[word]);
  const n = numberAt(point, 'value');
  const { quantity, usual, min, max } = MEASURES[word];
  const v = n === null ? null : fromUnit(quantity, unit ?? attr(e, 'unit') ?? usual, n, aroundOf(e, tempo));
  return v === null ? NaN : Math.max(min, Math.min(max, v));
};

/** A lane as the file has it: points with straight lines or steps between them. */
function written(home: Home, lane: Lane, tempo: number): { time: number; value: string; hold: boolean }[] {
  const { spec } = laneTarget(home.track, lane)!;
  const word = lane.param as Word;
  return lane.points.flatMap((p, i) => {
    const next = lane.points[i + 1];
    const hold = !!p.hold || spec.kind === 'switch' || !next;
    const n = hold || next.value === p.value ? 1 : PIECES;
    return Array.from({ length: n }, (_, k) => {
      const time = Number((p.at + (k / n) * ((next?.at ?? p.at) - p.at)).toFixed(6));
      return {
        time,
        value: toFile(home, word, tempo, k === 0 ? p.value : laneValue(spec, lane.points, time)),
        hold,
      };
    });
  });
}

/** Lists of points by the id of what they move, those of one id in the order of the file. */
export function pointsByParameter(root: Element): Map<string, Element[]> {
  const out = new Map<string, Element[]>();
  for (const e of Array.from(root.getElementsByTagName('Points'))) {
    const id = attr(kid(e, 'Target'), 'parameter');
    if (!id) continue;
    const of = out.get(id) ?? [];
    of.push(e);
    out.set(id, of);
  }
  return out;
}
const up = (e: Element): Element | null => (e.parentNode?.nodeType === 1 ? (e.parentNode as Element) : null);
const isClip = (e: Element): boolean => {
  for (let x = up(e); x; x = up(x)) if (x.nodeName === 'Clip') return true;
  return false;
};
const unitOf = (e: Element): string => {
  for (let x: Element | null = e; x; x = up(x)) {
    const u = attr(x, 'timeUnit');
    if (u) return u;
  }
  return 'beats';
};

/** Where a track's lanes belong in the file, as far as it has such places. */
export const homesOf = (track: Track, elements: ReadonlyMap<string, Element>): Home[] => {
  const channel = elements.get(track.id + '/channel');
  const all = channel ? kids(kid(channel, 'Sends') ?? channel, 'Send') : [];
  return [
    ...(channel ? [{ track, of: track.id, element: channel, words: ['level', 'pan', 'mute'] as const }] : []),
    ...track.sends.flatMap((s) => {
      const element = elements.get(s.id) ?? all.find((e) => attr(e, 'id') === s.id);
      return element ? [{ track, of: s.id, element, words: ['level'] as const }] : [];
    }),
  ];
};

/** Points whose parameter is not in the file. */
export function aimless(root: Element): Set<Element> {
  const ids = new Set(Array.from(root.getElementsByTagName('*')).flatMap((e) => attr(e, 'id') ?? []));
  const lost = [...pointsByParameter(root)].filter(([id]) => !ids.has(id));
  return new Set(lost.flatMap(([, points]) => points));
}

/** A point as the file has it, in seconds. */
interface RawPoint {
  e: Element;
  time: number;
  value: string | null;
  hold: boolean;
}

/**
 * Reads what other programs let move: levels, pans and mutes of tracks and levels of sends. A lane that this
 * program wrote, and nobody changed since, comes back as it was.
 * @param note is told what stays behind
 * @param beats is told the points whose time is counted in beats
 */
export function readLanes(
  root: Element,
  homes: Home[],
  tempo: number,
  fresh: (e: Element) => Id,
  note: (text: string) => void,
  beats: (e: Element) => void,
): void {
  const moved = pointsByParameter(root);
  const known = new Set<string>();
  for (const h of homes) {
    for (const word of h.words) {
      const id = attr(kid(h.element, WORDS[word]), 'id') ?? '';
      for (const e of moved.get(id) ?? []) {
        known.add(id);
        if (isClip(e)) {
          note(`“${h.track.name}”: automation inside a clip stays in the file and is not played here.`);
          continue;
        }
        const inBeats = unitOf(e) !== 'seconds';
        const raw = rawPoints(e, inBeats ? 60 / tempo : 1);
        if (inBeats) for (const p of raw) beats(p.e);
        readLane(h, word, tempo, { e, raw, fresh, note });
      }
    }
  }
  const others = [...moved].filter(([id]) => !known.has(id)).flatMap(([, points]) => points).length;
  if (others) {
    const values = others === 1 ? 'a value' : `${others} values`;
    note(`Automation of ${values} of devices stays in the file and is not played here.`);
  }
}

/** @param unit seconds in one unit of the file's time */
const rawPoints = (e: Element, unit: number): RawPoint[] =>
  kids(e)
    .filter((p) => p.nodeName === 'RealPoint' || p.nodeName === 'BoolPoint')
    .map((p) => ({
      e: p,
      time: Number(attr(p, 'time') ?? NaN) * unit,
      value: attr(p, 'value'),
      hold: p.nodeName === 'BoolPoint' || attr(p, 'interpolation') === 'hold',
    }));

/** Puts one list of points into its track, in place of the lane that the track had. */
function readLane(
  h: Home,
  word: Word,
  tempo: number,
  from: { e: Element; raw: RawPoint[]; fresh: (e: Element) => Id; note: (text: string) => void },
): void {
  const { e, raw, fresh, note } = from;
  const own = h.track.automation?.find((l) => l.of === h.of && l.param === word);
  const asWritten = raw.map(({ time, value, hold }) => ({ time, value, hold }));
  if (own && same(written(h, own, tempo), asWritten)) return;
  const unit = attr(e, 'unit');
  const byTime = new Map<number, LanePoint>();
  for (const p of raw) {
    const value = fromFile(h, word, tempo, unit, p.e);
    if (!Number.isFinite(p.time) || !Number.isFinite(value) || p.time < 0) continue;
    const at = Number(p.time.toFixed(6));
    byTime.set(at, { at, value: Number(value.toFixed(4)), ...(p.hold ? { hold: true as const } : {}) });
  }
  const points = [...byTime.values()].sort((a, b) => a.at - b.at);
  if (raw.length && !points.length) {
    note(
      `“${h.track.name}”: ${WORDS[word]} moves in a unit that says nothing about it; it stays in the file.`,
    );
  }
  if (!points.length) return;
  h.track.automation = [
    ...(h.track.automation ?? []).filter((l) => l !== own),
    { id: own?.id ?? fresh(e), of: h.of, param: word, on: true, points },
  ];
}

/**
 * Puts a track's lanes of level, pan, mute and sends where other programs look for them, in place of those
 * that were there. Lanes of devices have no word in the format.
 * @param moved the lists of points that were there
 * @param laneOf where the track's points go
 * @param idFor the id of a parameter's element, made with its value when there is none
 * @param tempo bpm
 */
export function writeLanes(
  moved: ReadonlyMap<string, readonly Element[]>,
  home: Home,
  was: readonly Lane[],
  laneOf: () => Element,
  idFor: (word: Word) => string,
  tempo: number,
): void {
  for (const word of home.words) {
    const mine = (list: readonly Lane[]) =>
      list.find((l) => l.of === home.of && l.param === word && l.on && l.points.length);
    const [before, now] = [mine(was), mine(home.track.automation ?? [])];
    if (same(before ?? null, now ?? null)) continue;
    const id = idFor(word);
    for (const e of moved.get(id) ?? []) if (!isClip(e)) e.parentNode?.removeChild(e);
    if (!now) continue;
    const unit = attr(kid(home.element, WORDS[word]), 'unit');
    const points = append(laneOf(), 'Points', { timeUnit: 'seconds', ...(unit ? { unit } : {}) });
    append(points, 'Target', { parameter: id });
    for (const p of written(home, now, tempo)) {
      append(points, word === 'mute' ? 'BoolPoint' : 'RealPoint', {
        time: p.time,
        value: p.value,
        ...(word === 'mute' ? {} : { interpolation: p.hold ? 'hold' : 'linear' }),
      });
    }
  }
}
