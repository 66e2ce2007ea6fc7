import { DEVICE_TYPES } from '../devices/index.ts';
import { createDevice, createTrack, freeName, masterOf, placeFor } from '../session/create.ts';
import {
  MIDI_PORTS,
  freeAddresses,
  instrumentsOn,
  listenersIn,
  sentBy,
  takersOf,
  type Instrument,
} from '../session/midi.ts';
import { mapDevices } from '../session/slots.ts';
import { randomIds, type IdMaker } from '../model/ids.ts';
import type { Id, MidiAddress, MidiPort, ParamValue, Params, Session, Track } from '../model/types.ts';
import { applyLayout, planLayout, type LayoutChoice } from './layout.ts';

/** Whether its parts listen at addresses of their own. */
const hasAddresses = (i: Instrument) => !!DEVICE_TYPES[i.device.type].instrument?.addressed;

/** One part as a person lists it. Port and channel 0 are given in order. */
export interface PlayerRow {
  name: string;
  sound: string;
  port: MidiPort | '';
  channel: number;
  width: 1 | 2;
  colour: string;
  /** type of a device to put on its line; empty for none */
  insert: string;
  /** the part that it is now, when it is one already */
  from?: { slot: Id; part: string };
}

/** What a parts player on a track plays now, as rows; empty rows for a new one come from the caller. */
export function playerRows(session: Session, trackIds: readonly Id[]): PlayerRow[] {
  return session.tracks
    .filter((t) => trackIds.includes(t.id))
    .flatMap((t) =>
      instrumentsOn(t)
        .filter((i) => hasAddresses(i))
        .flatMap((i) =>
          i.parts.map((p): PlayerRow => {
            const line = takersOf(session, i.device.id).find(
              (x) =>
                x.input.kind === 'deviceOutput' &&
                String(x.input.output) === p.out.replace(/[LR]$/, '') &&
                (x.input.take === 'stereo' ||
                  x.input.take === 'sum' ||
                  !/[LR]$/.test(p.out) ||
                  (x.input.take === 'left') === p.out.endsWith('L')),
            );
            return {
              name: p.name,
              sound: p.sound,
              port: p.address!.port,
              channel: p.address!.channel,
              width: line?.channels ?? 2,
              colour: line?.colour ?? t.colour,
              insert: '',
              from: { slot: i.device.id, part: p.id },
            };
          }),
        ),
    );
}

export interface PlayerPlan {
  rows: (PlayerRow & {
    port: MidiPort;
    channel: number;
    /** which player, from 0, and which of its parts */ player: number;
    part: string;
  })[];
  players: { name: string; port: MidiPort; /** the one that is there */ track: Id | null; slot: Id | null }[];
  midi: boolean;
  problems: string[];
}

/**
 * Lays parts out on parts players: sixteen on each, every one on a channel that nothing else listens on, a
 * further player on the next port when there are more. Rows keep the address that they ask for when it is
 * free.
 * @param at tracks whose players are laid out anew
 */
