import { nameWith } from '../model/text.ts';
import { DEVICE_TYPES } from '../devices/index.ts';
import { outPlace } from '../devices/instrument.ts';
import type { InstrumentPart } from '../devices/instrument-type.ts';
import { compile } from '../engine/compile.ts';
import { createTrack, freeName, masterOf } from '../session/create.ts';
import { instrumentsOn, outLabel, takeOf, takersOf, type Instrument } from '../session/midi.ts';
import { mapDevices } from '../session/slots.ts';
import { same } from '../model/json.ts';
import { randomIds, type IdMaker } from '../model/ids.ts';
import type { Id, Session, Track } from '../model/types.ts';

/** What a part of an instrument is to become. */
export interface LayoutChoice {
  /** a line of its own, together with another part's, or left on the main output */
  mode: 'own' | 'with' | 'main';
  /** the part whose line it shares */
  with: string;
  width: 1 | 2;
  /** name and colour of its line */
  name: string;
  colour: string;
  /** name of a bus between its line and the instrument's bus; empty for none */
  sub: string;
}

export interface LayoutRow extends LayoutChoice {
  part: InstrumentPart;
  /** the line that takes its output now */
  line: Track | null;
  /** output that it gets, and the one that it has */
  out: string;
  was: string;
  /** what changes, in words; empty when nothing does */
  change: string;
}

export interface LayoutOptions {
  rows?: Record<string, Partial<LayoutChoice>>;
  /** pairs that stay empty */
  skip?: number[];
  /** two mono parts share a pair, one on each half */
  halves?: boolean;
  /** outputs are numbered anew in order; otherwise what has one keeps it */
  renumber?: boolean;
  /** null: lines go where the instrument's own line goes */
  bus?: string | null;
}

export interface KitLayout {
  track: Id;
  slot: Id;
  rows: LayoutRow[];
  options: Required<Omit<LayoutOptions, 'rows'>>;
  /** lines that lose their output */
  leaving: Track[];
  /** pairs used and there */
  used: number;
  outputs: number;
  /** reasons why it cannot be done like this */
  problems: string[];
}

/** Which drums usually share a line, how wide it is, its colour, and the bus between (common practice). */
const FAMILIES: {
  sounds: string[];
  name: string;
  width: 1 | 2;
  colour: string;
  sub: string;
  apart?: boolean;
}[] = [
  { sounds: ['kick'], name: 'Kick', width: 1, colour: 'rust', sub: '' },
  { sounds: ['snare', 'stick'], name: 'Snare', width: 1, colour: 'copper', sub: '' },
  { sounds: ['clap'], name: 'Clap', width: 1, colour: 'copper', sub: '' },
  { sounds: ['hat', 'pedal', 'open'], name: 'Hats', width: 1, colour: 'lantern', sub: '' },
  {
    sounds: ['lowtom', 'midtom', 'hightom'],
    name: 'Toms',
    width: 2,
    colour: 'kelp',
    sub: 'Toms',
    apart: true,
  },
  { sounds: ['crash'], name: 'Crash', width: 2, colour: 'brine', sub: '' },
  { sounds: ['ride', 'bell'], name: 'Ride', width: 1, colour: 'brine', sub: '' },
  { sounds: ['tambourine', 'shaker', 'block'], name: 'Percussion', width: 2, colour: 'heather', sub: '' },
  { sounds: ['stomp'], name: 'Deck stomp', width: 1, colour: 'rust', sub: '' },
  { sounds: ['oh'], name: 'Overheads', width: 2, colour: 'mussel', sub: '' },
  { sounds: ['room'], name: 'Room', width: 2, colour: 'mussel', sub: '' },
];

/** Sounds of a kit that people put onto one line on purpose (common practice). */
const KIN = [
  ['kick', 'stomp'],
  ['snare', 'stick', 'clap'],
  ['hat', 'pedal', 'open'],
  ['lowtom', 'midtom', 'hightom'],
  ['crash', 'ride', 'bell'],
  ['tambourine', 'shaker', 'block'],
  ['oh', 'room'],
];
export const sameFamily = (a: string, b: string): boolean => KIN.some((f) => f.includes(a) && f.includes(b));

