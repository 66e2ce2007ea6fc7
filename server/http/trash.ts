import { Router } from 'express';
import type { DataSource } from 'typeorm';
import type { TrashItem, TrashPage } from '../../contract/index.ts';
import { ownerNow } from '../db/acting.ts';
import { TRASH_DAYS, emptied, type Trashed } from '../db/tidy.ts';
import { idOf, type Context } from './context.ts';
import { TrashQueryDto, check } from './dto.ts';
import { HttpProblem, notFound } from './problem.ts';

const KINDS: readonly Trashed[] = ['preset', 'session', 'setup'];
const PAGE = 100;

/** What was deleted and can still be brought back: looked at, let go of one by one, or emptied. */
export function trashRoutes({ db }: Context): Router {
  const router = Router();

  router.get('/', async (req, res) => {
    const { from = 0 } = check(TrashQueryDto, req.query, 'query');
    res.json((await pageOf(db, from)) satisfies TrashPage);
  });

  router.delete('/', async (_req, res) => {
    const now = new Date();
    for (const kind of KINDS) await emptied(db, kind, now, { owner: ownerNow() });
    res.status(204).end();
  });

  router.delete('/:kind/:id', async (req, res) => {
    const kind = KINDS.find((k) => k === req.params.kind);
    if (!kind) throw new HttpProblem('not-valid', `The trash holds ${KINDS.join('s, ')}s.`);
    const gone = await emptied(db, kind, new Date(), { owner: ownerNow(), id: idOf(req) });
    if (!gone) throw notFound('This');
    res.status(204).end();
  });

  return router;
}

/** What lies in the trash, the last one first. */
async function pageOf(db: DataSource, from: number): Promise<TrashPage> {
  const each = KINDS.map(
    (kind) =>
      `SELECT '${kind}' AS kind, id, name, deletedAt FROM \`${kind}\` WHERE owner = ? AND deletedAt IS NOT NULL`,
  );
  const rows = await db.query<{ kind: Trashed; id: string; name: string; deletedAt: Date }[]>(
    `${each.join(' UNION ALL ')} ORDER BY deletedAt DESC, id LIMIT ${PAGE + 1} OFFSET ${from}`,
    KINDS.map(() => ownerNow()),
  );
  const items = rows.slice(0, PAGE).map(({ kind, id, name, deletedAt }): TrashItem => ({
    kind,
    id,
    name,
    deletedAt: deletedAt.toISOString(),
  }));
  return { items, next: rows.length > PAGE ? from + PAGE : null, days: TRASH_DAYS };
}
