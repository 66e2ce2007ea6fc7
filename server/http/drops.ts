import { Router } from 'express';
import type { DropEntry } from '../../contract/index.ts';
import { DropRecordRow, OWNER, PresetRow, SessionRow } from '../db/entities.ts';
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
    await repo.upsert({ ...dto, owner: OWNER }, ['id']);
    await db.getRepository(PresetRow).update({ id: dto.preset, owner: OWNER }, { lastUsedAt: new Date() });
    res.status(201).json({ id: dto.id });
  });

  router.get('/of/:id', async (req, res) => {
    const list = await repo.find({
      where: { session: idOf(req), owner: OWNER },
      order: { createdAt: 'DESC' },
      take: 200,
    });
    const entries: DropEntry[] = list.map(({ id, preset, version, record, createdAt }) => ({
      id,
      preset,
      version,
      record: record as DropEntry['record'],
      at: createdAt.toISOString(),
    }));
    res.json(entries);
  });

  return router;
}
