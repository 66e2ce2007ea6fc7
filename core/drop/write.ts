import type { IdMaker } from '../model/ids.ts';
import type { Id, Origin, Preset, Session, Slot, Track } from '../model/types.ts';
import { trackOf } from '../session/create.ts';
import { bringMedia } from '../session/media.ts';
import { findSlot, mapSlots, slotIds } from '../session/slots.ts';
import { validateSession } from '../session/validate/index.ts';
import { mergedIn } from './forms.ts';
import { IN_CHAIN } from './parts/index.ts';
import type { Writing } from './parts/part.ts';
import { counterpart, type Root } from './roots.ts';
import type { DropPlan, Form } from './types.ts';

/** What a merged form is written with. */
export interface WritingFrom {
  /** the version that the line belongs to from now on, and the one that was dropped */
  preset: Preset;
  from: Preset;
  /** a drop of that version, for where its ends go */
  plan: DropPlan;
  /** id in the form → id in the preset */
  toLocal: ReadonlyMap<Id, Id>;
  mine: Form;
  raw: Form;
  theirs: Form;
  /** the track of the preset */
  local: Id;
  ids: IdMaker;
  notes: string[];
}

/**
 * Writes a form onto the line or piece that it belongs to; its origin speaks of the new version's ids from
 * now on.
 * @throws when the session would break a rule; then nothing has happened
 */
export function writeForm(session: Session, root: Root, form: Form, w: WritingFrom): Session {
  const here = idsHere(root, w.ids);
  const c = writingOf(session, root, w, here.id);
  for (const m of mergedIn(w.raw)) Object.assign(c.adapted, m.adapted?.(c));
  const line: Track = { ...root.track };
  for (const m of mergedIn(form)) m.write(form, line, c);
  const local = root.slot ? (w.toLocal.get(root.origin.local) ?? root.origin.local) : w.local;
  const origin: Origin = {
    ...originOf(local, root, w),
    ...(root.origin.parts ? { parts: root.origin.parts } : {}),
    ...(root.origin.beside ? { beside: root.origin.beside } : {}),
    ids: here.reached(w.toLocal),
    adapted: c.adapted,
  };
  const written = root.slot ? withPiece(root, line.chain[0], origin) : { ...line, origin };
  const tracks = session.tracks.map((t) => (t.id === root.track.id ? written : t));
  const next = bringMedia({ ...session, tracks }, w.preset.content.media);
  const wrong = validateSession(next);
  if (wrong.length) throw new Error(wrong[0].message);
  return next;
}

/** The line with one piece of its chain as it was written; a piece that the version has no more goes. */
function withPiece(root: Root, piece: Slot | undefined, origin: Origin): Track {
  const chain = mapSlots(root.track.chain, (s) => {
    if (s.id !== root.slot!.id) return s;
    return piece ? { ...piece, origin } : null;
  });
  return { ...root.track, chain };
}

/** Ids of a form in this session: those that are there, and new ones for what is new. */
function idsHere(root: Root, make: IdMaker) {
  const back = new Map(Object.entries(root.origin.ids ?? {}).map(([here, local]) => [local, here]));
  const there = new Set<Id>([...slotIds(root.track.chain), ...root.track.sends.map((s) => s.id)]);
  const made = new Map<Id, Id>();
  const id = (x: Id, prefix: string): Id => {
    const known = back.get(x);
    if (known && there.has(known)) return known;
    if (there.has(x)) return x;
    if (!made.has(x)) made.set(x, make(prefix));
    return made.get(x)!;
  };
  /** id in the session → id in the preset, of everything that the preset has */
  const reached = (toLocal: ReadonlyMap<Id, Id>): Record<Id, Id> =>
    Object.fromEntries(
      [...toLocal].flatMap(([formId, local]) => {
        const now = made.get(formId) ?? back.get(formId);
        return now ? [[now, local]] : [];
      }),
    );
  return { id, reached };
}

const originOf = (local: Id, root: Root, w: WritingFrom): Origin => ({
  preset: w.preset.id,
  version: w.preset.version,
  hash: w.preset.hash,
  name: w.preset.name,
  drop: root.origin.drop,
  local,
});

function writingOf(session: Session, root: Root, w: WritingFrom, id: Writing['id']): Writing {
  const beside = new Set(root.slot ? [] : (root.origin.beside ?? []));
  return {
    session,
    track: root.track,
    beside: (s) => beside.has(s.id),
    mine: w.mine,
    raw: w.raw,
    theirs: w.theirs,
    toLocal: w.toLocal,
    id,
    far: (end) => farOf(end, session, root, w),
    slotHere: (x) => findSlot(root.track.chain, x),
    withOrigin(s, old, formId) {
      const local = w.toLocal.get(formId);
      if (local) return { ...s, origin: originOf(local, root, w) };
      const foreign = old?.origin && old.origin.drop !== root.origin.drop;
      return foreign ? { ...s, origin: old.origin } : s;
    },
    adapted: {},
    notes: w.notes,
    inChain: IN_CHAIN,
  };
}

/** Where an end of the preset goes in this session. */
function farOf(end: Id, session: Session, root: Root, w: WritingFrom): Id | null {
  if (trackOf(session, end)) return end;
  // lines of the same drop may have been updated already or not: each is known by its number in its own version
  const localOf = (o: Origin) =>
    o.version === w.preset.version ? o.local : counterpart(w.from, w.preset, o, false)?.id;
  const sibling = session.tracks.find(
    (t) => t.origin?.drop === root.origin.drop && localOf(t.origin) === end,
  );
  if (sibling) return sibling.id;
  const e = w.plan.ends.find((x) => x.end.id === end);
  const choice = e?.choices.find((x) => x.id === e.chosen);
  return choice?.kind === 'track' || choice?.kind === 'master' ? choice.track! : null;
}
