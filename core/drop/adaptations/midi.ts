import { DEVICE_TYPES } from '../../devices/index.ts';
import { same } from '../../model/json.ts';
import type {
  Device,
  Input,
  MidiAddress,
  MidiPort,
  NoteClip,
  Output,
  ParamValue,
  Track,
} from '../../model/types.ts';
import {
  MIDI_PORTS,
  addressText,
  freeAddresses,
  listenersIn,
  sameAddress,
  sentBy,
  type Listener,
} from '../../session/midi.ts';
import { devicesIn } from '../../session/slots.ts';
import type { Reporting } from '../parts/part.ts';
import type { Adaptation, Changed } from '../types.ts';
import type { AdaptationKind, Adapting } from './adaptation.ts';

const keyOf = (a: MidiAddress): string => `${a.port}${a.channel}`;
const parse = (text: string): MidiAddress => ({
  port: text[0] as MidiPort,
  channel: Number(text.slice(1)) || 0,
});
const targetsOf = (list: readonly Adaptation[]): MidiAddress[] => list.map((a) => parse(String(a.to)));

/** Who listens and who plays, here and among what arrives. */
interface Traffic {
  arriving: readonly Track[];
  comes: Listener[];
  sends: MidiAddress[];
  there: Listener[];
  plays: MidiAddress[];
}

function trafficOf(c: Adapting): Traffic {
  // a line that keeps its own input here, or a new session, moves nothing
  const arriving = c.arriving.filter((t) => c.has(t, 'input') || t.role === 'midi');
  return {
    arriving,
    comes: listenersIn(arriving),
    sends: arriving.flatMap(sentBy),
    there: listenersIn(c.session.tracks),
    plays: c.session.tracks.filter((t) => t.state === 'on').flatMap(sentBy),
  };
}

/** Whether something here already uses an address that something arriving listens on. */
function clashes(x: Traffic, a: MidiAddress): boolean {
  // a pattern that comes alone is meant for what listens here already
  if (!x.comes.some((l) => sameAddress(l, a))) return false;
  if (x.there.some((l) => sameAddress(l, a))) return true;
  return x.sends.some((y) => sameAddress(y, a)) && x.plays.some((y) => sameAddress(y, a));
}

function whoIsThere(x: Traffic, a: MidiAddress): string {
  const l = x.there.find((y) => sameAddress(y, a));
  return l
    ? `${l.name} already listens to ${addressText(a)}`
    : `a MIDI line here already plays on ${addressText(a)}`;
}

/** Up to three names of what arrives on an address. */
function whoComes(x: Traffic, a: MidiAddress): string {
  const listeners = x.comes.filter((l) => sameAddress(l, a)).map((l) => l.part?.name ?? l.device.name);
  const players = x.arriving.filter((t) => sentBy(t).some((y) => sameAddress(y, a))).map((t) => t.name);
  return [...new Set([...listeners, ...players])].slice(0, 3).join(', ');
}

/** What arrives on one port, in the order of its channels. */
function usedOn(x: Traffic, port: MidiPort): MidiAddress[] {
  const all = [...x.comes, ...x.sends].filter((a) => a.port === port);
  const byChannel = new Map(all.map((a) => [a.channel, { port, channel: a.channel }]));
  return [...byChannel.values()].sort((a, b) => a.channel - b.channel);
}

/** Whether something that arrives listens to every channel of a port: then its channels cannot move apart. */
const listensToAll = (x: Traffic, port: MidiPort): boolean =>
  x.arriving.some(
    ({ id, input }) =>
      input.kind === 'midi' &&
      input.port === port &&
      input.channel === 0 &&
      x.comes.some((l) => l.track === id && !l.part),
  );

/** Moves what clashes on one port: channel by channel where there is room, otherwise all of it to another port. */
function planPort(x: Traffic, port: MidiPort, c: Adapting, out: Adaptation[]): void {
  const used = usedOn(x, port);
  const taken = used.filter((a) => clashes(x, a));
  if (!taken.length) return;
  const add = (change: Omit<Adaptation, 'on'>) =>
    out.push({ ...change, on: c.options.adapt?.[change.path] ?? true });
  const everything = [...x.there, ...x.plays, ...x.comes, ...x.sends, ...targetsOf(out)];
  const open = freeAddresses(everything).filter((a) => a.port === port);
  if (!listensToAll(x, port) && open.length >= taken.length) {
    taken.forEach((a, i) =>
      add({
        path: `midi/${port}/${a.channel}`,
        label: `${whoComes(x, a)} · MIDI channel`,
        from: keyOf(a),
        to: keyOf(open[i]),
        fromText: addressText(a),
        toText: addressText(open[i]),
        reason: whoIsThere(x, a),
      }),
    );
    return;
  }
  const elsewhere = x.comes.filter((l) => l.port !== port);
  const busy: MidiAddress[] = [...x.there, ...x.plays, ...elsewhere, ...targetsOf(out)];
  const isFree = (p: MidiPort) =>
    !used.some((a) => busy.some((b) => b.port === p && b.channel === a.channel));
  const other = MIDI_PORTS.find((p) => p !== port && isFree(p));
  const who = whoIsThere(x, taken[0]);
  if (!other) {
    c.out.facts.push(
      `${who}, and no port has all ${used.length} channels free: both will hear the same notes until one of them is moved.`,
    );
    return;
  }
  const rest = taken.length > 1 ? `, and ${taken.length - 1} more channels are taken` : '';
  add({
    path: `midi/${port}`,
    label: `${whoComes(x, taken[0])}${used.length > 1 ? ' and what plays with it' : ''} · MIDI port`,
    from: port,
    to: other,
    fromText: `port ${port}`,
    toText: `port ${other}`,
    reason: who + rest,
  });
}

