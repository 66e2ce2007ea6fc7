import jsonpatch, { type Operation } from 'fast-json-patch';
import { Between, type EntityManager } from 'typeorm';
import type { Session } from '../../core/index.ts';
import { SessionRevisionRow, SessionRow } from './entities.ts';

/** What a document is read from. */
export const WITH_DOCUMENT = { id: true, revision: true, written: true, document: true } as const;

/**
 * The document of a session at its row's revision. A change is kept as its step, which is small; the document is
 * written some moments later (see `Documents`), so the steps since are made to it here.
 * @param row with `WITH_DOCUMENT`; its document is changed, and its revision where a later one was written meanwhile
 */
export async function documentOf(
  m: EntityManager,
  row: Pick<SessionRow, 'id' | 'revision' | 'written' | 'document'>,
): Promise<Session> {
  const document = row.document as Session;
  if (row.written >= row.revision) return document;
  const steps = await m.find(SessionRevisionRow, {
    where: { session: row.id, revision: Between(row.written + 1, row.revision) },
    select: { session: true, revision: true, patch: true },
    order: { revision: 'ASC' },
  });
  if (steps.length !== row.revision - row.written) {
    throw new Error(`Session ${row.id}: steps between revision ${row.written} and ${row.revision} are gone.`);
  }
  if (steps.some(({ patch }) => patch === '')) {
    // between two questions the document was written, and the steps to it were put together
    Object.assign(row, await m.findOneOrFail(SessionRow, { where: { id: row.id }, select: WITH_DOCUMENT }));
    return documentOf(m, row);
  }
  return steps.reduce(
    (s, { patch }) => jsonpatch.applyPatch(s, JSON.parse(patch) as Operation[]).newDocument,
    document,
  );
}

/** Writes the document of a revision, unless a later one is written already. It counts as no change of the session. */
export async function writeDocument(
  m: EntityManager,
  id: string,
  revision: number,
  text: string,
): Promise<void> {
  await m.query(
    'UPDATE `session` SET `document` = ?, `written` = ?, `updatedAt` = `updatedAt` WHERE `id` = ? AND `written` < ?',
    [text, revision, id, revision],
  );
}
