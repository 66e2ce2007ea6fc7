import { OUTPUTS, outPlace, type OutPlace } from '../devices/instrument.ts';
import type { InstrumentPart } from '../devices/instrument-type.ts';
import { planLayout, type LayoutRow } from '../kit/layout.ts';
import { nameFit } from '../kit/tap.ts';
import { randomIds } from '../model/ids.ts';
import { createTrack, freeName } from '../session/create.ts';
import { landsOn, outOf, outText, sideTaken, takeOf, takersOf } from '../session/midi.ts';
import type { Id, Session, Track } from '../model/types.ts';
import {
  instruments,
  onTrack,
  quoted,
  setPartOut,
  takePart,
  type InstrumentView,
  type Remedy,
} from './rule.ts';

/**
 * Ways out of faults between an instrument's parts and the lines on its outputs. Each moves one thing, or says
 * how many; which of them was meant shows by what is left afterwards.
 */
const viewOf = (s: Session, slot: Id): InstrumentView => instruments(s).find((i) => i.device.id === slot)!;
const hearsNothing = (i: InstrumentView, t: Track): boolean => !i.parts.some((p) => landsOn(p, t));
const isNamed = (part: InstrumentPart, t: Track): boolean => nameFit(part.name, t.name) === 3;

/** A part back on the line that has its name and hears nothing. */
export function backToLine(s: Session, i: InstrumentView, part: InstrumentPart): Remedy[] {
  const line = i.takers.find((t) => isNamed(part, t) && hearsNothing(i, t));
  return line ? [{ label: `Bring it back to ${quoted(line)}`, next: () => toLine(s, i, part, line) }] : [];
}

/** A part on the output that a line takes. */
export const toLine = (s: Session, i: InstrumentView, part: InstrumentPart, line: Track): Session =>
  setPartOut(s, i.device.id, part.id, outText({ pair: outOf(line).output, side: sideTaken(line) }));

/** The line that has a part's name onto the output where the part is. */
export function lineToPart(s: Session, i: InstrumentView, part: InstrumentPart): Remedy[] {
  const line = outPlace(part.out).pair ? i.takers.find((t) => isNamed(part, t)) : undefined;
  return line
    ? [{ label: `Put ${quoted(line)} onto output ${part.out}`, next: () => takePart(s, line, part) }]
    : [];
}

/** A line for a part at the output where it is. */
export const lineForPart = (s: Session, i: InstrumentView, part: InstrumentPart): Remedy => ({
  label: 'Make a line for it',
  next: () => withLine(s, i, part, outPlace(part.out), rowOf(s, i, part)),
});

/** An output that nobody uses, and a line on it; nothing when all are used. */
export function ownOutput(s: Session, i: InstrumentView, part: InstrumentPart, label: string): Remedy[] {
  const row = rowOf(s, i, part);
  const place = freePlace(s, i, row?.width ?? 2);
  if (!place) return [];
  const moved = () => setPartOut(s, i.device.id, part.id, outText(place));
  return [{ label, next: () => withLine(moved(), i, part, place, row) }];
}

/** Another output for a part that a line has the name of, and the line onto it. */
export function outputForLine(s: Session, i: InstrumentView, line: Track): Remedy[] {
  const part = i.parts.find((p) => isNamed(p, line) && p.out === 'main');
  const place = part && freePlace(s, i, line.channels);
  if (!part || !place) return [];
  const out = outText(place);
  const next = () => {
    const moved = setPartOut(s, i.device.id, part.id, out);
    return takePart(moved, line, { ...part, out });
  };
  return [{ label: `Put ${quoted(part)} and the line onto output ${out}`, next }];
}

export const asleep = (s: Session, line: Track): Remedy => ({
  label: 'Make the line inactive',
  next: () => onTrack(s, line.id, () => ({ state: 'inactive' })),
});

/**
 * All lines from one output on moved by one, as when a line or an output came between, whatever the lines are
 * called.
 */