/** The move that an address takes part in: its channel's own, or its port's. */
const moveOf = (adaptations: readonly Adaptation[], a: MidiAddress): Adaptation | undefined =>
  adaptations.find((x) => x.on && x.path === `midi/${a.port}/${a.channel}`) ??
  adaptations.find((x) => x.on && x.path === `midi/${a.port}`);

/** Where an address of the preset is in the session. Channel 0 (all) moves with its port only. */
export function movedAddress(plan: Pick<Changed, 'adaptations'>, a: MidiAddress): MidiAddress {
  const move = moveOf(plan.adaptations, a);
  if (!move) return a;
  return move.path === `midi/${a.port}` ? { ...a, port: move.to as MidiPort } : parse(String(move.to));
}

/**
 * Values of a device that stand for MIDI addresses and move with them: parts with channels of their own,
 * layers of a pattern that keeps its channels.
 */
function movedParams(plan: Changed, t: Track, d: Device): Record<string, ParamValue> {
  if (!plan.adaptations.some((a) => a.on && a.path.startsWith('midi/'))) return {};
  const type = DEVICE_TYPES[d.type];
  const all: Record<string, ParamValue> = {};
  for (const p of type.instrument?.parts(d.params) ?? []) {
    if (!p.address) continue;
    const to = movedAddress(plan, p.address);
    all[`${p.id}.port`] = to.port;
    all[`${p.id}.channel`] = to.channel;
  }
  if (type.pattern && t.output.kind === 'midi' && t.output.channel === 0) {
    const { port } = t.output;
    for (const spec of type.params) {
      if (!/^l\d\.channel$/.test(spec.id)) continue;
      all[spec.id] = movedAddress(plan, { port, channel: d.params[spec.id] as number }).channel;
    }
  }
  return Object.fromEntries(Object.entries(all).filter(([param, v]) => d.params[param] !== v));
}

/** Written notes on the channels that they move to. */
export function movedNotes(plan: Pick<Changed, 'adaptations'>, t: Track): NoteClip[] | undefined {
  const out = t.output;
  if (out.kind !== 'midi' || out.channel !== 0 || !t.notes) return t.notes;
  const to = (channel: number) => movedAddress(plan, { port: out.port, channel }).channel;
  return t.notes.map((clip) => ({
    ...clip,
    notes: clip.notes.map((n) => ({ ...n, channel: to(n.channel) })),
    controllers: clip.controllers.map((x) => ({ ...x, channel: to(x.channel) })),
  }));
}

/** The row of an input or output by MIDI address: as it was, or moved with a reason. */
export function explainAddress(
  side: 'input' | 'output',
  want: Track,
  found: Track | undefined,
  c: Reporting,
): void {
  const [a, b] = [want[side], found?.[side]];
  if (a.kind !== 'midi') return;
  const move = moveOf(c.plan.adaptations, a);
  const moved = move && same({ ...a, ...movedAddress(c.plan, a) }, b);
  c.row<Input | Output>(
    `${want.id}/${side}`,
    `${want.name} · ${side}`,
    a,
    b,
    (v) => (v.kind === 'midi' ? addressText(v) : v.kind),
    moved ? { verdict: 'adapted', reason: move.reason } : null,
  );
}

/**
 * MIDI addresses that something in the session already listens on: what arrives moves to free channels of the
 * same port, or as a whole to a port where all its channels are free. Lines that send and lines that listen
 * move together.
 */
export const midi: AdaptationKind = {
  id: 'midi',
  linesOnly: true,

  plan(c) {
    const traffic = trafficOf(c);
    const out: Adaptation[] = [];
    for (const port of MIDI_PORTS) planPort(traffic, port, c, out);
    c.out.adaptations.push(...out);
  },

  slot(slot, home, plan) {
    if (slot.kind === 'rack') return slot;
    return { ...slot, params: { ...slot.params, ...movedParams(plan, home, slot) } };
  },

  remember: (t, named, plan) =>
    Object.fromEntries(
      devicesIn(t.chain)
        .filter((d) => named.includes(d.id))
        .flatMap((d) => Object.entries(movedParams(plan, t, d)).map(([p, v]) => [`${d.id}/${p}`, v])),
    ),

  explain(t, d, param, found, plan) {
    const followed = movedParams(plan, t, d);
    if (!(param in followed) || found !== followed[param]) return null;
    return { verdict: 'adapted', reason: 'its MIDI channel moved with its line' };
  },
};