export function planPlayer(
  session: Session,
  rows: PlayerRow[],
  options: { name?: string; midi?: boolean; at?: readonly Id[] } = {},
): PlayerPlan {
  const own = new Set(options.at ?? []);
  const there = session.tracks
    .filter((t) => own.has(t.id))
    .flatMap((t) => instrumentsOn(t).filter((i) => hasAddresses(i)));
  const mine = new Set(there.flatMap((i) => i.parts.map((p) => `${p.address!.port}${p.address!.channel}`)));
  const others = session.tracks.filter(
    (t) =>
      !own.has(t.id) && !(t.role === 'midi' && sentBy(t).every((a) => mine.has(`${a.port}${a.channel}`))),
  );
  const taken: MidiAddress[] = [...listenersIn(others), ...others.flatMap(sentBy)];
  const problems: string[] = [];
  const count = Math.max(1, Math.ceil(rows.length / 16));
  const given: MidiAddress[] = [];
  const out: PlayerPlan['rows'] = [];
  const ports: MidiPort[] = [];
  const isFree = (a: MidiAddress) =>
    ![...taken, ...given].some((b) => b.port === a.port && b.channel === a.channel);
  for (let k = 0; k < count; k++) {
    const chunk = rows.slice(k * 16, k * 16 + 16);
    // one line takes one port: the first that has room for all of this player's parts
    const wanted = chunk.find((r) => r.port)?.port;
    const room = (p: MidiPort) => freeAddresses([...taken, ...given]).filter((a) => a.port === p).length;
    const port =
      (wanted && room(wanted) >= chunk.length
        ? wanted
        : MIDI_PORTS.find((p) => !ports.includes(p) && room(p) >= chunk.length)) ??
      MIDI_PORTS.find((p) => room(p) >= chunk.length);
    if (!port) {
      const whose = count > 1 ? `player ${k + 1}` : 'these parts';
      const free = `ports A to D have ${freeAddresses(taken).length} of 64 free`;
      problems.push(`No port has ${chunk.length} free channels for ${whose}: ${free}.`);
      break;
    }
    ports.push(port);
    const asked = new Map<number, number>();
    chunk.forEach((r, i) => {
      if (r.channel && (!r.port || r.port === port) && isFree({ port, channel: r.channel })) {
        asked.set(i, r.channel);
        given.push({ port, channel: r.channel });
      }
    });
    chunk.forEach((r, i) => {
      const channel =
        asked.get(i) ?? freeAddresses([...taken, ...given]).find((a) => a.port === port)!.channel;
      if (!asked.has(i)) given.push({ port, channel });
      out.push({ ...r, port, channel, player: k, part: `p${i + 1}` });
    });
  }
  const base = options.name ?? there[0]?.track.name ?? 'Parts';
  return {
    rows: out,
    players: ports.map((port, k) => ({
      name: k ? `${base} ${k + 1}` : base,
      port,
      track: there[k]?.track.id ?? null,
      slot: there[k]?.device.id ?? null,
    })),
    midi: options.midi ?? false,
    problems,
  };
}

/**
 * Carries the plan out: players with their parts, a line for each with colour and insert, a bus, and a MIDI
 * line for each part when asked for.
 * @param begins the values that a new player begins with, where they are not the factory's
 */
export function applyPlayer(
  session: Session,
  plan: PlayerPlan,
  ids: IdMaker = randomIds,
  begins: Params = {},
): Session {
  if (plan.problems.length) throw new Error(plan.problems[0]);
  let now = session;
  for (const [k, player] of plan.players.entries()) {
    const rows = plan.rows.filter((r) => r.player === k);
    const own = paramsFor(now, player, rows);
    const put = putPlayer(now, player, player.slot ? own : { ...begins, ...own }, ids);
    const layout = planLayout(put.session, put.slot, {
      rows: Object.fromEntries(rows.map((r) => [r.part, choiceFor(r)])),
    });
    now = withInserts(applyLayout(put.session, layout, ids), put.slot, rows, ids);
    if (plan.midi) now = withMidiLines(now, put.slot, rows, ids);
  }
  return now;
}

type Player = PlayerPlan['players'][number];
type Row = PlayerPlan['rows'][number];

const paramsOf = (s: Session, slot: Id) =>
  s.tracks.flatMap(instrumentsOn).find((i) => i.device.id === slot)?.device.params;

/** Values of a player: its rows' names, sounds and addresses, and what a part that moved here had before. */
function paramsFor(now: Session, player: Player, rows: Row[]): Record<string, ParamValue> {
  const params: Record<string, ParamValue> = {};
  for (let n = 1; n <= 16; n++) params[`p${n}.sound`] = 'none';
  for (const r of rows) {
    Object.assign(params, movedValues(now, player, r), {
      [`${r.part}.name`]: r.name.trim() || r.part,
      [`${r.part}.sound`]: r.sound,
      [`${r.part}.port`]: r.port,
      [`${r.part}.channel`]: r.channel,
    });
  }
  return params;
}

