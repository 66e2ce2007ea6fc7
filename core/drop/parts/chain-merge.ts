import { DEVICE_TYPES } from '../../devices/index.ts';
import { clone, same } from '../../model/json.ts';
import type { Device, Id, ParamValue, Rack, Slot } from '../../model/types.ts';
import { createDevice } from '../../session/create.ts';
import { dropDeadTies } from '../../session/handles.ts';
import { devicesIn, mapSlots, walkSlots } from '../../session/slots.ts';
import { align } from '../align.ts';
import type { MergePart, Pairing, Part, Writing } from './part.ts';

/** How chains are laid over each other: slots, strands and handles are known by the ids of the preset. */
export const mergeChain: MergePart = {
  keys: ['chain'],
  form: (t) => ({ chain: t.chain }),

  dropped(form, adapted, inChain) {
    form.chain = mapSlots(clone(form.chain!), (s) => droppedSlot(s, adapted, inChain));
  },

  local(form, id, base, inChain) {
    const there = new Map(devicesIn(base.chain ?? []).map((d) => [d.id, d]));
    form.chain = form.chain!.map((s) => localSlot(s, id, there, inChain));
  },

  paired(form, base, c) {
    const chain = pairedChain(base.chain ?? [], form.chain!, c);
    form.chain = mapSlots(chain, (s) => (s.kind === 'rack' ? retied(s, (x) => c.ids.get(x) ?? x) : s));
  },

  adapted: adaptedIn,

  write(form, out, c) {
    const mine = new Map(devicesIn(c.mine.chain ?? []).map((d) => [d.id, d]));
    out.chain = dropDeadTies(form.chain!.map((s) => writtenSlot(s, mine, c)));
  },
};

const retied = (r: Rack, slotOf: (x: Id) => Id): Rack => ({
  ...r,
  handles: r.handles.map((h) => ({ ...h, ties: h.ties.map((t) => ({ ...t, slot: slotOf(t.slot) })) })),
});

/** A slot of the preset as its drop left it. */
function droppedSlot(s: Slot, adapted: Record<string, ParamValue>, inChain: readonly Part[]): Slot {
  if (s.kind === 'rack') {
    const cc = (h: Rack['handles'][number]) => adapted[`${h.id}/cc`] as number | undefined;
    return { ...s, handles: s.handles.map((h) => (cc(h) === undefined ? h : { ...h, cc: cc(h)! })) };
  }
  const d = inChain.reduce((x, p) => p.device!.dropped(x, adapted), s);
  const instead = adapted[`${s.id}/type`];
  if (instead) {
    const values = Object.keys(DEVICE_TYPES[String(instead)].defaults).filter(
      (p) => `${s.id}/${p}` in adapted,
    );
    const params = Object.fromEntries(values.map((p) => [p, adapted[`${s.id}/${p}`]]));
    return createDevice(String(instead), params, { id: d.id, name: d.name, state: d.state, key: d.key });
  }
  const own = Object.keys(d.params).filter((p) => `${d.id}/${p}` in adapted);
  if (!own.length) return d;
  return {
    ...d,
    params: { ...d.params, ...Object.fromEntries(own.map((p) => [p, adapted[`${d.id}/${p}`]])) },
  };
}

/** A slot of a session in its preset's ids. */
export function localSlot(
  s: Slot,
  id: (x: Id) => Id,
  base: ReadonlyMap<Id, Device>,
  inChain: readonly Part[],
): Slot {
  const { origin: _origin, ...rest } = s;
  if (rest.kind === 'device') {
    return inChain.reduce((d, p) => p.device!.local(d, base.get(d.id)), { ...rest, id: id(rest.id) });
  }
  return {
    ...rest,
    id: id(rest.id),
    strands: rest.strands.map((x) => ({
      ...x,
      id: id(x.id),
      chain: x.chain.map((y) => localSlot(y, id, base, inChain)),
    })),
    handles: rest.handles.map((h) => ({
      ...h,
      id: id(h.id),
      ties: h.ties.map((y) => ({ ...y, id: id(y.id), slot: id(y.slot) })),
    })),
  };
}

/** Another version's chain with the ids of its partners in the first. */
function pairedChain(base: Slot[], other: Slot[], c: Pairing): Slot[] {
  const partners = new Map(align(base, other).flatMap(([p, q]) => (p && q ? [[q.id, p] as const] : [])));
  return other.map((s): Slot => {
    const partner = partners.get(s.id);
    const id = c.keep(s.id, partner?.id);
    if (s.kind === 'device') {
      const twin = partner?.kind === 'device' ? partner : undefined;
      return c.inChain.reduce((d, p) => p.device!.paired(d, twin, c), { ...s, id });
    }
    return pairedRack({ ...s, id }, partner?.kind === 'rack' ? partner : null, c);
  });
}

