import { DEVICE_TYPES } from '../devices/index.ts';
import { outPlace } from '../devices/instrument.ts';
import type { InstrumentPart } from '../devices/instrument-type.ts';
import { landsOn, outLabel, outOf, sideTaken, takersOf } from '../session/midi.ts';
import { devicesIn, mapDevices } from '../session/slots.ts';
import { signalGraph } from '../session/graph.ts';
import { Ways } from '../session/reach.ts';
import { Arena } from '../devices/kernels/index.ts';
import { drive, type RenderOptions } from '../engine/offline.ts';
import { Renderer } from '../engine/renderer.ts';
import { words } from '../drop/words.ts';
import type { Id, Session, Track } from '../model/types.ts';
import { instrumentAt, sameFamily } from './layout.ts';

const { abs, ceil, log10, max, sqrt } = Math;

/** dBFS; −200 for nothing at all */
export interface TapCell {
  peak: number;
  rms: number;
}
export type TapVerdict =
  | 'right'
  | 'silent'
  | 'main'
  | 'swapped'
  | 'shifted'
  | 'wrong'
  | 'doubled'
  | 'half'
  | 'clips'
  | 'low'
  /** it arrives, on a line whose name says nothing of it */
  | 'unnamed';

export interface TapRow {
  part: string;
  name: string;
  out: string;
  /** the line that its name says, or the one that takes its output when no name does */
  expected: Id | null;
  /** whether its name says so, or that of a relative that it shares the line with */
  named: boolean;
  /** lines that have the name of a part that is nothing like it */
  strangers: Id[];
  /** comes out of both sides of a pair */
  stereo: boolean;
  /** where it came out loudest; the instrument's own line for the main output */
  landed: Id | null;
  cells: Record<Id, TapCell>;
  verdict: TapVerdict;
  /** in words, with names */
  text: string;
}

export interface TapResult {
  track: Id;
  slot: Id;
  /** lines in the order of the outputs that they take, the instrument's own first */
  lines: {
    id: Id;
    name: string;
    out: string;
    /** overheads and room are meant to hear everything */ bleed: boolean;
    /** the side of a pair that it takes, when it is one only */
    half: 'left' | 'right' | null;
  }[];
  rows: TapRow[];
  master: Id;
}

/**
 * Levels that a verdict turns on, in dBFS: what counts as nothing, as too soft before the fader (line-check
 * rule), and how near a second line is to be called doubled (dB).
 */
export const TAP = { nothing: -80, low: -18, near: 18, velocity: 127, seconds: 0.4 };

const db = (x: number) => (x > 0 ? 20 * log10(x) : -200);

/**
 * What of a session an instrument's sound can reach, without any other sound: no clips, no notes, no solos.
 */
function reachedBy(session: Session, from: Id): Session {
  const flows = signalGraph(session).flows.filter((f) => f.kind !== 'key' && f.kind !== 'midi');
  const keep = new Ways(flows).behind([from]);
  const alone = (t: Track): Track => ({
    ...t,
    automation: undefined,
    clips: [],
    notes: [],
    solo: false,
    sends: t.sends.filter((s) => keep.has(s.to)),
    chain: mapDevices(t.chain, (d) =>
      d.key.kind === 'track' && !keep.has(d.key.track) ? { ...d, key: { kind: 'own' } } : d,
    ),
  });
  return {
    ...session,
    tracks: session.tracks.filter((t) => keep.has(t.id) || t.role === 'master').map(alone),
  };
}

/**
 * Strikes each part of an instrument alone and measures where it comes out: peak and RMS at the input of
 * every line that takes an output, at the instrument's own main output and at the master.
 * Each verdict compares where a part lands with the line that has its name.
 */
export const tapTest = (
  session: Session,
  slot: Id,
  options: Pick<RenderOptions, 'onProgress' | 'signal'> & { velocity?: number } = {},
): Promise<TapResult> => drive(steps(session, slot, options.velocity ?? TAP.velocity), options);

