import { cutText, NAME_LENGTH } from '../model/text.ts';
import { DEVICE_TYPES } from '../devices/index.ts';
import { randomIds, type IdMaker } from '../model/ids.ts';
import type { Device, Id, Params, Role, Send, Session, Track } from '../model/types.ts';

/** An empty session with a master. Rates in Hz, tempo in bpm. */
export function createSession(over: Partial<Session> = {}, ids: IdMaker = randomIds): Session {
  return {
    format: 'rope-shelf/session',
    version: 1,
    name: 'Untitled session',
    sampleRate: 48000,
    bitDepth: 24,
    tempo: 120,
    meter: [4, 4],
    panLaw: -3,
    setupId: null,
    tracks: [createTrack('master', {}, ids)],
    media: [],
    note: '',
    ...over,
  };
}

const ROLE_NAMES: Record<Role, string> = {
  audio: 'Audio',
  instrument: 'Instrument',
  midi: 'MIDI',
  bus: 'Bus',
  return: 'Return',
  folder: 'Folder',
  master: 'Master',
};
const ROLE_COLOURS: Record<Role, string> = {
  audio: 'brine',
  instrument: 'mussel',
  midi: 'heather',
  bus: 'copper',
  return: 'kelp',
  folder: 'driftwood',
  master: 'tar',
};

/**
 * A track of a role with the usual settings: stereo, level 0 dB, centre. Buses and returns are solo safe so
 * that a solo never silences what it needs.
 */
export function createTrack(role: Role, over: Partial<Track> = {}, ids: IdMaker = randomIds): Track {
  return {
    id: ids('trk'),
    name: ROLE_NAMES[role],
    colour: ROLE_COLOURS[role],
    role,
    channels: 2,
    folder: null,
    input: { kind: 'none' },
    chain: [],
    level: 0,
    pan: 0,
    polarity: false,
    mute: false,
    solo: false,
    soloSafe: role === 'return' || role === 'bus',
    state: 'on',
    hidden: false,
    output: { kind: 'none' },
    sends: [],
    clips: [],
    note: '',
    ...over,
  };
}

/** A device with its type's defaults, `params` laid over them. Unknown types throw. */
export function createDevice(
  type: string,
  params: Params = {},
  over: Partial<Device> = {},
  ids: IdMaker = randomIds,
): Device {
  const spec = DEVICE_TYPES[type];
  if (!spec) {
    throw new Error(
      `There is no device type “${type}”. Known types: ${Object.keys(DEVICE_TYPES).join(', ')}.`,
    );
  }
  return {
    id: ids('dev'),
    kind: 'device',
    type,
    name: spec.label,
    state: 'on',
    params: { ...spec.defaults, ...params },
    key: { kind: 'own' },
    ...(spec.revision ? { revision: spec.revision } : {}),
    ...over,
  };
}

/**
 * A post-fader send that follows the track's pan. Starts at −∞ so that a new send never arrives wide open.
 */
export const createSend = (to: Id, over: Partial<Send> = {}, ids: IdMaker = randomIds): Send => ({
  id: ids('snd'),
  to,
  level: -144,
  tap: 'post',
  panMode: 'follow',
  pan: 0,
  on: true,
  ...over,
});

export const masterOf = (s: Session): Track => {
  const m = s.tracks.find((t) => t.role === 'master');
  if (!m) throw new Error(`Session “${s.name}” has no master.`);
  return m;
};

export const trackOf = (s: Session, id: Id): Track | undefined => s.tracks.find((t) => t.id === id);

/** Where a new track of a role belongs in the list: audio before buses before returns before the master. */
export function placeFor(s: Session, role: Role): number {
  const rank: Record<Role, number> = {
    folder: 0,
    audio: 0,
    instrument: 0,
    midi: 0,
    bus: 1,
    return: 2,
    master: 3,
  };
  const i = s.tracks.findIndex((t) => rank[t.role] > rank[role]);
  return i < 0 ? s.tracks.length : i;
}

/** A name that no track of the session has: "Choir", "Choir 2", … A long one is shortened for its number. */
export function freeName(wanted: string, taken: Iterable<string>): string {
  const used = new Set(taken);
  const whole = cutText(wanted, NAME_LENGTH);
  if (!used.has(whole)) return whole;
  const stem = whole.replace(/ \d+$/, '');
  const numbered = (n: number) => `${cutText(stem, NAME_LENGTH - ` ${n}`.length)} ${n}`;
  let n = 2;
  while (used.has(numbered(n))) n++;
  return numbered(n);
}