export function instrumentAt(session: Session, slot: Id): Instrument {
  for (const t of session.tracks) {
    const i = instrumentsOn(t).find((x) => x.device.id === slot);
    if (i) return i;
  }
  throw new Error('The instrument is not in this session any more, or it is inactive: make it active first.');
}

/** The line that hears a part now: it takes the part's output and its half. */
const lineOf = (session: Session, slot: Id, out: string): Track | null => {
  const p = outPlace(out);
  const all =
    p.pair === 0
      ? []
      : takersOf(session, slot).filter((t) => t.input.kind === 'deviceOutput' && t.input.output === p.pair);
  return (
    all.find((t) => t.input.kind === 'deviceOutput' && t.input.take === takeOf(p.side, t.channels)) ??
    all.find(
      (t) =>
        t.input.kind === 'deviceOutput' &&
        (p.side === 'both' || t.input.take === p.side || t.input.take === 'stereo' || t.input.take === 'sum'),
    ) ??
    null
  );
};

/**
 * What each part starts with: as it stands where it has a line, otherwise by family for drums and apart for
 * everything else.
 */
function startOf(session: Session, i: Instrument, part: InstrumentPart, all: InstrumentPart[]): LayoutChoice {
  const line = lineOf(session, i.device.id, part.out);
  const family = FAMILIES.find((f) => f.sounds.includes(part.sound));
  const before = all.slice(0, all.indexOf(part));
  const bus =
    line?.output.kind === 'track'
      ? session.tracks.find((t) => t.id === (line.output as { track: Id }).track && t.role === 'bus')
      : undefined;
  const sub = bus === busOf(session, i) ? undefined : bus;
  if (line) {
    const host = before.find((p) => lineOf(session, i.device.id, p.out) === line);
    return {
      mode: host ? 'with' : 'own',
      with: host?.id ?? '',
      width: line.channels,
      name: line.name,
      colour: line.colour,
      sub: sub?.name ?? '',
    };
  }
  const laid = takersOf(session, i.device.id).length > 0;
  const host = family && !family.apart ? before.find((p) => family.sounds.includes(p.sound)) : undefined;
  const misplaced = laid && part.out === 'main' && all.some((p) => lineOf(session, i.device.id, p.out));
  return {
    mode: host && !misplaced ? 'with' : 'own',
    with: host?.id ?? '',
    width: family?.apart ? 1 : (family?.width ?? 2),
    name: host || family?.apart || !family ? part.name : family.name,
    colour: family?.colour ?? i.track.colour,
    sub: family?.sub ?? '',
  };
}

/**
 * Works out how an instrument's parts are laid out on outputs and lines: in order, mono parts on the left
 * half of a pair (or two on one pair), the lines that take them, a bus above. Changes nothing.
 * @throws when the instrument is gone or has no separate outputs
 */
export function planLayout(session: Session, slot: Id, options: LayoutOptions = {}): KitLayout {
  const i = instrumentAt(session, slot);
  const outputs = DEVICE_TYPES[i.device.type].instrument!.outputs;
  if (!outputs) throw new Error(`“${i.device.name}” has no separate outputs to lay out.`);
  const laid = takersOf(session, slot).length > 0;
  const usualBus = busOf(session, i)?.name ?? (laid ? null : nameWith(i.track.name, ' bus'));
  const opts = {
    skip: options.skip ?? [],
    halves: options.halves ?? false,
    renumber: options.renumber ?? !laid,
    bus: options.bus === undefined ? usualBus : options.bus,
  };
  const choices = choicesFor(session, i, options);
  const pairs = new Pairs(i, choices, opts, outputs);
  const outs = outsFor(i, choices, pairs);
  const rows = rowsFor(session, i, choices, outs);
  const kept = new Set(rows.flatMap((r) => (r.line ? [r.line.id] : [])));
  return {
    track: i.track.id,
    slot,
    rows,
    options: opts,
    leaving: takersOf(session, slot).filter((t) => !kept.has(t.id)),
    used: pairs.used().size,
    outputs,
    problems: shortage(i, choices, outs, opts, outputs),
  };
}

type Choices = Map<string, LayoutChoice>;