function* steps(session: Session, slot: Id, velocity: number): Generator<number, TapResult> {
  const i = instrumentAt(session, slot);
  const played = reachedBy(session, i.track.id);
  const parts = i.parts.filter((p) => p.kind === 'part');
  const mics = i.parts.filter((p) => p.kind === 'mic');
  const takers = takersOf(session, slot)
    .filter((t) => t.state === 'on')
    .sort((a, b) => place(a) - place(b));
  const master = session.tracks.find((t) => t.role === 'master')!.id;
  const lines = [i.track, ...takers].map((t) => ({
    id: t.id,
    name: t.name,
    out: t === i.track ? 'Main' : outLabel({ pair: outOf(t).output, side: sideTaken(t) }),
    bleed: t === i.track ? mics.some((m) => m.out === 'main') : mics.some((m) => landsOn(m, t)),
    half: t === i.track ? null : halfTaken(t),
  }));
  const rows: TapRow[] = [];
  const arena = new Arena();
  try {
    // one engine for all parts, emptied between them: making one takes longer than the sound
    const engine = new Renderer(played.sampleRate, BLOCK, new Map(), arena);
    engine.metering = false;
    engine.update(played, true);
    const places = [
      { id: i.track.id, at: engine.node(i.track.id)! },
      ...[...takers.map((t) => t.id), master].map((id) => {
        const node = engine.node(id)!;
        return { id, at: (node.arriving ??= { l: new Float64Array(BLOCK), r: new Float64Array(BLOCK) }) };
      }),
    ];
    const frames = ceil((TAP.seconds * played.sampleRate + engine.schedule!.latency) / BLOCK) * BLOCK;
    for (const [k, part] of parts.entries()) {
      yield k / parts.length;
      rows.push({
        part: part.id,
        name: part.name,
        out: outLabel(outPlace(part.out)),
        ...expectedFor(part, takers, parts, i.track),
        strangers: takers.filter((t) => isStranger(part, t, parts)).map((t) => t.id),
        stereo: outPlace(part.out).pair > 0 && outPlace(part.out).side === 'both',
        landed: null,
        cells: measure(engine, slot, part, velocity, places, frames),
        verdict: 'right',
        text: '',
      });
    }
  } finally {
    arena.release();
  }
  judge(rows, lines, i.track.id);
  return { track: i.track.id, slot, lines, rows, master };
}

const place = (t: Track) => outOf(t).output * 4 + (outOf(t).take === 'right' ? 1 : 0);
/** Words of names in the singular, kept: a kit's names are laid beside each other again and again. */
const stemmed = new Map<string, string[]>();
function stems(s: string): string[] {
  const known = stemmed.get(s);
  if (known) return known;
  const made = words(s).map((w) => w.replace(/s$/, ''));
  if (stemmed.size > 5000) stemmed.clear();
  stemmed.set(s, made);
  return made;
}

/** How much of a part's name a line's name has: 3 for all of it, then by shared words. */
export function nameFit(part: string, line: string): number {
  const [a, b] = [stems(part), stems(line)];
  if (a.length === b.length && a.every((w, k) => w === b[k])) return 3;
  const shared = b.filter((w) => a.includes(w)).length;
  return shared === 0 ? 0 : shared / max(a.length, b.length) + (shared === b.length ? 1 : 0);
}

/**
 * The line that a part belongs on: the one that has its name better than any other part's, or else the one
 * that takes its output.
 */
