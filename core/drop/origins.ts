import type { Origin, Session } from '../model/types.ts';
import { mapSlots } from '../session/slots.ts';

/** A version of a preset, as `preset/version`. */
export const versionKey = (o: { preset: string; version: number }): string => `${o.preset}/${o.version}`;

/**
 * A session whose lines and pieces remember other versions: of a preset that was merged into another one, say. Nothing
 * else of them changes.
 * @param moves the version that was dropped, by `versionKey` → the one that it is now
 */
export function movedOrigins(
  session: Session,
  moves: ReadonlyMap<string, Pick<Origin, 'preset' | 'version' | 'name'>>,
): Session {
  const moved = <T extends { origin?: Origin }>(x: T): T => {
    const to = x.origin && moves.get(versionKey(x.origin));
    return to ? { ...x, origin: { ...x.origin!, ...to } } : x;
  };
  const tracks = session.tracks.map((t) => moved({ ...t, chain: mapSlots(t.chain, moved) }));
  return { ...session, tracks };
}
