import { randomIds, type IdMaker } from '../model/ids.ts';
import { merge3, type Conflict } from '../model/json.ts';
import type { Id, Origin, Preset, Session, Track } from '../model/types.ts';
import { findSlot, mapSlots } from '../session/slots.ts';
import { changesOf, labelOf, placeIn, textAt, withValueOf, type Change } from './changes.ts';
import { formOfLine, formOfPreset, idsOf, inIdsOf } from './forms.ts';
import { planDrop } from './plan.ts';
import { counterpart, endNames, lineOf, partsIn, sideOf, type Root } from './roots.ts';
import type { Form } from './types.ts';
import { writeForm } from './write.ts';

/** How a dropped line or piece stands to the shelf. */
export interface RootState {
  /** what is otherwise here than the drop left it */
  changes: Change[];
  /** the shelf has a later version */
  newer: boolean;
}

/**
 * Compares a line or piece with the version that it was dropped from; `current` is the latest version on the
 * shelf.
 */
export function stateOf(root: Root, dropped: Preset, current: number): RootState {
  const f = formsOf(root, dropped);
  return { changes: f ? changesOf(f.base, f.mine) : [], newer: current > root.origin.version };
}

/**
 * Lines of a new version that none of an older version's became: they come with a drop, not with an update.
 */
export function newLines(dropped: Preset, next: Preset): Track[] {
  const known = new Set(
    dropped.content.tracks.map((t) => counterpart(dropped, next, { local: t.id } as Origin, false)?.id),
  );
  return next.content.tracks.filter((t) => !known.has(t.id));
}

export interface UpdateConflict {
  path: string;
  label: string;
  base: string;
  mine: string;
  theirs: string;
  chosen: 'mine' | 'theirs';
}

export interface Update {
  session: Session;
  /** what the new version brought */
  taken: Change[];
  /** what was changed here only, and stays */
  kept: Change[];
  /** both sides changed these */
  conflicts: UpdateConflict[];
  notes: string[];
}

export interface UpdateOptions {
  /** path of a conflict → whose value; “mine” when left out */
  choices?: Record<string, 'mine' | 'theirs'>;
  ids?: IdMaker;
}

/**
 * Brings a line or piece to another version of its preset, three-way: base is the version that was dropped
 * (with what the drop adapted), theirs the new version, mine the session. What only one side changed is
 * taken, what both changed is listed. Ties stay as they are; new sends and keys are tied as a drop would.
 * Nothing else in the session is touched.
 */
export function updateFromShelf(
  session: Session,
  root: Root,
  dropped: Preset,
  next: Preset,
  options: UpdateOptions = {},
): Update {
  const f = formsOf(root, dropped);
  const side = counterpart(dropped, next, root.origin, !!root.slot);
  if (!f || !side) return withoutCounterpart(session, root, next);
  const plan = planDrop(session, next, { place: { kind: 'new' } });
  const mapped = (adapted: Origin['adapted']) =>
    inIdsOf(f.raw, formOfPreset(side, partsIn(root), adapted), endNames(dropped), endNames(next));
  const { form: raw, ids } = mapped({});
  const fresh = plan.adaptations.filter((a) => a.on && a.path.startsWith(`${side.id}/`));
  const adapted = Object.fromEntries(fresh.map((a) => [a.path.slice(side.id.length + 1), a.to]));
  // what the drop adapted stays adapted where the new version has the old value; what is new is adapted as a
  // drop would
  const theirs = merge3(raw, merge3(f.raw, raw, f.base).value, mapped(adapted).form).value;
  const all = merge3(f.base, f.mine, theirs).conflicts;
  const given = all.filter((x) => options.choices?.[x.path] === 'theirs');
  const mine = given.reduce((now, x) => withValueOf(now, x.path, f.base), f.mine);
  const merged = merge3(f.base, mine, theirs).value;

  const notes: string[] = [];
  const out = writeForm(session, root, merged, {
    preset: next,
    from: dropped,
    plan,
    toLocal: new Map([...ids].map(([local, base]) => [base, local])),
    mine: f.mine,
    raw,
    theirs,
    local: side.id,
    ids: options.ids ?? randomIds,
    notes,
  });
  const clashing = all.map((x) => x.path);
  return {
    session: out,
    taken: changesOf(f.mine, merged),
    kept: changesOf(theirs, merged).filter((x) => !clashing.some((p) => x.path.startsWith(p))),
    conflicts: all.map((x) => conflictIn(x, { ...f, theirs }, options.choices?.[x.path] ?? 'mine')),
    notes,
  };
}

const withoutCounterpart = (session: Session, root: Root, next: Preset): Update => ({
  session,
  taken: [],
  kept: [],
  conflicts: [],
  notes: [
    `Version ${next.version} of “${next.name}” has no counterpart of “${(root.slot ?? root.track).name}”; it stays as it is.`,
  ],
});

/** A value that both sides changed, in words. */
function conflictIn(
  { path }: Conflict,
  f: { base: Form; mine: Form; theirs: Form },
  chosen: UpdateConflict['chosen'],
): UpdateConflict {
  const [base, mine, theirs] = [f.base, f.mine, f.theirs].map((form) => placeIn(form, path));
  const text = (at: typeof base) => textAt(path, at.value, at.trail);
  const trail = [mine, theirs, base].map((at) => at.trail).find((t) => t.length) ?? [];
  const label = labelOf(path, trail);
  return { path, label, base: text(base), mine: text(mine), theirs: text(theirs), chosen };
}

/** Puts values back as they were dropped: all, or those at some paths of `stateOf`. */
export function putBack(
  session: Session,
  root: Root,
  dropped: Preset,
  paths: string[] | null = null,
  ids: IdMaker = randomIds,
): Session {
  const f = formsOf(root, dropped);
  if (!f) return session;
  const form = paths ? paths.reduce((now, p) => withValueOf(now, p, f.base), f.mine) : f.base;
  return writeForm(session, root, form, {
    preset: dropped,
    from: dropped,
    plan: planDrop(session, dropped, { place: { kind: 'new' } }),
    toLocal: new Map(idsOf(f.raw).map((id) => [id, id])),
    mine: f.mine,
    raw: f.raw,
    theirs: f.base,
    local: f.side.id,
    ids,
    notes: [],
  });
}

/** Lets go of the tie to the shelf: the line or piece stays, its origin goes, that of what is inside it too. */
export function letGo(session: Session, root: Root): Session {
  const plain = <T extends { origin?: Origin }>(x: T): T => {
    const { origin, ...rest } = x;
    return origin?.drop === root.origin.drop ? (rest as T) : x;
  };
  const { slot } = root;
  const isInside = (id: Id) => !slot || id === slot.id || !!findSlot([slot], id);
  const free = (t: Track): Track => ({
    ...(slot ? t : plain(t)),
    chain: mapSlots(t.chain, (s) => (isInside(s.id) ? plain(s) : s)),
  });
  return { ...session, tracks: session.tracks.map((t) => (t.id === root.track.id ? free(t) : t)) };
}

/** The preset's side of a root: as it is on the shelf (raw), as its drop left it (base), what stands here (mine). */
function formsOf(root: Root, dropped: Preset): { side: Track; raw: Form; base: Form; mine: Form } | null {
  const side = sideOf(dropped, root.origin, !!root.slot);
  if (!side) return null;
  const parts = partsIn(root);
  const raw = formOfPreset(side, parts);
  return {
    side,
    raw,
    base: formOfPreset(side, parts, root.origin.adapted),
    mine: formOfLine(lineOf(root), root.origin, raw),
  };
}
