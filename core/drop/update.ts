import { freeName, trackOf } from '../session/create.ts';
import { randomIds, type IdMaker } from '../model/ids.ts';
import { merge3, same, type Conflict } from '../model/json.ts';
import { dropDeadTies } from '../session/handles.ts';
import { findSlot as slotIn, mapSlots, slotIds, walkSlots } from '../session/slots.ts';
import { validateSession } from '../session/validate.ts';
import type {
  Device,
  Id,
  Origin,
  ParamValue,
  Parts,
  Preset,
  Send,
  Session,
  Slot,
  Track,
} from '../model/types.ts';
import { changesOf, labelOf, placeIn, textAt, withValueOf, type Change } from './changes.ts';
import {
  LEFT_OUT,
  counterpart,
  endNames,
  formOfLine,
  formOfPreset,
  inIdsOf,
  lineOf,
  sideOf,
  type Form,
  type Root,
} from './forms.ts';
import { planDrop, type DropPlan } from './plan.ts';

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
  if (!f || !side) {
    return {
      session,
      taken: [],
      kept: [],
      conflicts: [],
      notes: [
        `Version ${next.version} of “${next.name}” has no counterpart of “${(root.slot ?? root.track).name}”; it stays as it is.`,
      ],
    };
  }
  const parts = partsIn(root);
  const raw0 = f.raw;
  const plan = planDrop(session, next, { place: { kind: 'new' } });
  const mapped = (adapted: Origin['adapted']) =>
    inIdsOf(raw0, formOfPreset(side, parts, adapted), endNames(dropped), endNames(next));
  const { form: raw, ids } = mapped({});
  const fresh = Object.fromEntries(
    plan.adaptations
      .filter((a) => a.on && a.path.startsWith(side.id + '/'))
      .map((a) => [a.path.slice(side.id.length + 1), a.to]),
  );
  // what the drop adapted stays adapted where the new version has the old value; what is new is adapted as a
  // drop would
  const theirs = merge3(raw, merge3(raw0, raw, f.base).value, mapped(fresh).form).value;
  let mine = f.mine;
  const both = (): { value: Form; conflicts: Conflict[] } => merge3(f.base, mine, theirs);
  const all = both().conflicts;
  for (const c of all) if (options.choices?.[c.path] === 'theirs') mine = withValueOf(mine, c.path, f.base);
  const merged = both().value;

  const toLocal = new Map([...ids].map(([local, base]) => [base, local]));
  const notes: string[] = [];
  const out = writeForm(
    session,
    root,
    merged,
    f.mine,
    { preset: next, from: dropped, plan, side, toLocal, raw, theirs, local: side.id },
    options.ids ?? randomIds,
    notes,
  );
  const conflicts = all.map((c): UpdateConflict => {
    const at = (form: Form) => {
      const { value, trail } = placeIn(form, c.path);
      return textAt(c.path, value, trail);
    };
    const trails = [f.mine, theirs, f.base].map((x) => placeIn(x, c.path).trail);
    return {
      path: c.path,
      label: labelOf(c.path, trails.find((t) => t.length) ?? []),
      base: at(f.base),
      mine: at(f.mine),
      theirs: at(theirs),
      chosen: options.choices?.[c.path] ?? 'mine',
    };
  });
  const clashing = new Set(all.map((c) => c.path));
  return {
    session: out,
    taken: changesOf(f.mine, merged),
    kept: changesOf(theirs, merged).filter((c) => ![...clashing].some((p) => c.path.startsWith(p))),
    conflicts,
    notes,
  };
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
  const { side, raw } = f;
  const form = paths ? paths.reduce((now, p) => withValueOf(now, p, f.base), f.mine) : f.base;
  const own = new Map(idsOf(raw).map((id) => [id, id]));
  return writeForm(
    session,
    root,
    form,
    f.mine,
    {
      preset: dropped,
      from: dropped,
      plan: planDrop(session, dropped, { place: { kind: 'new' } }),
      side,
      toLocal: own,
      raw,
      theirs: f.base,
      local: side.id,
    },
    ids,
    [],
  );
}

/**
 * Lets go of the tie to the shelf: the line or piece stays, its origin goes, that of what is inside it too.
 */
