import { mapDevices } from '../session/slots.ts';
import type { Id, Session, Slot } from '../model/types.ts';

/**
 * What is only for listening, never part of the session. Slots that are bypassed keep running, so that
 * switching back is instant.
 */
export interface Audition {
  bypass: Id[];
  /** dB per track: what matches loudness */
  gains: Record<Id, number>;
  /** devices that listen to their own input instead of their key */
  keyOff?: Id[];
  mute?: Id[];
  /** these tracks alone, whatever is soloed in the session */
  solo?: Id[];
  /** other chains in place of a track's own: rack A against rack B */
  chains?: Record<Id, Slot[]>;
}

export const NO_AUDITION: Audition = { bypass: [], gains: {} };

/**
 * The session as an audition has it heard, apart from `bypass` and `gains`, which the renderer sets itself.
 * The same object when nothing differs.
 */
export function auditioned(session: Session, a: Audition): Session {
  if (!a.keyOff?.length && !a.mute?.length && !a.solo?.length && !a.chains) return session;
  return {
    ...session,
    tracks: session.tracks.map((t) => {
      let out = t;
      if (a.chains?.[t.id]) out = { ...out, chain: a.chains[t.id] };
      if (a.keyOff?.length) {
        const chain = mapDevices(out.chain, (d) =>
          a.keyOff!.includes(d.id) ? { ...d, key: { kind: 'own' } } : d,
        );
        if (chain !== out.chain) out = { ...out, chain };
      }
      // a lane that moves the mute has nothing to say about what is muted, or alone, for listening
      if (out.automation && (a.mute?.includes(t.id) || a.solo?.includes(t.id))) {
        out = { ...out, automation: out.automation.filter((l) => l.of !== t.id || l.param !== 'mute') };
      }
      if (a.mute?.includes(t.id)) out = { ...out, mute: true };
      if (a.solo?.length) {
        out = a.solo.includes(t.id) ? { ...out, solo: true, mute: false } : { ...out, solo: false };
      }
      return out;
    }),
  };
}
