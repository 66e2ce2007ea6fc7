import { mapSlots, slotIds, walkSlots } from '../session/slots.ts';
import type { Id, Origin, Parts, Preset, Session, Slot, Track } from '../model/types.ts';
import { align } from './align.ts';
import type { Captured } from './capture.ts';

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

/** The parts that came with a root. */
export const partsIn = (root: Root): Parts => root.origin.parts ?? ['chain'];

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
  const here = new Map(Object.entries(draft.ids));
  const base = { preset: preset.id, version: preset.version, hash: preset.hash, name: preset.name, drop };
  const inner = (chain: Slot[]) =>
    mapSlots(chain, (s) => {
      const local = here.get(s.id);
      return local ? { ...s, origin: { ...base, local } } : s;
    });
  const rootOf = (local: Id, parts: Parts, all: Id[]): Origin => {
    const ids = Object.fromEntries(all.flatMap((x) => (here.has(x) ? [[x, here.get(x)!]] : [])));
    return { ...base, local, parts, ids, adapted: {} };
  };
  const tiePiece = (s: Slot): Slot =>
    s.id === piece
      ? { ...inner([s])[0], origin: rootOf(here.get(s.id)!, ['chain', 'keys'], slotIds([s])) }
      : s;
  const tieLine = (t: Track): Track => {
    const local = here.get(t.id);
    if (!local || !draft.content.tracks.some((x) => x.id === local)) return t;
    const parts = draft.content.trackParts?.[local] ?? draft.content.parts;
    // a send or key that was cut at saving is not the preset's: it counts as put in here
    const origin = rootOf(local, parts, [t.id, ...slotIds(t.chain), ...t.sends.map((s) => s.id)]);
    return { ...t, origin, chain: parts.includes('chain') ? inner(t.chain) : t.chain };
  };
  const tie = (t: Track): Track => {
    if (!piece) return tieLine(t);
    return slotIds(t.chain).includes(piece) ? { ...t, chain: mapSlots(t.chain, tiePiece) } : t;
  };
  return { ...session, tracks: session.tracks.map(tie) };
}