export function letGo(session: Session, root: Root): Session {
  const drop = root.origin.drop;
  const plain = <T extends { origin?: Origin }>(x: T): T => {
    const { origin: o, ...rest } = x;
    return o?.drop === drop ? (rest as T) : x;
  };
  return {
    ...session,
    tracks: session.tracks.map((t) =>
      t.id !== root.track.id
        ? t
        : root.slot
          ? {
              ...t,
              chain: mapSlots(t.chain, (s) =>
                s.id === root.slot!.id || slotIn([root.slot!], s.id) ? plain(s) : s,
              ),
            }
          : { ...plain(t), chain: mapSlots(t.chain, plain) },
    ),
  };
}

/**
 * The preset's side of a root as it is on the shelf (raw), as its drop left it (base), and what stands here
 * now (mine).
 */
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
const partsIn = (root: Root): Parts => root.origin.parts ?? ['chain'];

interface Writing {
  preset: Preset;
  /** the version that was dropped */ from: Preset;
  plan: DropPlan;
  side: Track;
  /** id in the form → id in the preset */ toLocal: Map<Id, Id>;
  raw: Form;
  theirs: Form;
  local: Id;
}

/** Writes a form onto the line or piece that it belongs to. */
function writeForm(
  session: Session,
  root: Root,
  form: Form,
  mine: Form,
  w: Writing,
  ids: IdMaker,
  notes: string[],
): Session {
  const back = new Map(Object.entries(root.origin.ids ?? {}).map(([here, local]) => [local, here]));
  const here = new Set(idsOf(root.track));
  const made = new Map<Id, Id>();
  const id = (x: Id, prefix: string): Id => {
    const known = back.get(x);
    if (known && here.has(known)) return known;
    if (here.has(x)) return x;
    let n = made.get(x);
    if (!n) made.set(x, (n = ids(prefix)));
    return n;
  };
  /** Where an end of the preset goes in this session. */
  const far = (end: Id): Id | null => {
    if (trackOf(session, end)) return end;
    // lines of the same drop may have been updated already or not: each is known by the number that it has in
    // its own version
    const sibling = session.tracks.find(
      (t) =>
        t.origin?.drop === root.origin.drop &&
        (t.origin.version === w.preset.version
          ? t.origin.local
          : counterpart(w.from, w.preset, t.origin, false)?.id) === end,
    );
    if (sibling) return sibling.id;
    const e = w.plan.ends.find((x) => x.end.id === end);
    const choice = e?.choices.find((x) => x.id === e.chosen);
    return choice?.kind === 'track' || choice?.kind === 'master' ? choice.track! : null;
  };
  const slotHere = (x: Id) => slotIn(root.track.chain, x);
  const mineKeys = new Map(
    [...walkSlots(mine.chain ?? [])].flatMap((s) => (s.kind === 'device' ? [[s.id, s.key] as const] : [])),
  );
  const walk = (s: Slot): Slot => {
    if (s.kind === 'device') {
      const own = id(s.id, 'dev');
      const old = slotHere(own);
      const wasKey = old?.kind === 'device' ? old.key : null;
      let key: Device['key'] = s.key;
      if (s.key.kind === 'track') {
        const before = mineKeys.get(s.id);
        // the same key as before stays tied as it is, with whatever tap it has now
        const to =
          wasKey?.kind === 'track' && before?.kind === 'track' && before.track === s.key.track
            ? wasKey.track
            : far(s.key.track);
        key = to && to !== root.track.id ? { ...s.key, track: to } : { kind: 'own' };
        if (!to) {
          notes.push(`The key of ${s.name} has no counterpart in this session: it listens to its own input.`);
        }
      }
      return withOrigin({ ...s, id: own, key }, old, s.id);
    }
    const own = id(s.id, 'rak');
    const old = slotHere(own);
    const strands = s.strands.map((x) => ({ ...x, id: id(x.id, 'str'), chain: x.chain.map(walk) }));
    return withOrigin(
      {
        ...s,
        id: own,
        strands,
        handles: s.handles.map((h) => ({
          ...h,
          id: id(h.id, 'hdl'),
          ties: h.ties.map((t) => ({ ...t, id: id(t.id, 'tie'), slot: id(t.slot, 'dev') })),
        })),
      },
      old,
      s.id,
    );
  };
  const originOf = (local: Id): Origin => ({
    preset: w.preset.id,
    version: w.preset.version,
    hash: w.preset.hash,
    name: w.preset.name,
    drop: root.origin.drop,
    local,
  });
  const withOrigin = (s: Slot, old: Slot | undefined, formId: Id): Slot => {
    const local = w.toLocal.get(formId);
    if (local) return { ...s, origin: originOf(local) };
    return old?.origin && old.origin.drop !== root.origin.drop ? { ...s, origin: old.origin } : s;
  };
  const chain = form.chain && dropDeadTies(form.chain.map(walk));
  const oldSends = new Map(root.track.sends.map((s) => [s.id, s]));
  const mineTo = new Map((mine.sends ?? []).map((s) => [s.id, s.to]));
  const sends = form.sends?.flatMap((s): Send[] => {
    const own = id(s.id, 'snd');
    const old = oldSends.get(own);
    const to = old && mineTo.get(s.id) === s.to ? old.to : far(s.to);
    if (!to || to === root.track.id) {
      notes.push(`A send of the new version has nothing to go to here; it was left out.`);
      return [];
    }
    return [{ ...s, id: own, to }];
  });

  // the origin speaks of the preset's ids from now on
  const reach = new Map<Id, Id>();
  for (const [formId, local] of w.toLocal) {
    const s = made.get(formId) ?? back.get(formId);
    if (s) reach.set(s, local);
  }
  const adapted = adaptedIn(w);
  for (const s of sends ? (w.raw.sends ?? []) : []) {
    if (!sends!.some((x) => x.id === id(s.id, 'snd')) && (form.sends ?? []).some((x) => x.id === s.id)) {
      adapted[w.toLocal.get(s.id)!] = LEFT_OUT;
    }
  }
  const origin: Origin = {
    ...originOf(root.slot ? (w.toLocal.get(root.origin.local) ?? root.origin.local) : w.local),
    ...(root.origin.parts ? { parts: root.origin.parts } : {}),
    ids: Object.fromEntries(reach),
    adapted,
  };
  const others = session.tracks.filter((t) => t.id !== root.track.id).map((t) => t.name);
  const tracks = session.tracks.map((t): Track => {
    if (t.id !== root.track.id) return t;
    if (root.slot) {
      return {
        ...t,
        chain: mapSlots(t.chain, (s) =>
          s.id === root.slot!.id ? (chain?.[0] ? { ...chain[0], origin } : null) : s,
        ),
      };
    }
    const out: Track = { ...t, origin };
    if (chain) out.chain = chain;
    if (sends) out.sends = sends;
    if (form.name !== undefined) {
      out.name = freeName(form.name, others);
      if (out.name !== form.name || form.name !== w.raw.name) adapted.name = out.name;
    }
    for (const k of ['colour', 'note', 'level', 'polarity', 'pan'] as const) {
      if (form[k] !== undefined) Object.assign(out, { [k]: form[k] });
    }
    if (out.name === mine.name && mine.name !== w.raw.name && w.theirs.name !== mine.name) {
      delete adapted.name;
    }
    return out;
  });
  const next = { ...session, tracks };
  const bad = validateSession(next);
  if (bad.length) throw new Error(bad[0].message);
  return next;
}

