import { Router } from 'express';
import type { DropEntry, DropKept } from '../../contract/index.ts';
import { ownerNow } from '../db/acting.ts';
import { dropRecord } from '../db/drop-record.ts';
import { DropRecordRow, SessionRow } from '../db/entities.ts';
import { markUsed } from '../db/store.ts';
import { DropDto, check } from './dto.ts';
import { idOf, type Context } from './context.ts';
import { HttpProblem, notFound } from './problem.ts';

/** Drop records: what, when, from which version, which choices, and the intact report. */
export function dropRoutes({ db, access }: Context): Router {
  const router = Router();
  const repo = db.getRepository(DropRecordRow);

  router.post('/', async (req, res) => {
    const dto = check(DropDto, req.body);
    if (!(await db.getRepository(SessionRow).existsBy({ id: dto.session, owner: ownerNow() }))) {
      throw notFound('The session of this drop');
    }
    // the same drop may be told twice; it counts once
    const known = await repo.findOneBy({ id: dto.id });
    if (known && (known.session !== dto.session || known.owner !== ownerNow())) {
      throw new HttpProblem('exists', `A drop with the id “${dto.id}” is kept with another session.`);
    }
    await repo.upsert(dropRecord({ ...dto, owner: ownerNow() }), ['id']);
    if (!known) await access.at('preset', dto.preset, 'read', () => markUsed(db.manager, dto.preset));
    res.status(201).json({ id: dto.id } satisfies DropKept);
  });

  /** Without the rows of the reports, which are as many as values were dropped. */
  router.get('/of/:id', async (req, res) => {
    const list = await repo.find({
      select: { id: true, preset: true, version: true, createdAt: true, summary: true },
      where: { owner: ownerNow(), session: idOf(req) },
      order: { createdAt: 'DESC' },
      take: 200,
    });
    res.json(list.map((row) => entryOf(row, row.summary)));
  });

  router.get('/:id', async (req, res) => {
    const row = await repo.findOneBy({ id: idOf(req), owner: ownerNow() });
    if (!row) throw notFound('The report of this drop');
    res.json(entryOf(row, row.record));
  });

  return router;
}

const entryOf = (row: DropRecordRow, record: object): DropEntry => ({
  id: row.id,
  preset: row.preset,
  version: row.version,
  record: record as DropEntry['record'],
  at: row.createdAt.toISOString(),
});
