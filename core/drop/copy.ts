import { led, withContent } from '../edit/many.ts';
import { onTrack, type Edit } from '../edit/on.ts';
import { destinations } from '../edit/tracks.ts';
import { clone } from '../model/json.ts';
import { randomIds } from '../model/ids.ts';
import type { Id, Origin, PartId, Session, Track } from '../model/types.ts';
import { createTrack, freeName, masterOf } from '../session/create.ts';
import { renewTrack } from '../session/slots.ts';
import { DUPLICATE_PARTS, PARTS } from './parts/index.ts';

/**
 * Copies of a line with some of its parts, in order, behind the original and the copies of it that follow already.
 * @param count how many
 * @returns the edit, and the ids of the copies in their order
 */
export function duplicateTrack(
  id: Id,
  parts: readonly PartId[] = DUPLICATE_PARTS,
  count = 1,
): { edit: Edit; ids: Id[] } {
  const ids = Array.from({ length: count }, () => randomIds('trk'));
  const edit: Edit = (s) => {
    const at = s.tracks.findIndex((t) => t.id === id);
    const original = s.tracks[at];
    const copies: Track[] = [];
    for (const fresh of ids) {
      const taken = [...s.tracks, ...copies].map((t) => t.name);
      copies.push(copyOf(s, original, fresh, taken, parts));
    }
    let behind = at + 1;
    while (behind < s.tracks.length && isCopyOf(original, s.tracks[behind])) behind++;
    return { ...s, tracks: [...s.tracks.slice(0, behind), ...copies, ...s.tracks.slice(behind)] };
  };
  return { edit, ids };
}

/**
 * Copies of several lines, and of what lies in them where they are folders, behind the last of them: what they send to,
 * listen to and lie in among each other stays among the copies.
 * @returns the edit, and the ids of the copies in their order
 */
export function duplicateTracks(
  s: Session,
  chosen: readonly Id[],
  parts: readonly PartId[] = DUPLICATE_PARTS,
): { edit: Edit; ids: Id[] } {
  const originals = withContent(s, chosen);
  const fresh = new Map(originals.map((id) => [id, randomIds('trk')]));
  const edit: Edit = (now) => {
    const lines = now.tracks.filter((t) => fresh.has(t.id));
    const renamed = new Map<Id, Id>(fresh);
    const taken = now.tracks.map((t) => t.name);
    const copies = lines.map((t) => {
      const copy = copyOf(now, t, fresh.get(t.id)!, taken, parts, renamed);
      taken.push(copy.name);
      return copy;
    });
    const behind = now.tracks.indexOf(lines.at(-1)!) + 1;
    const put = copies.map((t) => led(t, renamed));
    return { ...now, tracks: [...now.tracks.slice(0, behind), ...put, ...now.tracks.slice(behind)] };
  };
  return { edit, ids: [...fresh.values()] };
}

/** Whether a line is named as the copies of another one are: with a higher number behind the same name. */
function isCopyOf(original: Track, t: Track): boolean {
  const [stem, number] = numbered(original.name);
  const [same, higher] = numbered(t.name);
  return t.role === original.role && same === stem && higher > number;
}
function numbered(name: string): [string, number] {
  const found = /^(.*) (\d+)$/.exec(name);
  return found ? [found[1], Number(found[2])] : [name, 1];
}

function copyOf(
  s: Session,
  original: Track,
  fresh: Id,
  taken: string[],
  parts: readonly PartId[],
  renamed = new Map<Id, Id>(),
): Track {
  const { id, role, channels, soloSafe, state, name } = original;
  const whole = renewTrack(clone(original), (old, prefix) => {
    const now = old === id ? fresh : randomIds(prefix);
    renamed.set(old, now);
    return now;
  });
  const output = { kind: 'track', track: masterOf(s).id } as const;
  const copy: Track = {
    ...createTrack(role, { id: fresh, channels, output, soloSafe, state }),
    name: freeName(name, taken),
  };
  const has = (p: PartId) => parts.includes(p);
  for (const p of PARTS) if (has(p.id)) p.duplicate?.(whole, copy, has);
  // it belongs to the sound that comes in
  if (original.inputTrim && has('clips')) copy.inputTrim = original.inputTrim;
  if (whole.origin && has('chain')) copy.origin = originOf(whole.origin, has);
  return copy;
}

/** What a copy remembers: the parts that it took over. */
const originOf = (o: Origin, has: (p: PartId) => boolean): Origin =>
  o.parts ? { ...o, parts: o.parts.filter(has) } : o;

/**
 * Copies chosen parts of one line to others: its chain in place of theirs or behind it, and what else is
 * asked for; outputs and sends that would make a loop stay away.
 */
export const copyParts =
  (from: Track, ids: readonly Id[], parts: readonly PartId[], append: boolean): Edit =>
  (s) =>
    ids
      .filter((id) => id !== from.id)
      .reduce((now, id) => {
        const t = now.tracks.find((x) => x.id === id);
        if (!t) return now;
        const open = (to: Id, send: boolean) => destinations(now, t, send).some((x) => x.id === to);
        const taken = PARTS.filter((p) => parts.includes(p.id)).map((p) =>
          p.copyTo?.(from, t, { parts, append, open }),
        );
        return onTrack(id, Object.assign({}, ...taken))(now);
      }, s);
