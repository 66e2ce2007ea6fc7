import { DEVICE_TYPES } from '../devices/index.ts';
import type { InstrumentType } from '../devices/instrument-type.ts';
import { createDevice, createSend, createTrack, freeName, masterOf, placeFor } from '../session/create.ts';
import { waysIn } from '../session/reach.ts';
import { arranged } from '../session/sends.ts';
import { claimedAddresses, freeAddresses } from '../session/midi.ts';
import { mapDevices } from '../session/slots.ts';
import { randomIds } from '../model/ids.ts';
import type { Clip, Id, MidiAddress, Params, Role, Session, Track } from '../model/types.ts';
import { ledHeadings } from './headings.ts';
import { type Edit, onTrack } from './on.ts';

export const addSend = (track: Id, to: Id): Edit =>
  onTrack(track, (t) => ({ sends: arranged([...t.sends, createSend(to, { level: -18 })]) }));

export const removeSend = (track: Id, send: Id): Edit =>
  onTrack(track, (t) => ({ sends: t.sends.filter((x) => x.id !== send) }));

export function addTrack(role: Role, over: Partial<Track> = {}, at?: number): { edit: Edit; id: Id } {
  const id = randomIds('trk');
  return {
    id,
    edit: (s) => {
      const t = createTrack(role, {
        output: role === 'midi' ? { kind: 'none' } : { kind: 'track', track: masterOf(s).id },
        ...over,
        id,
      });
      t.name = freeName(
        over.name ?? t.name,
        s.tracks.map((x) => x.name),
      );
      const tracks = [...s.tracks];
      tracks.splice(
        Math.min(
          at ?? placeFor(s, role),
          s.tracks.findIndex((x) => x.role === 'master'),
        ),
        0,
        t,
      );
      return { ...s, tracks };
    },
  };
}

/**
 * Removes a track; whatever pointed to it is led on to where it went itself, sends and keys from and to it
 * go.
 */
export const removeTrack =
  (id: Id): Edit =>
  (s) => {
    const gone = s.tracks.find((t) => t.id === id);
    if (!gone || gone.role === 'master') return s;
    const out: Session = {
      ...s,
      tracks: s.tracks
        .filter((t) => t.id !== id)
        .map((t) => {
          let out = t;
          if (t.output.kind === 'track' && t.output.track === id) {
            out = {
              ...out,
              output: gone.output.kind === 'track' ? gone.output : { kind: 'track', track: masterOf(s).id },
            };
          }
          if (t.folder === id) out = { ...out, folder: gone.folder };
          if ((t.input.kind === 'track' || t.input.kind === 'deviceOutput') && t.input.track === id) {
            out = { ...out, input: { kind: 'none' } };
          }
          if (t.sends.some((x) => x.to === id)) out = { ...out, sends: t.sends.filter((x) => x.to !== id) };
          const chain = mapDevices(t.chain, (d) =>
            d.key.kind === 'track' && d.key.track === id ? { ...d, key: { kind: 'own' } } : d,
          );
          if (chain !== t.chain) out = { ...out, chain };
          return out;
        }),
      ...(s.lastTies
        ? { lastTies: Object.fromEntries(Object.entries(s.lastTies).filter(([, v]) => v !== id)) }
        : {}),
    };
    return ledHeadings(s, out, new Set([id]));
  };

export const setClips =
  (track: Id, clips: Clip[], media: Session['media']): Edit =>
  (s) =>
    onTrack(track, { clips })({
      ...s,
      media: [...s.media, ...media.filter((m) => !s.media.some((x) => x.id === m.id))],
    });

/** General MIDI Level 1 */
const DRUM_CHANNEL = 10;
/** parts of a new instrument that get an address each */
const FIRST_PARTS = 4;

/** Something to hear at once: drums keep the pattern that a source comes with, others get a broken chord. */
function firstPattern(channel: number, kind: InstrumentType | undefined): Params {
  if (kind?.drums) return Object.fromEntries([1, 2, 3, 4].map((n) => [`l${n}.channel`, channel]));
  return {
    'l1.channel': channel,
    'l1.key': kind?.low ? 38 : 62,
    'l1.steps': 'X..x..x.X..x..x.',
    'l1.keys': '0 7 12 3',
    'l1.gate': 180,
    'l2.on': false,
    'l3.on': false,
  };
}

/**
 * An instrument on a line of its own, on an address that nothing else listens to: channel 10 for drums where
 * it is free (General MIDI), the first free one otherwise; played by a pattern when asked for.
 * @param begins the values that a new device of a type begins with, where they are not the factory's
 */
export function addInstrument(
  type: string,
  s: Session,
  withPattern: boolean,
  begins: (type: string) => Params = () => ({}),
): { edit: Edit; id: Id; device: Id } {
  const [id, device, notes] = [randomIds('trk'), randomIds('dev'), randomIds('trk')];
  const all = freeAddresses(claimedAddresses(s.tracks));
  const kind = DEVICE_TYPES[type].instrument;
  const suits = (a: MidiAddress) => (a.channel === DRUM_CHANNEL) === !!kind?.drums;
  const at = all.find(suits) ?? all[0] ?? { port: 'A' as const, channel: 1 };
  const label = DEVICE_TYPES[type].label;
  // values that it begins with may name more parts than a new one has
  const parts = kind?.parts({ ...DEVICE_TYPES[type].defaults, ...begins(type) }).length ?? 0;
  const free = all.filter((a) => a.port === at.port).slice(0, Math.max(FIRST_PARTS, parts));
  const addresses = kind?.addressed?.(free);
  return {
    id,
    device,
    edit: (now) => {
      const names = now.tracks.map((t) => t.name);
      const name = freeName(label, names);
      const master = { kind: 'track' as const, track: masterOf(now).id };
      const line = createTrack('instrument', {
        id,
        name,
        input: { kind: 'midi', port: at.port, channel: addresses ? 0 : at.channel },
        output: master,
        chain: [createDevice(type, { ...begins(type), ...addresses }, { id: device })],
      });
      const source = createTrack('midi', {
        id: notes,
        name: freeName(`${name} pattern`, names),
        output: { kind: 'midi', port: at.port, channel: at.channel },
        chain: [createDevice('pattern', { ...begins('pattern'), ...firstPattern(at.channel, kind) }, {})],
      });
      const tracks = [...now.tracks];
      tracks.splice(
        Math.min(
          placeFor(now, 'instrument'),
          tracks.findIndex((t) => t.role === 'master'),
        ),
        0,
        ...(withPattern ? [source] : []),
        line,
      );
      return { ...now, tracks };
    },
  };
}

/**
 * Where a track may go without coming back to itself: by its output, or by a send.
 * @param ways those of the session, for whoever asks for many tracks
 */
export const destinations = (s: Session, from: Track, forSend: boolean, ways = waysIn(s)): Track[] =>
  commonDestinations(s, [from], forSend, ways);

/** Where each of some tracks may go. */
export function commonDestinations(
  s: Session,
  lines: readonly Track[],
  forSend: boolean,
  ways = waysIn(s),
): Track[] {
  const roles: Role[] = ['bus', 'return', 'folder', ...(forSend ? [] : ['master' as const])];
  const before = ways.leadingTo(lines.map((t) => t.id));
  return s.tracks.filter((t) => roles.includes(t.role) && !before.has(t.id));
}
