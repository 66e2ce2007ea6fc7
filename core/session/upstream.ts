import type { Id, Session } from '../model/types.ts';
import { devicesIn } from './slots.ts';

/** The session with the tracks that feed one track, the track itself and the master alone: what a measurement needs. */
export function upstream(s: Session, track: Id): Session {
  const keep = new Set([track]);
  for (let grew = true; grew;) {
    grew = false;
    for (const t of s.tracks) {
      if (keep.has(t.id)) continue;
      const feeds =
        s.tracks.some(
          (k) => keep.has(k.id) && k.input.kind !== 'none' && 'track' in k.input && k.input.track === t.id,
        ) ||
        t.role === 'midi' ||
        (t.output.kind === 'track' && keep.has(t.output.track)) ||
        t.sends.some((x) => keep.has(x.to)) ||
        s.tracks.some(
          (k) =>
            keep.has(k.id) && devicesIn(k.chain).some((d) => d.key.kind === 'track' && d.key.track === t.id),
        );
      if (feeds) {
        keep.add(t.id);
        grew = true;
      }
    }
  }
  return {
    ...s,
    tracks: s.tracks
      .filter((t) => keep.has(t.id) || t.role === 'master')
      .map((t) => ({ ...t, solo: false, mute: t.id === track ? false : t.mute })),
  };
}
