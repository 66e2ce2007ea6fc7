import { createDevice } from '../session/create.ts';
import { clone } from '../model/json.ts';
import { mapSlots, slotIds, walkSlots } from '../session/slots.ts';
import type { Id, Origin, Parts, Preset, Send, Session, Slot, Track } from '../model/types.ts';
import type { Captured } from './capture.ts';
import { align } from './diff.ts';

/**
 * A line as the preset speaks of it: the same ids, connections by the names of the preset's own ends, and
 * only the parts that came in. The shelf's version, another version and what stands in a session
 * become forms that can be laid over each other, value by value.
 */
export interface Form {
  name?: string;
  colour?: string;
  note?: string;
  level?: number;
  polarity?: boolean;
  pan?: number;
  chain?: Slot[];
  sends?: Send[];
}

/** What an origin says of a send that was left out at the drop. */
export const LEFT_OUT = 'left out';

/** Form of a preset's track as its drop left it: `adapted` values are laid over those of the preset. */
export function formOfPreset(t: Track, parts: Parts, adapted: Origin['adapted'] = {}): Form {
  const form = formOf(t, parts);
  if (form.name !== undefined && typeof adapted.name === 'string') form.name = adapted.name;
  if (form.sends) form.sends = form.sends.filter((s) => adapted[s.id] !== LEFT_OUT);
  if (form.chain) {
    form.chain = mapSlots(clone(form.chain), (x) => {
      const instead = adapted[`${x.id}/type`];
      const open = adapted[`${x.id}/key`] === 'own';
      if (x.kind === 'device' && instead) {
        return createDevice(
          String(instead),
          {},
          { id: x.id, name: x.name, state: x.state, key: open ? { kind: 'own' } : x.key },
        );
      }
      const d: Slot = x.kind === 'device' && open ? { ...x, key: { kind: 'own' } } : x;
      if (d.kind === 'rack') {
        return {
          ...d,
          handles: d.handles.map((h) =>
            `${h.id}/cc` in adapted ? { ...h, cc: adapted[`${h.id}/cc`] as number } : h,
          ),
        };
      }
      const own = Object.entries(adapted).filter(
        ([path]) => path.startsWith(d.id + '/') && path.slice(d.id.length + 1) in d.params,
      );
      return own.length
        ? {
            ...d,
            params: {
              ...d.params,
              ...Object.fromEntries(own.map(([path, v]) => [path.slice(d.id.length + 1), v])),
            },
          }
        : d;
    });
  }
  return form;
}

/**
 * Form of a line of a session, in the ids of the preset that it came from. What was put in here keeps its own
 * id. A connection that came with the drop counts as the preset's, wherever it is tied now: ties
 * belong to the session.
 * @param base the preset's own form, for the names of its ends
 */
export function formOfLine(t: Track, origin: Origin, base: Form): Form {
  const id = (x: Id) => origin.ids?.[x] ?? x;
  const form = formOf(t, origin.parts ?? ['chain']);
  if (form.chain) form.chain = localChain(form.chain, id, base.chain ?? []);
  const ends = new Map((base.sends ?? []).map((s) => [s.id, s.to]));
  if (form.sends) {
    form.sends = form.sends.map((s) => ({ ...s, id: id(s.id), to: ends.get(id(s.id)) ?? s.to }));
  }
  return form;
}

/** Slots of a session in a preset's ids. */
export function localChain(chain: Slot[], id: (x: Id) => Id, base: Slot[]): Slot[] {
  const keys = new Map(
    [...walkSlots(base)].flatMap((s) => (s.kind === 'device' ? [[s.id, s.key] as const] : [])),
  );
  const walk = (s: Slot): Slot => {
    const { origin: _o, ...rest } = s;
    if (rest.kind === 'device') {
      const key = keys.get(id(rest.id));
      // a key that is tied is the preset's key; one whose end was left open at the drop still is
      return {
        ...rest,
        id: id(rest.id),
        key: key?.kind === 'track' && rest.key.kind === 'track' ? { ...key, tap: rest.key.tap } : rest.key,
      };
    }
    return {
      ...rest,
      id: id(rest.id),
      strands: rest.strands.map((x) => ({ ...x, id: id(x.id), chain: x.chain.map(walk) })),
      handles: rest.handles.map((h) => ({
        ...h,
        id: id(h.id),
        ties: h.ties.map((y) => ({ ...y, id: id(y.id), slot: id(y.slot) })),
      })),
    };
  };
  return chain.map(walk);
}