/**
 * What theirs has otherwise than the preset itself, under the preset's ids: the drop's adaptations, carried
 * on.
 */
function adaptedIn(w: Writing): Record<string, ParamValue> {
  const out: Record<string, ParamValue> = {};
  const theirs = new Map([...walkSlots(w.theirs.chain ?? [])].map((s) => [s.id, s]));
  for (const s of walkSlots(w.raw.chain ?? [])) {
    const x = theirs.get(s.id);
    const local = w.toLocal.get(s.id);
    if (!x || !local) continue;
    if (s.kind === 'device' && x.kind === 'device') {
      if (s.type !== x.type) out[`${local}/type`] = x.type;
      else {
        for (const p of Object.keys(s.params)) {
          if (!same(s.params[p], x.params[p])) out[`${local}/${p}`] = x.params[p];
        }
      }
      if (s.key.kind === 'track' && x.key.kind === 'own') out[`${local}/key`] = 'own';
    } else if (s.kind === 'rack' && x.kind === 'rack') {
      for (const h of s.handles) {
        const y = x.handles.find((k) => k.id === h.id);
        const hl = w.toLocal.get(h.id);
        if (y && hl && y.cc !== h.cc && y.cc !== null) out[`${hl}/cc`] = y.cc;
      }
    }
  }
  for (const s of w.raw.sends ?? []) {
    if (!(w.theirs.sends ?? []).some((x) => x.id === s.id)) out[w.toLocal.get(s.id) ?? s.id] = LEFT_OUT;
  }
  if (w.theirs.name !== undefined && w.theirs.name !== w.raw.name) out.name = w.theirs.name;
  return out;
}

const idsOf = (f: { chain?: Slot[]; sends?: Send[] }): Id[] => [
  ...slotIds(f.chain ?? []),
  ...(f.sends ?? []).map((s) => s.id),
];
