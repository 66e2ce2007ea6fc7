import { IsNull, type DataSource } from 'typeorm';
import type { Session } from '../../core/index.ts';
import { ownerNow } from '../db/acting.ts';
import { SessionRow } from '../db/entities.ts';
import { documentOf, WITH_DOCUMENT } from '../db/session-document.ts';
import { notFound } from './problem.ts';

/** The columns that lists show. */
export const LISTED = {
  id: true,
  name: true,
  folder: true,
  revision: true,
  tempo: true,
  sampleRate: true,
  trackCount: true,
  createdAt: true,
  updatedAt: true,
  openedAt: true,
} as const;

/** A session as lists show it. */
export async function sessionListed(db: DataSource, id: string): Promise<SessionRow> {
  const there = { id, owner: ownerNow(), deletedAt: IsNull() };
  const row = await db.getRepository(SessionRow).findOne({ where: there, select: LISTED });
  if (!row) throw notFound('This session');
  return row;
}

/** A session with its document. */
export async function sessionWithDocument(
  db: DataSource,
  id: string,
): Promise<SessionRow & { document: Session }> {
  const row = await db.getRepository(SessionRow).findOne({
    where: { id, owner: ownerNow(), deletedAt: IsNull() },
    select: { ...LISTED, owner: true, ...WITH_DOCUMENT },
  });
  if (!row) throw notFound('This session');
  return Object.assign(row, { document: await documentOf(db.manager, row) });
}
