import { Router } from 'express';
import type { DropEntry, DropKept } from '../../contract/index.ts';
import { ownerNow } from '../db/acting.ts';
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
    await repo.upsert({ ...dto, owner: ownerNow() }, ['id']);
    if (!known) await access.at('preset', dto.preset, 'read', () => markUsed(db.manager, dto.preset));
    res.status(201).json({ id: dto.id } satisfies DropKept);
  });

  /** Without the rows of the reports, which are as many as values were dropped. */
  router.get('/of/:id', async (req, res) => {
    const list = await repo
      .createQueryBuilder('d')
      .select(['d.id', 'd.preset', 'd.version', 'd.createdAt'])
      .addSelect(`JSON_REMOVE(d.record, '$.report.rows', '$.nullTest.picture')`, 'summary')
      .where('d.owner = :o AND d.session = :id', { o: ownerNow(), id: idOf(req) })
      .orderBy('d.createdAt', 'DESC')
      .limit(200)
      .getRawAndEntities<{ summary: DropEntry['record'] | string }>();
    res.json(list.entities.map((row, i) => entryOf(row, parsed(list.raw[i].summary))));
  });

  router.get('/:id', async (req, res) => {
    const row = await repo.findOneBy({ id: idOf(req), owner: ownerNow() });
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
