import { Router } from 'express';
import { Like } from 'typeorm';
import type { KeptSearch, ShelfSearch } from '../../contract/index.ts';
import { ownerNow } from '../db/acting.ts';
import { DefaultRow } from '../db/entities.ts';
import type { Context } from './context.ts';
import { KeptSearchDto, check } from './dto.ts';
import { HttpProblem } from './problem.ts';

export const SEARCH = 'search:';
const MOST = 50;
const LONGEST = 50;

/** Searches of the shelf that are kept under a name. */
export function searchRoutes({ db }: Context): Router {
  const router = Router();
  const repo = db.getRepository(DefaultRow);
  const all = () => ({ owner: ownerNow(), name: Like(`${SEARCH}%`) });

  router.get('/', async (_req, res) => {
    const rows = await repo.find({ where: all(), order: { name: 'ASC' } });
    const kept = rows.map((r): KeptSearch => ({
      name: r.name.slice(SEARCH.length),
      search: r.value as ShelfSearch,
    }));
    res.json(kept);
  });

  router.put('/:name', async (req, res) => {
    const name = req.params.name.trim();
    if (!name || name.length > LONGEST) {
      throw new HttpProblem('not-valid', `A search that is kept has a name of 1 to ${LONGEST} letters.`);
    }
    const { search } = check(KeptSearchDto, req.body);
    const place = { owner: ownerNow(), name: SEARCH + name };
    if (!(await repo.existsBy(place)) && (await repo.countBy(all())) >= MOST) {
      throw new HttpProblem('not-valid', `${MOST} searches are kept at most. Let go of one first.`);
    }
    await repo.upsert({ ...place, value: { ...search } }, ['owner', 'name']);
    res.status(204).end();
  });

  router.delete('/:name', async (req, res) => {
    await repo.delete({ owner: ownerNow(), name: SEARCH + req.params.name });
    res.status(204).end();
  });

  return router;
}
