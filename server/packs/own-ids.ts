import { createHash } from 'node:crypto';
import { In, Not, type EntityManager } from 'typeorm';
import { ownerNow } from '../db/acting.ts';
import { PresetRow, SessionRow, SetupRow } from '../db/entities.ts';
import type { Unpacked } from '../work/packing.ts';

/** ids that are asked for together */
const PART = 500;

/** What is called like something of another account: always the same for whoever takes it, so that twice is once. */
const ownId = (id: string): string =>
  createHash('sha256').update(`${ownerNow()}/${id}`).digest('hex').slice(0, 32);

/** Ids of a pack under which another account of this server has something, and those that they get here. */
async function movedIds(m: EntityManager, { about }: Unpacked): Promise<Map<string, string>> {
  const moved = new Map<string, string>();
  const tables = [
    [PresetRow, about.presets],
    [SetupRow, about.setups],
    [SessionRow, about.sessions],
  ] as const;
  for (const [table, lines] of tables) {
    for (let at = 0; at < lines.length; at += PART) {
      const ids = lines.slice(at, at + PART).map((l) => l.id);
      const taken = await m.getRepository<PresetRow | SetupRow | SessionRow>(table).find({
        where: { id: In(ids), owner: Not(ownerNow()) },
        select: { id: true },
      });
      for (const { id } of taken) moved.set(id, ownId(id));
    }
  }
  return moved;
}

/**
 * A pack as it is taken by the account that is spoken of: an id belongs to one account of a server, and what another one
 * has under it stays as it is.
 */
export async function withOwnIds(m: EntityManager, unpacked: Unpacked): Promise<Unpacked> {
  const moved = await movedIds(m, unpacked);
  if (!moved.size) return unpacked;
  const to = (id: string): string => moved.get(id) ?? id;
  const { about, documents, rows } = unpacked;
  const named = <T extends { id: string }>(x: T): T => ({ ...x, id: to(x.id) });
  return {
    ...unpacked,
    about: {
      ...about,
      presets: about.presets.map(named),
      setups: about.setups.map(named),
      sessions: about.sessions.map(named),
    },
    documents: documents.map(named),
    rows: rows.map((r) => ({ ...r, session: to(r.session) })),
    moved,
  };
}