export function shiftedBack(s: Session, i: InstrumentView): Remedy[] {
  const pairs = [...new Set(i.takers.map((t) => outOf(t).output))].sort((a, b) => a - b);
  const first = pairs.find((n) => i.takers.some((t) => outOf(t).output === n && hearsNothing(i, t)));
  const starts = [...new Set([pairs[0], first ?? pairs[0]])];
  return starts.flatMap((from) =>
    [-1, 1].flatMap((by) => {
      const moving = i.takers.filter((t) => outOf(t).output >= from);
      const fits = moving.every((t) => outOf(t).output + by >= 1 && outOf(t).output + by <= OUTPUTS);
      if (moving.length < 2 || !fits) return [];
      const all = moving.length === i.takers.length ? 'all' : 'the last';
      const where = by < 0 ? 'back' : 'up';
      const move = (now: Session, t: Track) =>
        onTrack(now, t.id, () => ({ input: { ...outOf(t), output: outOf(t).output + by } }));
      const label = `Move ${all} ${moving.length} lines one output ${where}`;
      return [{ label, next: () => moving.reduce(move, s) }];
    }),
  );
}

/** Layouts that were asked for, by session: laying a kit out takes a while. */
const layouts = new WeakMap<Session, Map<Id, LayoutRow[]>>();

/** How a part's line would be in a layout of the whole kit: its width, colour, name. */
function rowOf(s: Session, i: InstrumentView, part: InstrumentPart): LayoutRow | undefined {
  const known = layouts.get(s) ?? new Map<Id, LayoutRow[]>();
  layouts.set(s, known);
  if (!known.has(i.device.id)) known.set(i.device.id, planLayout(s, i.device.id).rows);
  return known.get(i.device.id)!.find((r) => r.part.id === part.id);
}

/** A pair that no part comes out of and no line takes, or half of one for a mono part. */
function freePlace(s: Session, i: InstrumentView, width: 1 | 2): OutPlace | null {
  const used = [
    ...i.parts.map((p) => outPlace(p.out)),
    ...takersOf(s, i.device.id).map((t): OutPlace => ({ pair: outOf(t).output, side: sideTaken(t) })),
  ];
  const pairs = Array.from({ length: OUTPUTS }, (_, n) => n + 1);
  const whole = pairs.find((n) => !used.some((u) => u.pair === n));
  if (whole) return { pair: whole, side: width === 1 ? 'left' : 'both' };
  if (width === 2) return null;
  const isFree = (pair: number, side: 'left' | 'right') =>
    !used.some((u) => u.pair === pair && (u.side === side || u.side === 'both'));
  for (const side of ['left', 'right'] as const) {
    const pair = pairs.find((n) => isFree(n, side));
    if (pair) return { pair, side };
  }
  return null;
}

/** The session with a new line on an output, behind the instrument's other lines and going where they go. */
function withLine(
  s: Session,
  i: InstrumentView,
  part: InstrumentPart,
  at: OutPlace,
  row: LayoutRow | undefined,
): Session {
  const takers = takersOf(s, i.device.id);
  const channels = at.side === 'both' ? (row?.width ?? 2) : 1;
  const last = takers.at(-1) ?? i.track;
  const line = createTrack('audio', {
    id: randomIds('trk'),
    name: freeName(
      part.name,
      s.tracks.map((t) => t.name),
    ),
    colour: row?.colour ?? i.track.colour,
    folder: last.folder,
    channels,
    input: {
      kind: 'deviceOutput',
      track: i.track.id,
      slot: i.device.id,
      output: at.pair,
      take: takeOf(at.side, channels),
    },
    output: last.output.kind === 'none' ? i.track.output : last.output,
  });
  const tracks = [...s.tracks];
  tracks.splice(tracks.findIndex((t) => t.id === last.id) + 1, 0, line);
  return { ...s, tracks };
}

export { viewOf };
