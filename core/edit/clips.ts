import { randomIds } from '../model/ids.ts';
import type { Clip, Id } from '../model/types.ts';
import { onTrack, type Edit } from './on.ts';

/** Changes a clip of a line: its gain, place, ends. */
export const onClip = (track: Id, clip: Id, change: Partial<Clip>): Edit =>
  onTrack(track, (t) => ({ clips: t.clips.map((c) => (c.id === clip ? { ...c, ...change } : c)) }));

export const removeClip = (track: Id, clip: Id): Edit =>
  onTrack(track, (t) => ({ clips: t.clips.filter((c) => c.id !== clip) }));

/** Makes one take play, or stop; of those that lie over it in time the others stop. */
export const playTake = (track: Id, clip: Id, plays: boolean): Edit =>
  onTrack(track, (t) => {
    const chosen = t.clips.find((c) => c.id === clip);
    if (!chosen) return {};
    const overlaps = (c: Clip) => c.start < chosen.start + chosen.length && chosen.start < c.start + c.length;
    return {
      clips: t.clips.map((c) => {
        if (c.id === clip) return turned(c, plays);
        return plays && overlaps(c) ? turned(c, false) : c;
      }),
    };
  });

function turned(clip: Clip, plays: boolean): Clip {
  const { off: _off, ...rest } = clip;
  return plays ? rest : { ...rest, off: true };
}

/** A clip cut into the parts of it that are named, in s from its beginning; what lies between goes. */
export const splitClip = (track: Id, clip: Id, parts: readonly { from: number; to: number }[]): Edit =>
  onTrack(track, (t) => ({
    clips: t.clips.flatMap((c) => {
      if (c.id !== clip || !parts.length) return [c];
      return parts.map(({ from, to }, i): Clip => ({
        ...c,
        id: i === 0 ? c.id : randomIds('clp'),
        start: c.start + from,
        offset: c.offset + from,
        length: to - from,
      }));
    }),
  }));

/** Gains of clips of any lines, by id. */
export const setClipGains =
  (gains: Readonly<Record<Id, number>>): Edit =>
  (s) => ({
    ...s,
    tracks: s.tracks.map((t) =>
      t.clips.some((c) => c.id in gains)
        ? { ...t, clips: t.clips.map((c) => (c.id in gains ? { ...c, gain: gains[c.id] } : c)) }
        : t,
    ),
  });
