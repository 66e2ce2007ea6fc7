import { Router } from 'express';
import type { DropEntry, DropKept } from '../../contract/index.ts';
import { DropRecordRow, OWNER, SessionRow } from '../db/entities.ts';
import { markUsed } from '../db/store.ts';
import { DropDto, check } from './dto.ts';
import { idOf, type Context } from './context.ts';
import { notFound } from './problem.ts';

/** Drop records: what, when, from which version, which choices, and the intact report. */
export function dropRoutes({ db }: Context): Router {
  const router = Router();
  const repo = db.getRepository(DropRecordRow);

  router.post('/', async (req, res) => {
    const dto = check(DropDto, req.body);
    if (!(await db.getRepository(SessionRow).existsBy({ id: dto.session, owner: OWNER }))) {
      throw notFound('The session of this drop');
    }
    // the same drop may be told twice; it counts once
    const isKnown = await repo.existsBy({ id: dto.id });
    await repo.upsert({ ...dto, owner: OWNER }, ['id']);
    if (!isKnown) await markUsed(db.manager, dto.preset);
    res.status(201).json({ id: dto.id } satisfies DropKept);
  });

  /** Without the rows of the reports, which are as many as values were dropped. */
  router.get('/of/:id', async (req, res) => {
    const list = await repo
      .createQueryBuilder('d')
      .select(['d.id', 'd.preset', 'd.version', 'd.createdAt'])
      .addSelect(`JSON_REMOVE(d.record, '$.report.rows', '$.nullTest.picture')`, 'summary')
      .where('d.owner = :o AND d.session = :id', { o: OWNER, id: idOf(req) })
      .orderBy('d.createdAt', 'DESC')
      .limit(200)
      .getRawAndEntities<{ summary: DropEntry['record'] | string }>();
    res.json(list.entities.map((row, i) => entryOf(row, parsed(list.raw[i].summary))));
  });

  router.get('/:id', async (req, res) => {
    const row = await repo.findOneBy({ id: idOf(req), owner: OWNER });
    if (!row) throw notFound('The report of this drop');
    res.json(entryOf(row, row.record as DropEntry['record']));
  });

  return router;
}

/** What a function of the database makes of JSON: parsed by its driver, or not, as the database's version tells it. */
const parsed = (json: DropEntry['record'] | string): DropEntry['record'] =>
  typeof json === 'string' ? (JSON.parse(json) as DropEntry['record']) : json;

const entryOf = (row: DropRecordRow, record: DropEntry['record']): DropEntry => ({
  id: row.id,
  preset: row.preset,
  version: row.version,
  record,
  at: row.createdAt.toISOString(),
});
