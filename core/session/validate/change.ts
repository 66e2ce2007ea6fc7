import type { Problem, Session, Track } from '../../model/types.ts';
import { checking, isObject, type Checking } from './checking.ts';
import { checkAround, validateSession } from './index.ts';
import { checkTrack } from './track.ts';

/** the ids in lines of sound sessions, which stay as they are: those whose change was looked at */
const idsIn = new WeakMap<Track, readonly string[]>();

/**
 * The invariants of a session that was made from a sound one by a change that shares with it what stayed the same
 * (`withWayBack` on the server): only lines that are another object are looked at again. Neither may be changed in
 * place afterwards.
 * @param before sound
 * @returns the same as `validateSession(next)`
 */
export function validateChange(before: Session, next: Session): Problem[] {
  if (!isAlikeAround(before, next)) return validateSession(next);
  const out: Problem[] = [];
  const c = checking(next, out);
  checkAround(c, next);
  next.tracks.forEach((t, i) => {
    if (t === before.tracks[i]) for (const id of idsOf(t, before)) c.unique(id, '');
    else checkTrack(c, t, `/tracks/${i}`);
  });
  // the words for it come from one place
  return out.length ? validateSession(next) : [];
}

/** Whether everything that lines ask of one another and of the session is as it was. */
function isAlikeAround(before: Session, next: Session): boolean {
  if (!isObject(next) || !Array.isArray(next.tracks)) return false;
  if (next.media !== before.media || next.tracks.length !== before.tracks.length) return false;
  return next.tracks.every((t, i) => t === before.tracks[i] || isSameToOthers(t, before.tracks[i]));
}
function isSameToOthers(t: Track, before: Track): boolean {
  return isObject(t) && t.id === before.id && t.role === before.role && t.folder === before.folder;
}

/** The ids that a sound line uses up. */
function idsOf(t: Track, of: Session): readonly string[] {
  const known = idsIn.get(t);
  if (known) return known;
  const ids: string[] = [];
  const c: Checking = { ...checking(of, []), unique: (id) => void ids.push(String(id)) };
  checkTrack(c, t, '');
  idsIn.set(t, ids);
  return ids;
}