function pairedRack(r: Rack, partner: Rack | null, c: Pairing): Rack {
  const strandOf = pairing(partner?.strands ?? [], r.strands);
  const handleOf = pairing(partner?.handles ?? [], r.handles);
  const strands = r.strands.map((s) => {
    const twin = strandOf(s);
    return { ...s, id: c.keep(s.id, twin?.id), chain: pairedChain(twin?.chain ?? [], s.chain, c) };
  });
  const handles = r.handles.map((h) => {
    const twin = handleOf(h);
    const ties = h.ties.map((t, i) => ({ ...t, id: c.keep(t.id, twin?.ties[i]?.id) }));
    return { ...h, id: c.keep(h.id, twin?.id), ties };
  });
  return { ...r, strands, handles };
}

/** Members of two lists that belong together: equal names first, then what is left in order. */
function pairing<T extends { id: Id; name: string }>(a: T[], b: T[]): (x: T) => T | undefined {
  const free = [...a];
  const found = new Map<Id, T>();
  const take = (x: T, fits: (y: T) => boolean) => {
    const i = free.findIndex(fits);
    if (i >= 0) found.set(x.id, free.splice(i, 1)[0]);
  };
  for (const x of b) take(x, (y) => y.name === x.name);
  for (const x of b) if (!found.has(x.id)) take(x, () => true);
  return (x) => found.get(x.id);
}

/** A slot of a merged form as it will stand on the line. */
function writtenSlot(s: Slot, mine: ReadonlyMap<Id, Device>, c: Writing): Slot {
  if (s.kind === 'device') {
    const id = c.id(s.id, 'dev');
    const old = c.slotHere(id);
    const d = c.inChain.reduce((x, p) => p.device!.write(x, old, mine.get(s.id), c), { ...s, id });
    return c.withOrigin(d, old, s.id);
  }
  const id = c.id(s.id, 'rak');
  const old = c.slotHere(id);
  const strands = s.strands.map((x) => ({
    ...x,
    id: c.id(x.id, 'str'),
    chain: x.chain.map((y) => writtenSlot(y, mine, c)),
  }));
  const handles = s.handles.map((h) => ({
    ...h,
    id: c.id(h.id, 'hdl'),
    ties: h.ties.map((t) => ({ ...t, id: c.id(t.id, 'tie'), slot: c.id(t.slot, 'dev') })),
  }));
  return c.withOrigin({ ...s, id, strands, handles }, old, s.id);
}

/** What a new version has otherwise than the preset: the drop's adaptations, carried on. */
function adaptedIn(c: Writing): Record<string, ParamValue> {
  const out: Record<string, ParamValue> = {};
  const theirs = new Map([...walkSlots(c.theirs.chain ?? [])].map((s) => [s.id, s]));
  for (const s of walkSlots(c.raw.chain ?? [])) {
    const x = theirs.get(s.id);
    const local = c.toLocal.get(s.id);
    if (!x || !local) continue;
    if (s.kind === 'device' && x.kind === 'device') Object.assign(out, adaptedDevice(s, x, local, c));
    else if (s.kind === 'rack' && x.kind === 'rack') Object.assign(out, adaptedHandles(s, x, c));
  }
  return out;
}

function adaptedDevice(raw: Device, theirs: Device, local: Id, c: Writing): Record<string, ParamValue> {
  const out: Record<string, ParamValue> = {};
  if (raw.type !== theirs.type) {
    out[`${local}/type`] = theirs.type;
    const { defaults } = DEVICE_TYPES[theirs.type];
    for (const p of Object.keys(theirs.params)) {
      if (theirs.params[p] !== defaults[p]) out[`${local}/${p}`] = theirs.params[p];
    }
  } else {
    for (const p of Object.keys(raw.params)) {
      if (!same(raw.params[p], theirs.params[p])) out[`${local}/${p}`] = theirs.params[p];
    }
  }
  for (const p of c.inChain) Object.assign(out, p.device!.adapted(raw, theirs, local));
  return out;
}

function adaptedHandles(raw: Rack, theirs: Rack, c: Writing): Record<string, ParamValue> {
  const out: Record<string, ParamValue> = {};
  for (const h of raw.handles) {
    const x = theirs.handles.find((k) => k.id === h.id);
    const local = c.toLocal.get(h.id);
    if (x && local && x.cc !== h.cc && x.cc !== null) out[`${local}/cc`] = x.cc;
  }
  return out;
}