/** A row that was a part elsewhere keeps its other values: levels, keys, controllers, its output. */
function movedValues(now: Session, player: Player, r: Row): Record<string, ParamValue> {
  const { from } = r;
  const elsewhere = from && from.slot !== player.slot;
  const old = from && (elsewhere || from.part !== r.part) ? paramsOf(now, from.slot) : null;
  if (!from || !old) return {};
  const own = Object.entries(old).filter(([id]) => id.startsWith(`${from.part}.`));
  return Object.fromEntries(
    own.map(([id, v]) => [
      `${r.part}.${id.slice(from.part.length + 1)}`,
      id.endsWith('.out') && elsewhere ? 'main' : v,
    ]),
  );
}

/** The player with its values: the one that is there, or a new one on a line of its own. */
function putPlayer(
  now: Session,
  player: Player,
  params: Record<string, ParamValue>,
  ids: IdMaker,
): { session: Session; slot: Id } {
  const input = { kind: 'midi', port: player.port, channel: 0 } as const;
  const { slot } = player;
  if (slot && player.track) {
    const changed = (t: Track): Track => ({
      ...t,
      input,
      chain: mapDevices(t.chain, (d) => (d.id === slot ? { ...d, params: { ...d.params, ...params } } : d)),
    });
    const tracks = now.tracks.map((t) => (t.id === player.track ? changed(t) : t));
    return { session: { ...now, tracks }, slot };
  }
  const d = createDevice('parts', params, {}, ids);
  const taken = now.tracks.map((t) => t.name);
  const output = { kind: 'track', track: masterOf(now).id } as const;
  const name = freeName(player.name, taken);
  const line = createTrack('instrument', { name, chain: [d], input, output }, ids);
  const tracks = [...now.tracks];
  tracks.splice(placeFor(now, 'instrument'), 0, line);
  return { session: { ...now, tracks }, slot: d.id };
}

const choiceFor = (r: Row): Partial<LayoutChoice> => ({
  mode: 'own',
  with: '',
  width: r.width,
  name: r.name.trim() || 'Part',
  colour: r.colour,
  sub: '',
});

/** Lines of the player that have nothing yet, with the inserts that their rows ask for. */
function withInserts(now: Session, slot: Id, rows: Row[], ids: IdMaker): Session {
  const params = paramsOf(now, slot)!;
  const rowOf = ({ input }: Track) => {
    if (input.kind !== 'deviceOutput' || input.slot !== slot) return undefined;
    const half = `${input.output}${input.take === 'left' ? 'L' : 'R'}`;
    const outs = [String(input.output), half];
    return rows.find((r) => outs.includes(String(params[`${r.part}.out`])));
  };
  const tracks = now.tracks.map((t) => {
    const insert = t.chain.length ? undefined : rowOf(t)?.insert;
    return insert ? { ...t, chain: [createDevice(insert, {}, {}, ids)] } : t;
  });
  return { ...now, tracks };
}

/** A MIDI line above the player for each part that nothing plays yet. */
function withMidiLines(now: Session, slot: Id, rows: Row[], ids: IdMaker): Session {
  const made: Track[] = [];
  const plays = (r: Row) =>
    now.tracks.some(
      ({ role, output }) =>
        role === 'midi' && output.kind === 'midi' && output.port === r.port && output.channel === r.channel,
    );
  for (const r of rows.filter((x) => !plays(x))) {
    const taken = [...now.tracks, ...made].map((t) => t.name);
    const output = { kind: 'midi', port: r.port, channel: r.channel } as const;
    const name = freeName(`${r.name} notes`, taken);
    made.push(createTrack('midi', { name, colour: r.colour, output }, ids));
  }
  if (!made.length) return now;
  const tracks = [...now.tracks];
  const at = tracks.findIndex((t) => t.chain.some((d) => d.id === slot));
  tracks.splice(at, 0, ...made);
  return { ...now, tracks };
}