/** What becomes of each part: as asked for, otherwise as it starts, mended where it cannot be. */
function choicesFor(session: Session, i: Instrument, options: LayoutOptions): Choices {
  const choices: Choices = new Map(
    i.parts.map((p) => [p.id, { ...startOf(session, i, p, i.parts), ...options.rows?.[p.id] }]),
  );
  // a part may only share the line of one that has its own
  for (const [id, c] of choices) {
    if (c.mode !== 'with') continue;
    const host = choices.get(c.with);
    if (!host || host.mode !== 'own' || c.with === id) Object.assign(c, { mode: 'own', with: '' });
  }
  // buses between are there for two lines or more
  for (const p of i.parts) {
    const c = choices.get(p.id)!;
    const meant = options.rows?.[p.id]?.sub !== undefined || lineOf(session, i.device.id, p.out);
    const together = [...choices.values()].filter((x) => x.mode === 'own' && x.sub === c.sub).length;
    if (c.sub && !meant && together < 2) c.sub = '';
  }
  nameLoners(session, i, options, choices);
  return choices;
}

/** A family's name is for two of it or more: one that is without the others on a new line has its own name there. */
function nameLoners(session: Session, i: Instrument, options: LayoutOptions, choices: Choices): void {
  const soundOf = new Map(i.parts.map((p) => [p.id, p.sound]));
  const hosts = new Set<string>();
  for (const [id, c] of choices) {
    const host = soundOf.get(c.with);
    if (c.mode === 'with' && host && sameFamily(soundOf.get(id)!, host)) hosts.add(c.with);
  }
  for (const p of i.parts) {
    const meant = options.rows?.[p.id]?.name !== undefined || lineOf(session, i.device.id, p.out);
    if (!meant && !hosts.has(p.id)) choices.get(p.id)!.name = p.name;
  }
}

/** The outputs of an instrument while they are given out. */
class Pairs {
  /** output → the part that has it */
  private readonly taken = new Map<string, string>();
  constructor(
    private readonly i: Instrument,
    private readonly choices: Choices,
    private readonly opts: KitLayout['options'],
    private readonly outputs: number,
  ) {}

  used(): Set<number> {
    return new Set([...this.taken.keys()].map((o) => outPlace(o).pair));
  }

  /** An output for a part: the one that it has where that fits, otherwise the next free one; “main” when none is. */
  claim(id: string, width: 1 | 2, was: string): string {
    const out = !this.opts.renumber && this.fits(was, width) ? was : this.nextFree(width);
    if (out !== 'main') this.taken.set(out, id);
    return out;
  }

  private fits(was: string, width: 1 | 2): boolean {
    const p = outPlace(was);
    const overlaps = [...this.taken.keys()].some((o) => {
      const q = outPlace(o);
      return q.pair === p.pair && (q.side === 'both' || p.side === 'both' || q.side === p.side);
    });
    const exists = p.pair > 0 && p.pair <= this.outputs;
    return exists && !overlaps && (width === 1) === (p.side !== 'both');
  }

  private nextFree(width: 1 | 2): string {
    const reserved = this.reserved();
    for (let pair = 1; pair <= this.outputs; pair++) {
      if (this.opts.skip.includes(pair) || reserved.has(pair)) continue;
      if (!this.used().has(pair)) return width === 1 ? `${pair}L` : String(pair);
      const half =
        width === 1 && this.opts.halves && this.taken.has(`${pair}L`) && !this.taken.has(`${pair}R`);
      if (half) return `${pair}R`;
    }
    return 'main';
  }

  /** Outputs that parts still to come have already. */
  private reserved(): Set<number> {
    if (this.opts.renumber) return new Set();
    const waiting = this.i.parts.filter(
      (p) => this.choices.get(p.id)!.mode === 'own' && !this.taken.has(p.out),
    );
    return new Set(waiting.map((p) => outPlace(p.out).pair));
  }
}

/** The output of each part: its own, that of the part that it is with, or the main one. */
function outsFor(i: Instrument, choices: Choices, pairs: Pairs): Map<string, string> {
  const outs = new Map<string, string>();
  for (const p of i.parts) {
    const c = choices.get(p.id)!;
    if (c.mode === 'own') outs.set(p.id, pairs.claim(p.id, c.width, p.out));
  }
  for (const p of i.parts) {
    const c = choices.get(p.id)!;
    if (c.mode !== 'own') outs.set(p.id, c.mode === 'with' ? outs.get(c.with)! : 'main');
  }
  return outs;
}

