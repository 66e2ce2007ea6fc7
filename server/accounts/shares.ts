import { randomUUID } from 'node:crypto';
import { In, type DataSource } from 'typeorm';
import type { NewShare, Person, ShareEntry, Shares } from '../../contract/index.ts';
import { SessionRow, ShareRow, UserRow } from '../db/entities.ts';

/** What an account shares, and what is shared with it; what lies in the trash meanwhile is not told. */
export async function sharesOf(db: DataSource, person: string): Promise<Shares> {
  const rows = await db.getRepository(ShareRow).find({
    where: [{ owner: person }, { person }],
    order: { createdAt: 'ASC' },
  });
  const names = await namesOf(
    db,
    rows.flatMap((r) => [r.owner, r.person]),
  );
  const sessions = await sessionsOf(
    db,
    rows.filter((r) => r.kind === 'session').map((r) => r.thing),
  );
  const told = (r: ShareRow): ShareEntry[] => {
    const session = sessions.get(r.thing);
    if (r.kind === 'session' && !session) return [];
    const who = { owner: names.get(r.owner)!, person: names.get(r.person)! };
    const name = session?.name ?? '';
    const openedAt = (session?.openedAt ?? r.createdAt).toISOString();
    return [{ id: r.id, ...who, kind: r.kind, thing: r.thing, name, right: r.right, openedAt }];
  };
  return {
    given: rows.filter((r) => r.owner === person).flatMap(told),
    got: rows.filter((r) => r.person === person).flatMap(told),
  };
}

/** Accounts by their ids. */
export async function namesOf(db: DataSource, ids: readonly string[]): Promise<Map<string, Person>> {
  const unique = [...new Set(ids)].filter(Boolean);
  const rows = unique.length ? await db.getRepository(UserRow).findBy({ id: In(unique) }) : [];
  return new Map(rows.map(({ id, name }) => [id, { id, name }]));
}

async function sessionsOf(db: DataSource, ids: readonly string[]): Promise<Map<string, SessionRow>> {
  if (!ids.length) return new Map();
  const rows = await db.getRepository(SessionRow).find({
    where: { id: In([...new Set(ids)]) },
    select: { id: true, name: true, openedAt: true, deletedAt: true },
  });
  return new Map(rows.filter((r) => !r.deletedAt).map((r) => [r.id, r]));
}

/** Shares a shelf or a session, or changes what is allowed with it. */
export async function share(db: DataSource, owner: string, to: NewShare): Promise<void> {
  const { person, kind, thing = '', right } = to;
  const row = { owner, person, kind, thing, right };
  const rows = db.getRepository(ShareRow);
  const { affected } = await rows.update({ owner, person, kind, thing }, { right });
  if (affected) return;
  await rows
    .createQueryBuilder()
    .insert()
    .values({ id: randomUUID(), ...row })
    .orUpdate(['right'], ['owner', 'person', 'kind', 'thing'])
    .execute();
}

/** Ends a share: whoever gave it may, and whoever got it. @returns whether there was one */
export async function endShare(db: DataSource, person: string, id: string): Promise<boolean> {
  const rows = db.getRepository(ShareRow);
  const gone = [await rows.delete({ id, owner: person }), await rows.delete({ id, person })];
  return gone.some((r) => (r.affected ?? 0) > 0);
}
