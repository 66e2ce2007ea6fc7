import { randomIds, type IdMaker } from '../model/ids.ts';
import type { Device, Id, Lane, Origin, Rack, Slot, Strand, Track } from '../model/types.ts';

/** Racks nest at most this deep. */
export const MAX_DEPTH = 8;

/** Every slot of a chain, racks before what is in them. */
export function* walkSlots(chain: readonly Slot[]): Generator<Slot> {
  for (const s of chain) {
    yield s;
    if (s.kind === 'rack') for (const strand of s.strands) yield* walkSlots(strand.chain);
  }
}

/** Every device of a chain, those inside racks too, in the order of the signal. */
export const devicesIn = (chain: readonly Slot[]): Device[] =>
  [...walkSlots(chain)].filter((s): s is Device => s.kind === 'device');
export const racksIn = (chain: readonly Slot[]): Rack[] =>
  [...walkSlots(chain)].filter((s): s is Rack => s.kind === 'rack');

/** Every id in a chain: slots, strands, handles, ties. */
export const slotIds = (chain: readonly Slot[]): Id[] =>
  [...walkSlots(chain)].flatMap((s) =>
    s.kind === 'device'
      ? [s.id]
      : [
          s.id,
          ...s.strands.map((x) => x.id),
          ...s.handles.flatMap((h) => [h.id, ...h.ties.map((t) => t.id)]),
        ],
  );

export function findSlot(chain: readonly Slot[], id: Id): Slot | undefined {
  for (const s of walkSlots(chain)) if (s.id === id) return s;
  return undefined;
}

/**
 * The chain with every slot passed through `change`, from the inside out; null takes a slot out. What does
 * not change stays the same object.
 */
export function mapSlots(chain: Slot[], change: (s: Slot) => Slot | null): Slot[] {
  let touched = false;
  const out: Slot[] = [];
  for (const s of chain) {
    let inner: Slot = s;
    if (s.kind === 'rack') {
      const strands = s.strands.map((st) => {
        const c = mapSlots(st.chain, change);
        return c === st.chain ? st : { ...st, chain: c };
      });
      if (strands.some((st, i) => st !== s.strands[i])) inner = { ...s, strands };
    }
    const to = change(inner);
    if (to !== s) touched = true;
    if (to) out.push(to);
  }
  return touched ? out : chain;
}

export const mapDevices = (chain: Slot[], change: (d: Device) => Device): Slot[] =>
  mapSlots(chain, (s) => (s.kind === 'device' ? change(s) : s));

/** A track's own chain, or that of one of its strands. */
export function chainAt(t: Track, container: Id): Slot[] | undefined {
  if (container === t.id) return t.chain;
  for (const r of racksIn(t.chain)) {
    const s = r.strands.find((x) => x.id === container);
    if (s) return s.chain;
  }
  return undefined;
}

/** The track with the chain of `container` (the track itself or a strand) changed. */
export function withChainAt(t: Track, container: Id, change: (chain: Slot[]) => Slot[]): Track {
  if (container === t.id) {
    const chain = change(t.chain);
    return chain === t.chain ? t : { ...t, chain };
  }
  const chain = mapSlots(t.chain, (s) => {
    if (s.kind !== 'rack' || !s.strands.some((x) => x.id === container)) return s;
    return {
      ...s,
      strands: s.strands.map((x) => (x.id === container ? { ...x, chain: change(x.chain) } : x)),
    };
  });
  return chain === t.chain ? t : { ...t, chain };
}

/** Where a slot stands: the track's id or the strand's, and its place there. */
export function placeOf(t: Track, id: Id): { container: Id; at: number } | null {
  const own = t.chain.findIndex((s) => s.id === id);
  if (own >= 0) return { container: t.id, at: own };
  for (const r of racksIn(t.chain)) {
    for (const s of r.strands) {
      const at = s.chain.findIndex((x) => x.id === id);
      if (at >= 0) return { container: s.id, at };
    }
  }
  return null;
}