export function expectedFor(
  part: InstrumentPart,
  takers: Track[],
  parts: InstrumentPart[],
  main: Track,
): { expected: Id | null; named: boolean } {
  const best = takers
    .map((t) => ({ t, fit: nameFit(part.name, t.name) }))
    .filter(
      (x) => x.fit > 0 && !(x.fit < 3 && parts.some((p) => p !== part && nameFit(p.name, x.t.name) === 3)),
    )
    .sort((a, b) => b.fit - a.fit)[0];
  if (best) return { expected: best.t.id, named: true };
  const taking = takers.find((t) => landsOn(part, t));
  const expected = taking?.id ?? (outPlace(part.out).pair === 0 ? main.id : null);
  return { expected, named: !!taking && hasRelative(part, taking, parts) };
}

/** Whether it is laid together on a line with drums of its family, or on the line of one. */
const hasRelative = (part: InstrumentPart, t: Track, parts: InstrumentPart[]): boolean =>
  parts.some(
    (p) => p !== part && sameFamily(p.sound, part.sound) && (landsOn(p, t) || nameFit(p.name, t.name) === 3),
  );

/** A line that has another part's name, one that this part is not put together with. */
const isStranger = (part: InstrumentPart, t: Track, parts: InstrumentPart[]): boolean => {
  const owner = parts.find((p) => p !== part && nameFit(p.name, t.name) === 3);
  return !!owner && nameFit(part.name, t.name) === 0 && !sameFamily(part.sound, owner.sound);
};
const halfTaken = (t: Track): 'left' | 'right' | null => {
  const { take } = outOf(t);
  return take === 'left' || take === 'right' ? take : null;
};

const BLOCK = 512;
/** Strikes one part and keeps the peak and RMS at every place. */
function measure(
  engine: Renderer,
  slot: Id,
  part: InstrumentPart,
  velocity: number,
  places: { id: Id; at: { l: Float64Array; r: Float64Array } }[],
  frames: number,
): Record<Id, TapCell> {
  const out = new Float64Array(BLOCK);
  const sums = places.map(() => ({ peak: 0, square: 0 }));
  engine.reset();
  engine.hit(slot, part.strike, velocity);
  for (let at = 0; at < frames; at += BLOCK) {
    engine.process(out, out, BLOCK);
    for (const [
      k,
      {
        at: { l, r },
      },
    ] of places.entries()) {
      let p = sums[k].peak;
      let sum = 0;
      for (let n = 0; n < BLOCK; n++) {
        const a = abs(l[n]);
        const b = abs(r[n]);
        if (a > p) p = a;
        if (b > p) p = b;
        sum += l[n] * l[n] + r[n] * r[n];
      }
      sums[k].peak = p;
      sums[k].square += sum;
    }
  }
  return Object.fromEntries(
    places.map(({ id }, k) => [id, { peak: db(sums[k].peak), rms: db(sqrt(sums[k].square / (2 * frames))) }]),
  );
}

/** What one row is judged by: names, places and levels of the lines. */
function judging(lines: TapResult['lines'], main: Id) {
  const byId = new Map(lines.map((l) => [l.id, l]));
  return {
    main,
    lines,
    line: (id: Id | null) => byId.get(id ?? ''),
    name: (id: Id | null) => `“${byId.get(id ?? '')?.name ?? '?'}”`,
    at: (id: Id | null) => lines.findIndex((l) => l.id === id),
    level: (r: TapRow, id: Id) => r.cells[id]?.peak ?? -200,
    said: (r: TapRow, id: Id) => `${(r.cells[id]?.peak ?? -200).toFixed(1)} dBFS`.replace('-', '−'),
  };
}
type Judging = ReturnType<typeof judging>;

/** Fills in where each part landed and what to think of it. */
export function judge(rows: TapRow[], lines: TapResult['lines'], main: Id): void {
  const c = judging(lines, main);
  const separate = rows.some((r) => r.expected !== null && r.expected !== main);
  for (const r of rows) [r.verdict, r.text] = judgeRow(r, separate, c);
  for (const r of rows) if (r.verdict === 'wrong' && !r.text) [r.verdict, r.text] = displaced(r, rows, c);
}

