import { createDevice, createTrack, freeName, masterOf, placeFor } from '../session/create.ts';
import { MIDI_PORTS, freeAddresses, instrumentsOn, listenersIn, sentBy, takersOf } from '../session/midi.ts';
import { mapDevices } from '../session/slots.ts';
import { randomIds, type IdMaker } from '../model/ids.ts';
import type { Id, MidiAddress, MidiPort, ParamValue, Session, Track } from '../model/types.ts';
import { applyLayout, planLayout, type LayoutChoice } from './layout.ts';

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
        .filter((i) => i.device.type === 'parts')
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
    .flatMap((t) => instrumentsOn(t).filter((i) => i.device.type === 'parts'));
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
      problems.push(
        `No port has ${chunk.length} free channels for ${count > 1 ? `player ${k + 1}` : 'these parts'}: ports A to D have ${freeAddresses(taken).length} of 64 free.`,
      );
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
 */
export function applyPlayer(session: Session, plan: PlayerPlan, ids: IdMaker = randomIds): Session {
  if (plan.problems.length) throw new Error(plan.problems[0]);
  let now = session;
  const master = masterOf(session).id;
  for (const [k, pl] of plan.players.entries()) {
    const rows = plan.rows.filter((r) => r.player === k);
    const params: Record<string, ParamValue> = {};
    for (let n = 1; n <= 16; n++) params[`p${n}.sound`] = 'none';
    // a row that was a part keeps its other values: levels, keys, controllers, its output
    for (const r of rows) {
      const old =
        r.from &&
        now.tracks.flatMap((t) => instrumentsOn(t)).find((i) => i.device.id === r.from!.slot)?.device.params;
      if (old && (r.from!.slot !== pl.slot || r.from!.part !== r.part)) {
        for (const [id, v] of Object.entries(old)) {
          if (id.startsWith(`${r.from!.part}.`)) {
            params[`${r.part}.${id.slice(r.from!.part.length + 1)}`] =
              id.endsWith('.out') && r.from!.slot !== pl.slot ? 'main' : v;
          }
        }
      }
      Object.assign(params, {
        [`${r.part}.name`]: r.name.trim() || r.part,
        [`${r.part}.sound`]: r.sound,
        [`${r.part}.port`]: r.port,
        [`${r.part}.channel`]: r.channel,
      });
    }
    let slot = pl.slot;
    if (slot && pl.track) {
      now = {
        ...now,
        tracks: now.tracks.map((t) =>
          t.id === pl.track
            ? {
                ...t,
                input: { kind: 'midi' as const, port: pl.port, channel: 0 },
                chain: mapDevices(t.chain, (d) =>
                  d.id === slot ? { ...d, params: { ...d.params, ...params } } : d,
                ),
              }
            : t,
        ),
      };
    } else {
      const d = createDevice('parts', params, {}, ids);
      slot = d.id;
      const t = createTrack(
        'instrument',
        {
          name: freeName(
            pl.name,
            now.tracks.map((x) => x.name),
          ),
          chain: [d],
          input: { kind: 'midi', port: pl.port, channel: 0 },
          output: { kind: 'track', track: master },
        },
        ids,
      );
      const tracks = [...now.tracks];
      tracks.splice(placeFor(now, 'instrument'), 0, t);
      now = { ...now, tracks };
    }
    const choice = (r: PlayerRow): Partial<LayoutChoice> => ({
      mode: 'own',
      with: '',
      width: r.width,
      name: r.name.trim() || 'Part',
      colour: r.colour,
      sub: '',
    });
    now = applyLayout(
      now,
      planLayout(now, slot, { rows: Object.fromEntries(rows.map((r) => [r.part, choice(r)])) }),
      ids,
    );
    const made: Track[] = [];
    now = {
      ...now,
      tracks: now.tracks.map((t) => {
        if (t.input.kind !== 'deviceOutput' || t.input.slot !== slot || t.chain.length) return t;
        const place = t.input;
        const r = rows.find((x) => {
          const out = String(
            now.tracks.flatMap((y) => instrumentsOn(y)).find((i) => i.device.id === slot)!.device.params[
              `${x.part}.out`
            ],
          );
          return (
            out === String(place.output) || out === `${place.output}${place.take === 'left' ? 'L' : 'R'}`
          );
        });
        return r?.insert ? { ...t, chain: [createDevice(r.insert, {}, {}, ids)] } : t;
      }),
    };
    if (plan.midi) {
      for (const r of rows) {
        if (
          !now.tracks.some(
            (t) =>
              t.role === 'midi' &&
              t.output.kind === 'midi' &&
              t.output.port === r.port &&
              t.output.channel === r.channel,
          )
        ) {
          made.push(
            createTrack(
              'midi',
              {
                name: freeName(
                  `${r.name} notes`,
                  [...now.tracks, ...made].map((t) => t.name),
                ),
                colour: r.colour,
                output: { kind: 'midi', port: r.port, channel: r.channel },
              },
              ids,
            ),
          );
        }
      }
    }
    if (made.length) {
      const tracks = [...now.tracks];
      const at = tracks.findIndex((t) => t.chain.some((d) => d.id === slot));
      tracks.splice(at, 0, ...made);
      now = { ...now, tracks };
    }
  }
  return now;
}