/** Says when the instrument has too few outputs. */
function shortage(
  i: Instrument,
  choices: Choices,
  outs: Map<string, string>,
  opts: KitLayout['options'],
  outputs: number,
): string[] {
  const short = i.parts.some((p) => choices.get(p.id)!.mode === 'own' && outs.get(p.id) === 'main');
  if (!short) return [];
  const widths = [...choices.values()].filter((c) => c.mode === 'own').map((c) => c.width);
  const mono = widths.filter((w) => w === 1).length;
  const stereo = widths.length - mono;
  const need = stereo + (opts.halves ? Math.ceil(mono / 2) : mono);
  const skipped = opts.skip.length ? `, ${opts.skip.length} of them kept empty` : '';
  const share = !opts.halves && mono > 1 ? ', or let two mono parts share a pair' : '';
  return [
    `${stereo} stereo and ${mono} mono lines need ${need} stereo outputs; “${i.device.name}” has ${outputs}${skipped}. Put parts together${share}.`,
  ];
}

function rowsFor(session: Session, i: Instrument, choices: Choices, outs: Map<string, string>): LayoutRow[] {
  // a line goes on with the first part that has it and still wants one of its own
  const owners = new Set<Id>();
  return i.parts.map((part): LayoutRow => {
    const c = choices.get(part.id)!;
    const out = outs.get(part.id)!;
    const there = c.mode === 'own' ? lineOf(session, i.device.id, part.out) : null;
    const line = there && !owners.has(there.id) ? there : null;
    if (line) owners.add(line.id);
    const { name, colour, width } = c.mode === 'with' ? choices.get(c.with)! : c;
    const moves = out !== part.out ? `${outLabel(outPlace(part.out))} → ${outLabel(outPlace(out))}` : '';
    const makes = c.mode === 'own' && !line ? `new line “${c.name}”` : '';
    const renames = c.mode === 'own' && line && line.name !== c.name ? `“${line.name}” → “${c.name}”` : '';
    const change = [moves, makes, renames].filter(Boolean).join(', ');
    return { ...c, name, colour, width, part, line, out, was: part.out, change };
  });
}

/**
 * The bus above an instrument: where its own line goes. Other buses that its lines go to are buses between.
 */
const busOf = (session: Session, i: Instrument): Track | undefined =>
  i.track.output.kind === 'track'
    ? session.tracks.find((x) => x.id === (i.track.output as { track: Id }).track && x.role === 'bus')
    : undefined;

/**
 * Carries a layout out: outputs assigned, lines made, renamed and routed to the bus and only there, nothing
 * else touched. Lines that lose their output go when there is nothing on them; otherwise they stay, inactive.
 * @throws when the layout has problems or would make a loop
 */
export function applyLayout(session: Session, layout: KitLayout, ids: IdMaker = randomIds): Session {
  if (layout.problems.length) throw new Error(layout.problems[0]);
  const w = new LayoutWork(session, layout, ids);
  for (const r of layout.rows) if (r.mode === 'own') w.line(r);
  for (const t of layout.leaving) w.leave(t);
  const out = w.session();
  // a bus between that the kit's bus already leads into would close a loop: this says so, with the names
  compile(out);
  return out;
}

/** A layout while it is carried out. */
class LayoutWork {
  private readonly i: Instrument;
  private readonly names: Set<string>;
  private readonly changed = new Map<Id, Track>();
  private readonly gone = new Set<Id>();
  private readonly made: Track[] = [];
  private readonly buses: Track[] = [];
  /** buses between, by name */
  private readonly subs = new Map<string, Id>();
  private readonly busId: Id | null;
  /** where the lines go: the bus, or where the instrument itself goes */
  private readonly to: Track['output'];

  constructor(
    private readonly before: Session,
    private readonly layout: KitLayout,
    private readonly ids: IdMaker,
  ) {
    this.i = instrumentAt(before, layout.slot);
    this.names = new Set(before.tracks.map((t) => t.name));
    const old = busOf(before, this.i);
    // where the bus itself goes, or the lines when there is none
    const above = old ? old.output : this.i.track.output;
    const home: Track['output'] =
      above.kind === 'none' ? { kind: 'track', track: masterOf(before).id } : above;
    this.busId = layout.options.bus === null ? null : this.bus(layout.options.bus, old, home);
    this.to = this.busId ? { kind: 'track', track: this.busId } : home;
  }