/** Where it landed (which it writes into the row) and the verdict on that; no words yet where it is elsewhere. */
function judgeRow(r: TapRow, separate: boolean, c: Judging): [TapVerdict, string] {
  const { main, name, level, said } = c;
  // a part's own line may also be one that hears bleed; others that hear bleed say nothing
  const heard = c.lines.filter((l) => l.id !== main && level(r, l.id) > TAP.nothing);
  const own = heard
    .filter((l) => !l.bleed || l.id === r.expected)
    .sort((a, b) => level(r, b.id) - level(r, a.id));
  const onMain = level(r, main) > TAP.nothing && (r.out === 'Main' || !c.line(main)!.bleed);
  const landed = own[0]?.id ?? (onMain ? main : null);
  r.landed = landed;
  if (landed === null) return ['silent', silentText(r, heard, c)];
  if (onMain && separate) {
    return ['main', `${own.length ? 'also' : 'only'} on the main output of ${name(main)}`];
  }
  const near = own.filter((l) => level(r, own[0].id) - level(r, l.id) < TAP.near);
  if (near.length > 1) return ['doubled', `on ${near.map((l) => name(l.id)).join(' and ')} at once`];
  if (r.strangers.includes(landed)) {
    return ['wrong', r.named ? '' : `on ${name(landed)}, which has another part’s name`];
  }
  if (r.expected !== null && landed !== r.expected) return ['wrong', ''];
  const half = r.stereo ? c.line(landed)!.half : null;
  if (half) return ['half', `only its ${half} half, on ${name(landed)}`];
  if (level(r, landed) > 0) return ['clips', `${said(r, landed)} on ${name(landed)}`];
  if (level(r, landed) < TAP.low) return ['low', `only ${said(r, landed)} on ${name(landed)}`];
  const where = `on ${name(landed)}, ${said(r, landed)}`;
  if (!r.named && landed !== main) return ['unnamed', `${where}; its name says nothing of it`];
  return ['right', where];
}

/** Nothing on a line of its own: what is heard of it elsewhere is bleed, and is told. */
function silentText(r: TapRow, heard: TapResult['lines'], { main, name, said }: Judging): string {
  const there = r.expected && r.expected !== main ? `nothing arrives on ${name(r.expected)}` : '';
  if (!heard.length) return there ? `${there}, nor anywhere else` : 'nothing arrives anywhere';
  const bleed = heard.map((l) => `${name(l.id)} (${said(r, l.id)})`).join(', ');
  return `${there || 'nothing arrives on a line of its own'}; only its bleed on ${bleed}`;
}

/** Two that stand in each other's place are swapped; one place off is shifted. */
function displaced(r: TapRow, rows: TapRow[], { name, at }: Judging): [TapVerdict, string] {
  const other = rows.find(
    (x) =>
      x !== r &&
      (x.verdict === 'wrong' || x.verdict === 'swapped') &&
      x.landed === r.expected &&
      x.expected === r.landed,
  );
  if (other) {
    return ['swapped', `on ${name(r.landed)}: it and “${other.name}” stand in each other’s place`];
  }
  const off = at(r.landed) - at(r.expected);
  const instead = `on ${name(r.landed)} instead of ${name(r.expected)}`;
  if (abs(off) !== 1) return ['wrong', instead];
  return ['shifted', `one place too ${off > 0 ? 'far' : 'early'}: ${instead}`];
}

/** Instruments of a session that have separate outputs, for a choice. */
export const tappable = (s: Session): { track: Track; slot: Id; name: string }[] =>
  s.tracks
    .filter((t) => t.state === 'on')
    .flatMap((track) =>
      devicesIn(track.chain)
        .filter((d) => d.state !== 'inactive' && (DEVICE_TYPES[d.type].instrument?.outputs ?? 0) > 0)
        .map((d) => ({
          track,
          slot: d.id,
          name: d.name === track.name ? track.name : `${track.name} · ${d.name}`,
        })),
    );