/** The racks around a slot, outermost first. */
export function racksAround(chain: readonly Slot[], id: Id): Rack[] {
  for (const s of chain) {
    if (s.id === id) return [];
    if (s.kind !== 'rack') continue;
    for (const st of s.strands) if (findSlot(st.chain, id)) return [s, ...racksAround(st.chain, id)];
  }
  return [];
}

export const createStrand = (
  name: string,
  chain: Slot[] = [],
  over: Partial<Strand> = {},
  ids: IdMaker = randomIds,
): Strand => ({ id: ids('str'), name, chain, level: 0, pan: 0, mute: false, solo: false, ...over });

/** A rack of one strand around the given slots; more strands and handles by `over`. */
export const createRack = (
  name: string,
  chain: Slot[] = [],
  over: Partial<Rack> = {},
  ids: IdMaker = randomIds,
): Rack => ({
  id: ids('rak'),
  kind: 'rack',
  name,
  state: 'on',
  strands: over.strands ?? [createStrand('Strand 1', chain, {}, ids)],
  blend: { mode: 'off', position: 50 },
  handles: [],
  ...over,
});

/**
 * A slot with new ids throughout, ties pointing to the new ones.
 * @param fresh new id for an old one and its prefix; called once for each
 */
export function renewSlot<T extends Slot>(slot: T, fresh: (old: Id, prefix: string) => Id): T {
  const map = new Map<Id, Id>();
  const id = (old: Id, prefix: string) => {
    const n = fresh(old, prefix);
    map.set(old, n);
    return n;
  };
  const walk = (s: Slot): Slot => {
    if (s.kind === 'device') return moved({ ...s, id: id(s.id, 'dev') });
    const own = id(s.id, 'rak');
    const strands = s.strands.map((st) => ({ ...st, id: id(st.id, 'str'), chain: st.chain.map(walk) }));
    return moved({
      ...s,
      id: own,
      strands,
      handles: s.handles.map((h) => ({
        ...h,
        id: id(h.id, 'hdl'),
        ties: h.ties.map((t) => ({ ...t, id: id(t.id, 'tie'), slot: map.get(t.slot) ?? t.slot })),
      })),
    });
  };
  const moved = (s: Slot): Slot => (s.origin?.ids ? { ...s, origin: renewOrigin(s.origin, map) } : s);
  return walk(slot) as T;
}

/** An origin whose ids follow the objects that it speaks of; what has no new id is left out. */
export function renewOrigin(o: Origin, map: ReadonlyMap<Id, Id>): Origin {
  return o.ids
    ? {
        ...o,
        ids: Object.fromEntries(
          Object.entries(o.ids).flatMap(([old, local]) => {
            const now = map.get(old);
            return now ? [[now, local]] : [];
          }),
        ),
      }
    : o;
}

/**
 * Lanes with new ids that move the copies of what they moved; those of things that did not come along stay
 * behind.
 * @param now the new id of an old one, if it came along
 */
export const renewLanes = (
  lanes: readonly Lane[],
  now: (old: Id) => Id | undefined,
  fresh: (old: Id, prefix: string) => Id,
): Lane[] =>
  lanes.flatMap((l) => {
    const of = now(l.of);
    return of ? [{ ...l, id: fresh(l.id, 'lan'), of, points: l.points.map((p) => ({ ...p })) }] : [];
  });

/** A track with new ids throughout, what it remembers of its preset included. */
export function renewTrack(t: Track, fresh: (old: Id, prefix: string) => Id): Track {
  const map = new Map<Id, Id>();
  const id = (old: Id, prefix: string) => {
    const n = fresh(old, prefix);
    map.set(old, n);
    return n;
  };
  const out: Track = {
    ...t,
    id: id(t.id, 'trk'),
    chain: t.chain.map((s) => renewSlot(s, id)),
    sends: t.sends.map((s) => ({ ...s, id: id(s.id, 'snd') })),
    clips: t.clips.map((c) => ({ ...c, id: id(c.id, 'clp') })),
  };
  if (t.notes) out.notes = t.notes.map((x) => ({ ...x, id: id(x.id, 'nts') }));
  if (t.automation) out.automation = renewLanes(t.automation, (old) => map.get(old), id);
  return out.origin ? { ...out, origin: renewOrigin(out.origin, map) } : out;
}
