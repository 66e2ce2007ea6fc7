import { DEVICE_TYPES } from '../devices/index.ts';
import { spaceOf } from '../devices/convolution/spaces.ts';
import type { Device, MediaRef, Params, Session, Track } from '../model/types.ts';
import { devicesIn } from './slots.ts';

/** The sound that a device plays with: a media id, or one of those that ship; null when it plays with none. */
export function playedWith(d: Device): string | null {
  const plays = DEVICE_TYPES[d.type]?.plays;
  return plays ? String(d.params[plays]) : null;
}

/** Every sound that lines play, by clips and by devices, those that ship included. */
export function soundsIn(tracks: readonly Pick<Track, 'clips' | 'chain'>[]): Set<string> {
  return new Set(
    tracks.flatMap((t) => [
      ...t.clips.map((c) => c.media),
      ...devicesIn(t.chain).flatMap((d) => playedWith(d) ?? []),
    ]),
  );
}

/** The same without those that ship: what a session or a preset has to bring along. */
export const mediaIn = (tracks: readonly Pick<Track, 'clips' | 'chain'>[]): Set<string> =>
  new Set([...soundsIn(tracks)].filter((id) => !spaceOf(id)));

/** The session with those of some sounds that its lines play and that it does not have yet. */
export function bringMedia(s: Session, media: readonly MediaRef[]): Session {
  const known = new Set(s.media.map((m) => m.id));
  const played = mediaIn(s.tracks);
  const fresh = media.filter((m) => played.has(m.id) && !known.has(m.id));
  return fresh.length ? { ...s, media: [...s.media, ...fresh] } : s;
}

/** A device's values as they can be used in any session: a sound of this one stays behind. */
export function portable(d: Device): Params {
  const own = playedWith(d);
  if (own === null || spaceOf(own)) return d.params;
  const { plays, defaults } = DEVICE_TYPES[d.type];
  return { ...d.params, [plays!]: defaults[plays!] };
}
