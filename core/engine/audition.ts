import { DEVICE_TYPES } from '../devices/index.ts';
import { createTrack } from '../session/create.ts';
import { mapDevices } from '../session/slots.ts';
import { MIN_LEVEL, type Device, type Id, type Session, type Slot, type Track } from '../model/types.ts';

/**
 * What is only for listening, never part of the session. Slots that are bypassed keep running, so that
 * switching back is instant.
 */
export interface Audition {
  bypass: Id[];
  /** dB per track: what matches loudness */
  gains: Record<Id, number>;
  /** devices that hear nothing at their key: what they do to the rhythm of another track is left out */
  keyOff?: Id[];
  mute?: Id[];
  /** these tracks alone, whatever is soloed in the session; heard even where they lead nowhere */
  solo?: Id[];
  /** other chains in place of a track's own: rack A against rack B */
  chains?: Record<Id, Slot[]>;
}

export const NO_AUDITION: Audition = { bypass: [], gains: {} };

/** A track without sound, for keys that hear nothing. */
const NOTHING: Id = 'audition-nothing';

/**
 * The session as an audition has it heard, apart from `bypass` and `gains`, which the renderer sets itself.
 * The same object when nothing differs.
 */
export function auditioned(session: Session, a: Audition): Session {
  if (!a.keyOff?.length && !a.mute?.length && !a.solo?.length && !a.chains) return session;
  const tracks = session.tracks.map((t) => auditionedTrack(session, t, a));
  if (a.keyOff?.length) {
    tracks.unshift({ ...createTrack('audio', { name: 'Nothing', output: { kind: 'none' } }), id: NOTHING });
  }
  return { ...session, tracks };
}

function auditionedTrack(session: Session, t: Track, a: Audition): Track {
  let out = t;
  if (a.chains?.[t.id]) out = { ...out, chain: a.chains[t.id] };
  if (a.keyOff?.length) {
    const chain = mapDevices(out.chain, (d) => (a.keyOff!.includes(d.id) ? withoutKey(d) : d));
    if (chain !== out.chain) out = { ...out, chain };
  }
  // a lane that moves the mute has nothing to say about what is muted, or alone, for listening
  if (out.automation && (a.mute?.includes(t.id) || a.solo?.includes(t.id))) {
    out = { ...out, automation: out.automation.filter((l) => l.of !== t.id || l.param !== 'mute') };
  }
  if (a.mute?.includes(t.id)) out = { ...out, mute: true };
  if (!a.solo?.length) return out;
  return a.solo.includes(t.id) ? alone(session, out) : { ...out, solo: false };
}

/** A gate whose key is silent would be shut: without its key it lets everything through. */
function withoutKey(d: Device): Device {
  if (DEVICE_TYPES[d.type].shutByKey) return d.state === 'on' ? { ...d, state: 'bypassed' } : d;
  return { ...d, key: { kind: 'track', track: NOTHING, tap: 'pre' } };
}

/** A track that is to be heard alone. One that never gets to the master, a trigger mostly, is led there. */
function alone(session: Session, t: Track): Track {
  const out: Track = { ...t, solo: true, mute: false };
  const master = session.tracks.find((x) => x.role === 'master');
  if (!master || t.id === master.id || arrives(session, out, master.id)) return out;
  return {
    ...out,
    output: { kind: 'track', track: master.id },
    level: t.level <= MIN_LEVEL ? 0 : t.level,
    automation: out.automation?.filter((l) => l.of !== t.id || l.param !== 'level'),
  };
}

/** Whether a track's own output is heard at the master: no step on the way is missing, off or shut. */
function arrives(session: Session, t: Track, master: Id): boolean {
  const byId = new Map(session.tracks.map((x) => [x.id, x]));
  const seen = new Set<Id>();
  let at: Track | undefined = t;
  while (at && !seen.has(at.id)) {
    if (at.mute || at.state === 'inactive' || at.level <= MIN_LEVEL) return false;
    if (at.id === master) return true;
    seen.add(at.id);
    at = at.output.kind === 'track' ? byId.get(at.output.track) : undefined;
  }
  return false;
}
