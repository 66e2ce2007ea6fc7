import type { Id, Session, Track } from '../model/types.ts';
import { Ways, waysOut, type Way } from './reach.ts';
import { devicesIn } from './slots.ts';

/** The session with the tracks that feed one track, the track itself and the master alone: what a measurement needs. */
export function upstream(s: Session, track: Id): Session {
  const midi = s.tracks.filter((t) => t.role === 'midi').map((t) => t.id);
  const keep = new Ways(s.tracks.flatMap(waysAt)).leadingTo([track, ...midi]);
  return {
    ...s,
    tracks: s.tracks
      .filter((t) => keep.has(t.id) || t.role === 'master')
      .map((t) => ({ ...t, solo: false, mute: t.id === track ? false : t.mute })),
  };
}

/** Where a track takes from, keys included, and where it goes. */
function waysAt(t: Track): Way[] {
  const takes = t.input.kind !== 'none' && 'track' in t.input ? [t.input.track] : [];
  const keys = devicesIn(t.chain).flatMap((d) => (d.key.kind === 'track' ? [d.key.track] : []));
  return [...[...takes, ...keys].map((from) => ({ from, to: t.id })), ...waysOut(t)];
}