  private fresh(wanted: string): string {
    const name = freeName(wanted, this.names);
    this.names.add(name);
    return name;
  }

  /** The bus above all lines: the one that is there, under its new name, or a new one. */
  private bus(name: string, old: Track | undefined, output: Track['output']): Id {
    const named = this.before.tracks.find((t) => t.role === 'bus' && t.name === name);
    const known = old?.name === name ? old : (named ?? old);
    if (!known) {
      const id = this.ids('trk');
      const colour = this.i.track.colour;
      this.buses.push(createTrack('bus', { id, name: this.fresh(name), colour, output }, this.ids));
      return id;
    }
    if (known.name !== name) {
      this.names.delete(known.name);
      this.changed.set(known.id, { ...known, name: this.fresh(name) });
    }
    return known.id;
  }

  private outputFor(sub: string): Track['output'] {
    if (!sub || sub === this.layout.options.bus) return this.to;
    if (!this.subs.has(sub)) this.subs.set(sub, this.subBus(sub));
    return { kind: 'track', track: this.subs.get(sub)! };
  }

  private subBus(name: string): Id {
    const known = this.before.tracks.find((t) => t.role === 'bus' && t.name === name && t.id !== this.busId);
    if (known) {
      this.changed.set(known.id, { ...known, output: this.to });
      return known.id;
    }
    const id = this.ids('trk');
    const { colour } = this.layout.rows.find((r) => r.sub === name)!;
    this.buses.push(createTrack('bus', { id, name: this.fresh(name), colour, output: this.to }, this.ids));
    return id;
  }

  /** A line of its own for a part: the one that it has, or a new one. */
  line(r: LayoutRow): void {
    const p = outPlace(r.out);
    const take = takeOf(p.side, r.width);
    const input: Track['input'] = {
      kind: 'deviceOutput',
      track: this.i.track.id,
      slot: this.layout.slot,
      output: p.pair,
      take,
    };
    if (r.line) this.names.delete(r.line.name);
    const over = { name: this.fresh(r.name), colour: r.colour, channels: r.width, input };
    const output = this.outputFor(r.sub);
    if (r.line) this.changed.set(r.line.id, { ...r.line, ...over, output });
    else {
      const { folder } = this.i.track;
      this.made.push(createTrack('audio', { ...over, output, folder }, this.ids));
    }
  }

  /** A line that loses its output goes when nothing is on it and nothing leads to it; otherwise it sleeps. */
  leave(t: Track): void {
    const empty = !t.chain.length && !t.sends.length && !t.clips.length;
    const leadsHere = (x: Track) =>
      x.sends.some((s) => s.to === t.id) || (x.output.kind === 'track' && x.output.track === t.id);
    if (empty && !this.before.tracks.some(leadsHere)) this.gone.add(t.id);
    else this.changed.set(t.id, { ...t, input: { kind: 'none' }, state: 'inactive' });
  }

  private instrument(t: Track): Track {
    const { slot, rows } = this.layout;
    const params = Object.fromEntries(rows.map((r) => [r.part.outParam, r.out]));
    const chain = mapDevices(t.chain, (d) =>
      d.id === slot ? { ...d, params: { ...d.params, ...params } } : d,
    );
    return { ...t, output: this.to, chain };
  }

  session(): Session {
    const { slot } = this.layout;
    const tracks = this.before.tracks
      .filter((t) => !this.gone.has(t.id))
      .map((t) => {
        const now = this.changed.get(t.id) ?? t;
        if (t.id === this.i.track.id) return this.instrument(now);
        return same(now, t) ? t : now;
      });
    // behind the last line that is there already, in the order of the outputs
    const last = Math.max(
      tracks.findIndex((t) => t.id === this.i.track.id),
      ...tracks.map((t, k) => (t.input.kind === 'deviceOutput' && t.input.slot === slot ? k : -1)),
    );
    tracks.splice(last + 1, 0, ...this.made);
    const firstBus = tracks.findIndex((t) => ['bus', 'return', 'master'].includes(t.role));
    tracks.splice(Math.max(firstBus, last + 1 + this.made.length), 0, ...this.buses.reverse());
    return { ...this.before, tracks };
  }
}