function formOf(t: Track, parts: Parts): Form {
  const has = (p: Parts[number]) => parts.includes(p);
  return {
    ...(has('name') ? { name: t.name } : {}),
    ...(has('colour') ? { colour: t.colour } : {}),
    ...(has('note') ? { note: t.note } : {}),
    ...(has('level') ? { level: t.level, polarity: t.polarity } : {}),
    ...(has('pan') ? { pan: t.pan } : {}),
    ...(has('chain') ? { chain: t.chain } : {}),
    ...(has('sends') ? { sends: t.sends } : {}),
  };
}

/**
 * Another version's form in the ids of the first: what is the same device, strand, handle or send keeps its
 * id, what is new gets one that nothing else has. Versions number their ids afresh, so that the
 * same device may have another id; devices pair as in a list of differences, by type, name and order.
 * @returns the form, and id in the other version → id in the first
 */
export function inIdsOf(
  base: Form,
  other: Form,
  baseEnds: (id: Id) => string,
  otherEnds: (id: Id) => string,
): { form: Form; ids: Map<Id, Id> } {
  const taken = new Set<Id>([...slotIds(base.chain ?? []), ...(base.sends ?? []).map((s) => s.id)]);
  const map = new Map<Id, Id>();
  const fresh = (old: Id) => {
    let id = `new-${old}`;
    while (taken.has(id)) id += '+';
    taken.add(id);
    map.set(old, id);
    return id;
  };
  const keep = (old: Id, id: Id | undefined) => {
    if (id) {
      map.set(old, id);
      return id;
    }
    return fresh(old);
  };

  const chains = (x: Slot[], y: Slot[]): Slot[] => {
    const partner = new Map(align(x, y).flatMap(([p, q]) => (p && q ? [[q.id, p] as const] : [])));
    return y.map((s): Slot => {
      const p = partner.get(s.id);
      const id = keep(s.id, p?.id);
      if (s.kind === 'device') {
        const key =
          s.key.kind === 'track' &&
          p?.kind === 'device' &&
          p.key.kind === 'track' &&
          baseEnds(p.key.track) === otherEnds(s.key.track)
            ? { ...s.key, track: p.key.track }
            : s.key;
        return { ...s, id, key };
      }
      const r = p?.kind === 'rack' ? p : null;
      const strandOf = pairing(r?.strands ?? [], s.strands);
      const handleOf = pairing(r?.handles ?? [], s.handles);
      const strands = s.strands.map((st) => {
        const q = strandOf(st);
        return { ...st, id: keep(st.id, q?.id), chain: chains(q?.chain ?? [], st.chain) };
      });
      return {
        ...s,
        id,
        strands,
        handles: s.handles.map((h) => {
          const q = handleOf(h);
          return {
            ...h,
            id: keep(h.id, q?.id),
            ties: h.ties.map((t, i) => ({ ...t, id: keep(t.id, q?.ties[i]?.id) })),
          };
        }),
      };
    });
  };
  const out: Form = { ...other };
  if (other.chain) {
    const chain = chains(base.chain ?? [], other.chain);
    out.chain = mapSlots(chain, (s) =>
      s.kind === 'rack'
        ? {
            ...s,
            handles: s.handles.map((h) => ({
              ...h,
              ties: h.ties.map((t) => ({ ...t, slot: map.get(t.slot) ?? t.slot })),
            })),
          }
        : s,
    );
  }
  if (other.sends) {
    const free = [...(base.sends ?? [])];
    out.sends = other.sends.map((s) => {
      const i = free.findIndex((p) => baseEnds(p.to) === otherEnds(s.to));
      const p = i < 0 ? null : free.splice(i, 1)[0];
      return { ...s, id: keep(s.id, p?.id), to: p ? p.to : s.to };
    });
  }
  return { form: out, ids: map };
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

/** Where an object that was dropped stands now, and which of the preset's tracks or pieces it is. */
export interface Root {
  track: Track;
  slot: Slot | null;
  origin: Origin;
}

/**
 * Everything in a session that remembers a preset by itself: lines, and pieces inside chains of other lines.
 * Lines that were dropped before this was kept have no ids and cannot be told from a change; they are left
 * out.
 */
export function rootsOf(session: Session): Root[] {
  return session.tracks.flatMap((t) => [
    ...(t.origin?.ids ? [{ track: t, slot: null, origin: t.origin }] : []),
    ...[...walkSlots(t.chain)].flatMap((s) =>
      s.origin?.ids ? [{ track: t, slot: s, origin: s.origin }] : [],
    ),
  ]);
}

/** The same line or piece in a later state of the session. */
export const rootAgain = (session: Session, root: Root): Root | undefined =>
  rootsOf(session).find((r) => r.track.id === root.track.id && r.slot?.id === root.slot?.id);

/**
 * The preset's side of a root: its track, or the line that carries the piece with nothing but that piece on
 * it; null when this version has no such thing.
 */
export function sideOf(preset: Preset, origin: Origin, slot: boolean): Track | null {
  const all = [...preset.content.tracks, ...preset.content.spares];
  if (!slot) return all.find((t) => t.id === origin.local) ?? null;
  for (const t of all) {
    const s = [...walkSlots(t.chain)].find((x) => x.id === origin.local);
    if (s) return { ...t, chain: [s] };
  }
  return null;
}

/**
 * The same object in another version. Versions number their tracks and devices by order, so that one more in
 * front shifts them all: tracks pair by name and role, then by their number where nothing else
 * claims it; pieces pair within their chain as in a list of differences.
 */
export function counterpart(from: Preset, to: Preset, origin: Origin, slot: boolean): Track | null {
  const [a, b] = [from, to].map((p) => [...p.content.tracks, ...p.content.spares]);
  const named = (t: Track, list: Track[]) => {
    const hits = list.filter((x) => x.name === t.name && x.role === t.role);
    return hits.length === 1 ? hits[0] : hits.find((x) => x.id === t.id);
  };
  const partner = (t: Track): Track | null => {
    const same = named(t, b);
    if (same) return same;
    // renamed: the track of its number, unless that one belongs to another by name
    const there = b.find((x) => x.id === t.id && x.role === t.role);
    return there && !named(there, a) ? there : null;
  };
  if (!slot) {
    const t = a.find((x) => x.id === origin.local);
    return t ? partner(t) : null;
  }
  for (const t of a) {
    if (![...walkSlots(t.chain)].some((x) => x.id === origin.local)) continue;
    // a device or rack preset is nothing but its slot, whatever its line is called
    const other = from.content.tracks.length === 1 ? b[0] : partner(t);
    const s = other && align(t.chain, other.chain).find(([x]) => x?.id === origin.local)?.[1];
    return s ? { ...other!, chain: [s] } : null;
  }
  return null;
}

/** A root as a line with nothing but it. */
export const lineOf = (r: Root): Track => (r.slot ? { ...r.track, chain: [r.slot] } : r.track);

/** Names of a preset's ends, for pairing those of two versions. */
export const endNames =
  (p: Preset) =>
  (id: Id): string => {
    const e = p.content.looseEnds.find((x) => x.id === id);
    if (e) return `${e.role} ${e.label}`;
    const t = p.content.tracks.find((x) => x.id === id);
    return t ? `${t.role} ${t.name}` : id;
  };

/**
 * Lines, or one piece, that were just saved: they remember the preset as if they had been dropped from it.
 */
export function tieToShelf(
  session: Session,
  draft: Captured,
  preset: Pick<Preset, 'id' | 'version' | 'name' | 'hash'>,
  drop: Id,
  piece: Id | null = null,
): Session {
  const c = draft.content;
  const here = new Map(Object.entries(draft.ids));
  const base = { preset: preset.id, version: preset.version, hash: preset.hash, name: preset.name, drop };
  const idsOf = (all: Id[]) =>
    Object.fromEntries(
      all.flatMap((x) => {
        const local = here.get(x);
        return local ? [[x, local]] : [];
      }),
    );
  const inner = (chain: Slot[]) =>
    mapSlots(chain, (s) => {
      const local = here.get(s.id);
      return local ? { ...s, origin: { ...base, local } } : s;
    });
  return {
    ...session,
    tracks: session.tracks.map((t): Track => {
      if (piece) {
        if (!slotIds(t.chain).includes(piece)) return t;
        return {
          ...t,
          chain: mapSlots(t.chain, (s) =>
            s.id === piece
              ? {
                  ...inner([s])[0],
                  origin: {
                    ...base,
                    local: here.get(s.id)!,
                    parts: ['chain', 'keys'],
                    ids: idsOf(slotIds([s])),
                    adapted: {},
                  },
                }
              : s,
          ),
        };
      }
      const local = here.get(t.id);
      if (!local || !c.tracks.some((x) => x.id === local)) return t;
      const parts = c.trackParts?.[local] ?? c.parts;
      // a send or key that was cut at saving is not the preset's: it counts as put in here
      return {
        ...t,
        origin: {
          ...base,
          local,
          parts,
          ids: idsOf([t.id, ...slotIds(t.chain), ...t.sends.map((s) => s.id)]),
          adapted: {},
        },
        chain: parts.includes('chain') ? inner(t.chain) : t.chain,
      };
    }),
  };
}
