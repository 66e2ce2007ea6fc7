import { onTrack, type Edit } from '../edit/on.ts';
import { destinations } from '../edit/tracks.ts';
import { clone } from '../model/json.ts';
import { randomIds } from '../model/ids.ts';
import type { Id, Origin, PartId, Track } from '../model/types.ts';
import { createTrack, freeName, masterOf } from '../session/create.ts';
import { renewTrack } from '../session/slots.ts';
import { DUPLICATE_PARTS, PARTS } from './parts/index.ts';

/** A copy beside the original with the chosen parts; what it came from, it still remembers. */
export function duplicateTrack(id: Id, parts: readonly PartId[] = DUPLICATE_PARTS): { edit: Edit; id: Id } {
  const fresh = randomIds('trk');
  const edit: Edit = (s) => {
    const at = s.tracks.findIndex((t) => t.id === id);
    const { role, channels, soloSafe, state, name } = s.tracks[at];
    const whole = renewTrack(clone(s.tracks[at]), (old, prefix) => (old === id ? fresh : randomIds(prefix)));
    const taken = s.tracks.map((t) => t.name);
    const output = { kind: 'track', track: masterOf(s).id } as const;
    const copy: Track = {
      ...createTrack(role, { id: fresh, channels, output, soloSafe, state }),
      name: freeName(name, taken),
    };
    const has = (p: PartId) => parts.includes(p);
    for (const p of PARTS) if (has(p.id)) p.duplicate?.(whole, copy, has);
    if (whole.origin && has('chain')) copy.origin = originOf(whole.origin, has);
    return { ...s, tracks: [...s.tracks.slice(0, at + 1), copy, ...s.tracks.slice(at + 1)] };
  };
  return { id: fresh, edit };
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
