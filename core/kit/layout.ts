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
  const bus = busOf(session, i);
  const laid = takersOf(session, slot).length > 0;
  const opts = {
    skip: options.skip ?? [],
    halves: options.halves ?? false,
    renumber: options.renumber ?? !laid,
    bus: options.bus === undefined ? (bus?.name ?? (laid ? null : `${i.track.name} bus`)) : options.bus,
  };
  const problems: string[] = [];
  const choices = new Map(
    i.parts.map((p) => [p.id, { ...startOf(session, i, p, i.parts), ...options.rows?.[p.id] }]),
  );
  // a part may only share the line of one that has its own
  for (const [id, c] of choices) {
    if (c.mode === 'with') {
      const host = choices.get(c.with);
      if (!host || host.mode !== 'own' || c.with === id) {
        c.mode = 'own';
        c.with = '';
      }
    }
  }
  // buses between are there for two lines or more
  for (const p of i.parts) {
    const c = choices.get(p.id)!;
    if (
      c.sub &&
      !lineOf(session, slot, p.out) &&
      [...choices.values()].filter((x) => x.mode === 'own' && x.sub === c.sub).length < 2 &&
      options.rows?.[p.id]?.sub === undefined
    ) {
      c.sub = '';
    }
  }

  const taken = new Map<string, string>();
  const usedPairs = () => new Set([...taken.keys()].map((o) => outPlace(o).pair));
  const claim = (id: string, width: 1 | 2, was: string): string => {
    const p = outPlace(was);
    const fits =
      p.pair > 0 &&
      p.pair <= outputs &&
      !taken.has(was) &&
      (width === 1) === (p.side !== 'both') &&
      ![...taken.keys()].some((o) => {
        const q = outPlace(o);
        return q.pair === p.pair && (q.side === 'both' || p.side === 'both' || q.side === p.side);
      });
    if (!opts.renumber && fits) {
      taken.set(was, id);
      return was;
    }
    const reserved = opts.renumber
      ? new Set<number>()
      : new Set(
          i.parts
            .filter((x) => choices.get(x.id)!.mode === 'own' && !taken.has(x.out))
            .map((x) => outPlace(x.out).pair),
        );
    for (let pair = 1; pair <= outputs; pair++) {
      if (opts.skip.includes(pair) || reserved.has(pair)) continue;
      const free = !usedPairs().has(pair);
      const outOf = () => {
        if (free) return width === 1 ? `${pair}L` : String(pair);
        if (width === 1 && opts.halves && taken.has(`${pair}L`) && !taken.has(`${pair}R`)) return `${pair}R`;
        return null;
      };
      const out = outOf();
      if (out) {
        taken.set(out, id);
        return out;
      }
    }
    return 'main';
  };
  const outs = new Map<string, string>();
  for (const p of i.parts) {
    const c = choices.get(p.id)!;
    if (c.mode === 'own') outs.set(p.id, claim(p.id, c.width, p.out));
  }
  for (const p of i.parts) {
    const c = choices.get(p.id)!;
    if (c.mode !== 'own') outs.set(p.id, c.mode === 'with' ? outs.get(c.with)! : 'main');
  }
  const wanted = [...choices.values()].filter((c) => c.mode === 'own');
  const short = i.parts.filter((p) => choices.get(p.id)!.mode === 'own' && outs.get(p.id) === 'main');
  if (short.length) {
    const [stereo, mono] = [
      wanted.filter((c) => c.width === 2).length,
      wanted.filter((c) => c.width === 1).length,
    ];
    const need = stereo + (opts.halves ? Math.ceil(mono / 2) : mono);
    problems.push(
      `${stereo} stereo and ${mono} mono lines need ${need} stereo outputs; “${i.device.name}” has ${outputs}${opts.skip.length ? `, ${opts.skip.length} of them kept empty` : ''}. Put parts together${!opts.halves && mono > 1 ? ', or let two mono parts share a pair' : ''}.`,
    );
  }
  // a line goes on with the first part that has it and still wants one of its own
  const owners = new Set<Id>();
  const rows = i.parts.map((part): LayoutRow => {
    const c = choices.get(part.id)!;
    const out = outs.get(part.id)!;
    let line = c.mode === 'own' ? lineOf(session, slot, part.out) : null;
    if (line && owners.has(line.id)) line = null;
    if (line) owners.add(line.id);
    const host = c.mode === 'with' ? choices.get(c.with)! : c;
    const moves = out !== part.out ? `${outLabel(outPlace(part.out))} → ${outLabel(outPlace(out))}` : '';
    const makes = c.mode === 'own' && !line ? `new line “${c.name}”` : '';
    const renames = c.mode === 'own' && line && line.name !== c.name ? `“${line.name}” → “${c.name}”` : '';
    return {
      ...c,
      name: host.name,
      colour: host.colour,
      width: host.width,
      part,
      line,
      out,
      was: part.out,
      change: [moves, makes, renames].filter(Boolean).join(', '),
    };
  });
  const kept = new Set(rows.flatMap((r) => (r.line ? [r.line.id] : [])));
  return {
    track: i.track.id,
    slot,
    rows,
    options: opts,
    leaving: takersOf(session, slot).filter((t) => !kept.has(t.id)),
    used: usedPairs().size,
    outputs,
    problems,
  };
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
  const i = instrumentAt(session, layout.slot);
  const master = masterOf(session).id;
  const names = new Set(session.tracks.map((t) => t.name));
  const fresh = (wanted: string) => {
    const n = freeName(wanted, names);
    names.add(n);
    return n;
  };
  const buses: Track[] = [];
  const { bus } = layout.options;
  const old = busOf(session, i);
  // where the bus itself goes, or the lines when there is none
  const above = old ? old.output : i.track.output;
  const home: Track['output'] = above.kind === 'none' ? { kind: 'track', track: master } : above;
  const changed = new Map<Id, Track>();
  const made: Track[] = [];
  let busId: Id | null = null;
  if (bus !== null) {
    const known =
      old?.name === bus ? old : (session.tracks.find((t) => t.role === 'bus' && t.name === bus) ?? old);
    busId = known?.id ?? ids('trk');
    // the bus that is there gets the other name
    if (known && known.name !== bus) {
      names.delete(known.name);
      changed.set(known.id, { ...known, name: fresh(bus) });
    }
    if (!known) {
      buses.push(
        createTrack('bus', { id: busId, name: fresh(bus), colour: i.track.colour, output: home }, ids),
      );
    }
  }
  const to: Track['output'] = busId ? { kind: 'track', track: busId } : home;
  const subs = new Map<string, Id>();
  const subOf = (name: string): Track['output'] => {
    if (!name || name === bus) return to;
    if (!subs.has(name)) {
      const known = session.tracks.find((t) => t.role === 'bus' && t.name === name && t.id !== busId);
      subs.set(name, known?.id ?? ids('trk'));
      if (known) changed.set(known.id, { ...known, output: to });
      else {
        buses.push(
          createTrack(
            'bus',
            {
              id: subs.get(name)!,
              name: fresh(name),
              colour: layout.rows.find((r) => r.sub === name)!.colour,
              output: to,
            },
            ids,
          ),
        );
      }
    }
    return { kind: 'track', track: subs.get(name)! };
  };
  for (const r of layout.rows) {
    if (r.mode !== 'own') continue;
    const p = outPlace(r.out);
    const input = {
      kind: 'deviceOutput' as const,
      track: i.track.id,
      slot: layout.slot,
      output: p.pair,
      take: takeOf(p.side, r.width),
    };
    if (r.line) {
      names.delete(r.line.name);
      changed.set(r.line.id, {
        ...r.line,
        name: fresh(r.name),
        colour: r.colour,
        channels: r.width,
        input,
        output: subOf(r.sub),
      });
    } else {
      made.push(
        createTrack(
          'audio',
          {
            name: fresh(r.name),
            colour: r.colour,
            channels: r.width,
            input,
            output: subOf(r.sub),
            folder: i.track.folder,
          },
          ids,
        ),
      );
    }
  }
  const gone = new Set<Id>();
  for (const t of layout.leaving) {
    if (
      !t.chain.length &&
      !t.sends.length &&
      !t.clips.length &&
      !session.tracks.some(
        (x) => x.sends.some((s) => s.to === t.id) || (x.output.kind === 'track' && x.output.track === t.id),
      )
    ) {
      gone.add(t.id);
    } else changed.set(t.id, { ...t, input: { kind: 'none' }, state: 'inactive' });
  }
  const params = Object.fromEntries(layout.rows.map((r) => [r.part.outParam, r.out]));
  const tracks = session.tracks
    .filter((t) => !gone.has(t.id))
    .map((t) => {
      const c = changed.get(t.id) ?? t;
      if (same(c, t) && t.id !== i.track.id) return t;
      return t.id === i.track.id
        ? {
            ...c,
            output: to,
            chain: mapDevices(c.chain, (d) =>
              d.id === layout.slot ? { ...d, params: { ...d.params, ...params } } : d,
            ),
          }
        : c;
    });
  // behind the last line that is there already, in the order of the outputs
  const last = Math.max(
    tracks.findIndex((t) => t.id === i.track.id),
    ...tracks.map((t, k) => (t.input.kind === 'deviceOutput' && t.input.slot === layout.slot ? k : -1)),
  );
  tracks.splice(last + 1, 0, ...made);
  const firstBus = tracks.findIndex((t) => t.role === 'bus' || t.role === 'return' || t.role === 'master');
  tracks.splice(Math.max(firstBus, last + 1 + made.length), 0, ...buses.reverse());
  const out = { ...session, tracks };
  // a bus between that the kit's bus already leads into would close a loop: this says so, with the names
  compile(out);
  return out;
}
