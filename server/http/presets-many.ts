import { Router } from 'express';
import { In, IsNull, Not, type EntityManager } from 'typeorm';
import type { ManyChanged, PresetShelf } from '../../contract/index.ts';
import type { Preset } from '../../core/index.ts';
import { ownerNow } from '../db/acting.ts';
import { PresetRow, PresetVersionRow } from '../db/entities.ts';
import { putTags, searchText } from '../db/store.ts';
import { transact } from '../db/transaction.ts';
import type { Context } from './context.ts';
import { ManyDto, ManyPutDto, check } from './dto.ts';
import { HttpProblem } from './problem.ts';

/** Many presets at once: tagged, moved, coloured, pinned, deleted and brought back, each in one step. */
export function manyPresetRoutes({ db }: Context): Router {
  const router = Router();

  /** Changes what is asked for; the answer is how each one stood, which puts it all back. */
  router.post('/many', async (req, res) => {
    const { ids, ...change } = check(ManyDto, req.body);
    const before = await transact(db, async (m) => {
      const was: PresetShelf[] = [];
      // in one order for all, so that two of these wait for each other and not in a circle
      for (const id of ids.toSorted()) {
        const row = await locked(m, id);
        if (!row) continue;
        const now = shelfOf(row);
        was.push(now);
        const tags = now.tags.filter((t) => !change.untag?.includes(t));
        await putShelf(m, row, {
          ...now,
          ...change,
          tags: [...tags, ...(change.tag ?? []).filter((t) => !tags.includes(t))].slice(0, 30),
        });
      }
      return was;
    });
    res.json({ before } satisfies ManyChanged);
  });

  router.put('/many', async (req, res) => {
    const { presets } = check(ManyPutDto, req.body);
    await transact(db, async (m) => {
      for (const shelf of presets.toSorted((a, b) => (a.id < b.id ? -1 : 1))) {
        const row = await locked(m, shelf.id);
        if (row) await putShelf(m, row, shelf);
      }
    });
    res.status(204).end();
  });

  router.post('/many/delete', async (req, res) => {
    const { ids } = check(ManyDto, req.body);
    const there = { id: In(ids), owner: ownerNow(), deletedAt: IsNull() };
    const { affected } = await db.getRepository(PresetRow).update(there, { deletedAt: new Date() });
    if (!affected) throw new HttpProblem('not-found', 'None of these presets is on the shelf any more.');
    res.status(204).end();
  });
  router.post('/many/restore', async (req, res) => {
    const { ids } = check(ManyDto, req.body);
    const gone = { id: In(ids), owner: ownerNow(), deletedAt: Not(IsNull()) };
    await db.getRepository(PresetRow).update(gone, { deletedAt: null });
    res.status(204).end();
  });

  return router;
}

export const locked = (m: EntityManager, id: string) =>
  m.findOne(PresetRow, {
    where: { id, owner: ownerNow(), deletedAt: IsNull() },
    lock: { mode: 'pessimistic_write' },
  });

export function shelfOf(row: PresetRow): PresetShelf {
  const { tags } = row.summary as { tags: string[] };
  const { id, category, colour, parent } = row;
  return { id, category, colour, pinned: row.pinned === 1, tags, parent };
}

async function putShelf(m: EntityManager, row: PresetRow, shelf: PresetShelf): Promise<void> {
  const { category, colour, tags } = shelf;
  const { document } = await m.findOneOrFail(PresetVersionRow, {
    where: { preset: row.id, version: row.currentVersion, owner: ownerNow() },
    select: { preset: true, version: true, document: true },
  });
  const search = searchText({ ...(document as Preset), name: row.name, category, tags });
  const summary = { ...row.summary, tags };
  const parent = shelf.parent === undefined ? {} : { parent: shelf.parent };
  await m.update(
    PresetRow,
    { id: row.id },
    { category, colour, summary, search, pinned: Number(shelf.pinned), ...parent },
  );
  await putTags(m, row.id, tags);
}
