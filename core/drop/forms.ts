import { clone } from '../model/json.ts';
import type { Id, Origin, Parts, Track } from '../model/types.ts';
import { slotIds } from '../session/slots.ts';
import { IN_CHAIN, PARTS, TOLD } from './parts/index.ts';
import type { MergePart, Pairing } from './parts/part.ts';
import type { Form } from './types.ts';

/** The parts that are laid over each other, with how; those of a form only. */
export const mergedIn = (form: Form, parts = PARTS): MergePart[] =>
  parts.flatMap((p) => (p.merge?.keys.some((k) => form[k] !== undefined) ? [p.merge] : []));

function formOf(t: Track, parts: Parts): Form {
  const out: Form = {};
  for (const p of TOLD) if (parts.includes(p.id)) Object.assign(out, p.merge?.form(t));
  return out;
}

/** Ids of everything in a form that has one. */
export const idsOf = (f: Pick<Form, 'chain' | 'sends'>): Id[] => [
  ...slotIds(f.chain ?? []),
  ...(f.sends ?? []).map((s) => s.id),
];

/** Form of a preset's track as its drop left it: `adapted` values are laid over those of the preset. */
export function formOfPreset(t: Track, parts: Parts, adapted: Origin['adapted'] = {}): Form {
  const form = formOf(t, parts);
  for (const m of mergedIn(form)) m.dropped?.(form, adapted, IN_CHAIN);
  return form;
}

/**
 * Form of a line of a session, in the ids of the preset that it came from. What was put in here keeps its own
 * id. A connection that came with the drop counts as the preset's, wherever it is tied now: ties belong to
 * the session.
 * @param base the preset's own form, for the names of its ends
 */
export function formOfLine(t: Track, origin: Origin, base: Form): Form {
  const id = (x: Id) => origin.ids?.[x] ?? x;
  const sends = t.sends.filter((s) => !origin.beside?.includes(s.id));
  const form = formOf({ ...t, sends }, origin.parts ?? ['chain']);
  for (const m of mergedIn(form)) m.local?.(form, id, base, IN_CHAIN);
  return form;
}

/**
 * Another version's form in the ids of the first: what is the same device, strand, handle or send keeps its
 * id, what is new gets one that nothing else has. Versions number their ids afresh, so that the same device
 * may have another id; devices pair as in a list of differences, by type, name and order.
 * @returns the form, and id in the other version → id in the first
 */
export function inIdsOf(
  base: Form,
  other: Form,
  baseEnds: (id: Id) => string,
  otherEnds: (id: Id) => string,
): { form: Form; ids: Map<Id, Id> } {
  const taken = new Set<Id>(idsOf(base));
  const ids = new Map<Id, Id>();
  const free = (old: Id): Id => {
    let id = `new-${old}`;
    while (taken.has(id)) id += '+';
    return id;
  };
  const keep = (old: Id, partner: Id | undefined): Id => {
    const id = partner ?? free(old);
    taken.add(id);
    ids.set(old, id);
    return id;
  };
  const form: Form = clone(other);
  const c: Pairing = { keep, ids, baseEnds, otherEnds, inChain: IN_CHAIN };
  for (const m of mergedIn(form)) m.paired?.(form, base, c);
  return { form, ids };
}
