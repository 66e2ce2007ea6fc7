import { randomIds } from '../model/ids.ts';
import type { Heading, Id, Session } from '../model/types.ts';
import type { Edit } from './on.ts';

/** A name between lines, above one of them. */
export function addHeading(before: Id, over: Partial<Heading> = {}): { edit: Edit; id: Id } {
  const id = randomIds('hdg');
  const heading: Heading = { name: 'Heading', colour: 'tar', ...over, before, id };
  return { id, edit: (s) => ({ ...s, headings: [...(s.headings ?? []), heading] }) };
}

export const onHeading =
  (id: Id, change: Partial<Heading>): Edit =>
  (s) => ({ ...s, headings: s.headings?.map((h) => (h.id === id ? { ...h, ...change } : h)) });

export const removeHeading =
  (id: Id): Edit =>
  (s) =>
    keeping(
      s,
      (s.headings ?? []).filter((h) => h.id !== id),
    );

function keeping(s: Session, headings: Heading[]): Session {
  const { headings: _was, ...rest } = s;
  return headings.length ? { ...rest, headings } : rest;
}

/**
 * The session with headings that stood above lines which went, or went elsewhere, above the line that followed them.
 * @param was the session before
 * @param gone lines that are not where they were
 */
export function ledHeadings(was: Session, now: Session, gone: ReadonlySet<Id>): Session {
  if (!was.headings?.some((h) => gone.has(h.before))) return now;
  const next = (id: Id): Id | undefined => {
    const at = was.tracks.findIndex((t) => t.id === id);
    return was.tracks.slice(at + 1).find((t) => !gone.has(t.id))?.id;
  };
  const led = was.headings.flatMap((h) => {
    const before = gone.has(h.before) ? next(h.before) : h.before;
    return before ? [{ ...h, before }] : [];
  });
  return keeping(now, led);
}

/** Headings under other ids, as they travel with a starter; one whose line is not there stays behind. */
export const headingsUnder = (list: readonly Heading[], ids: Readonly<Record<Id, Id>>): Heading[] =>
  list.flatMap((h) => (ids[h.before] ? [{ ...h, before: ids[h.before] }] : []));
