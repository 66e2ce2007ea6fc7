import { DEVICE_TYPES } from '../devices/index.ts';
import { outPlace } from '../devices/instrument.ts';
import type { InstrumentPart } from '../devices/instrument-type.ts';
import { landsOn, outLabel, outOf, sideTaken, takersOf } from '../session/midi.ts';
import { devicesIn, mapDevices } from '../session/slots.ts';
import { signalGraph } from '../session/graph.ts';
import { Arena } from '../devices/kernels/index.ts';
import { drive, type RenderOptions } from '../engine/offline.ts';
import { Renderer } from '../engine/renderer.ts';
import { words } from '../drop/words.ts';
import type { Id, Session, Track } from '../model/types.ts';
import { instrumentAt } from './layout.ts';

const { abs, ceil, log10, max, sqrt } = Math;

/** dBFS; −200 for nothing at all */
export interface TapCell {
  peak: number;
  rms: number;
}
export type TapVerdict =
  'right' | 'silent' | 'main' | 'swapped' | 'shifted' | 'wrong' | 'doubled' | 'clips' | 'low';

export interface TapRow {
  part: string;
  name: string;
  out: string;
  /** the line that its name says, or the one that takes its output when no name does */
  expected: Id | null;
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
function reached(session: Session, from: Id): Session {
  const flows = signalGraph(session).flows.filter((f) => f.kind !== 'key' && f.kind !== 'midi');
  const keep = new Set([from]);
  const todo = [from];
  while (todo.length) {
    const at = todo.pop()!;
    for (const f of flows) {
      if (f.from === at && !keep.has(f.to)) {
        keep.add(f.to);
        todo.push(f.to);
      }
    }
  }
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
  const played = reached(session, i.track.id);
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
        expected: expectedFor(part, takers, parts, i.track),
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
const stems = (s: string) => words(s).map((w) => w.replace(/s$/, ''));

/** How much of a part's name a line's name has: 3 for all of it, then by shared words. */
export function nameFit(part: string, line: string): number {
  const [a, b] = [stems(part), stems(line)];
  if (a.join(' ') === b.join(' ')) return 3;
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
): Id | null {
  const best = takers
    .map((t) => ({ t, fit: nameFit(part.name, t.name) }))
    .filter(
      (x) => x.fit > 0 && !(x.fit < 3 && parts.some((p) => p !== part && nameFit(p.name, x.t.name) === 3)),
    )
    .sort((a, b) => b.fit - a.fit)[0];
  return (
    best?.t.id ?? takers.find((t) => landsOn(part, t))?.id ?? (outPlace(part.out).pair === 0 ? main.id : null)
  );
}

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

/** Fills in where each part landed and what to think of it. */
export function judge(rows: TapRow[], lines: TapResult['lines'], main: Id): void {
  const name = (id: Id | null) => `“${lines.find((l) => l.id === id)?.name ?? '?'}”`;
  const at = (id: Id | null) => lines.findIndex((l) => l.id === id);
  const level = (r: TapRow, id: Id) => r.cells[id]?.peak ?? -200;
  const separate = rows.some((r) => r.expected !== null && r.expected !== main);
  for (const r of rows) {
    // a part's own line may also be one that hears bleed; others that hear bleed say nothing
    const own = lines
      .filter((l) => l.id !== main && (!l.bleed || l.id === r.expected))
      .filter((l) => level(r, l.id) > TAP.nothing)
      .sort((a, b) => level(r, b.id) - level(r, a.id));
    const onMain =
      level(r, main) > TAP.nothing && (r.out === 'Main' || !lines.find((l) => l.id === main)!.bleed);
    r.landed = own[0]?.id ?? (onMain ? main : null);
    if (r.landed === null) {
      r.verdict = 'silent';
      r.text =
        r.expected && r.expected !== main
          ? `nothing arrives, neither on ${name(r.expected)} nor anywhere else`
          : 'nothing arrives anywhere';
    } else if (onMain && separate) {
      r.verdict = 'main';
      r.text = own.length
        ? `also on the main output of ${name(main)}`
        : `only on the main output of ${name(main)}`;
    } else if (own.length > 1 && level(r, own[0].id) - level(r, own[1].id) < TAP.near) {
      r.verdict = 'doubled';
      r.text = `on ${own
        .filter((l) => level(r, own[0].id) - level(r, l.id) < TAP.near)
        .map((l) => name(l.id))
        .join(' and ')} at once`;
    } else if (r.expected !== null && r.landed !== r.expected) r.verdict = 'wrong';
    else if (level(r, r.landed) > 0) {
      r.verdict = 'clips';
      r.text = `${level(r, r.landed).toFixed(1)} dBFS on ${name(r.landed)}`;
    } else if (level(r, r.landed) < TAP.low) {
      r.verdict = 'low';
      r.text = `only ${level(r, r.landed).toFixed(1)} dBFS on ${name(r.landed)}`.replace('-', '−');
    } else {
      r.verdict = 'right';
      r.text = `on ${name(r.landed)}, ${level(r, r.landed).toFixed(1)} dBFS`.replace('-', '−');
    }
  }
  // two that stand in each other's place are swapped; one place off is shifted
  for (const r of rows) {
    if (r.verdict !== 'wrong') continue;
    const other = rows.find(
      (x) =>
        x !== r &&
        (x.verdict === 'wrong' || x.verdict === 'swapped') &&
        x.landed === r.expected &&
        x.expected === r.landed,
    );
    const off = at(r.landed) - at(r.expected);
    if (other) {
      r.verdict = 'swapped';
      r.text = `on ${name(r.landed)}: it and “${other.name}” stand in each other’s place`;
    } else if (abs(off) === 1) {
      r.verdict = 'shifted';
      r.text = `one place too ${off > 0 ? 'far' : 'early'}: on ${name(r.landed)} instead of ${name(r.expected)}`;
    } else r.text = `on ${name(r.landed)} instead of ${name(r.expected)}`;
  }
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
