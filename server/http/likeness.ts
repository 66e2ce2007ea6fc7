import { Router } from 'express';
import type { PresetLikeness, ShelfLikeness } from '../../contract/index.ts';
import type { Fingerprints } from '../jobs/fingerprints.ts';
import { idOf, type Context } from './context.ts';
import { presetOnShelf } from './shelf.ts';

/** Whether presets still sound as they did when they were saved. */
export function likenessRoutes({ db }: Context, prints: Fingerprints): Router {
  const router = Router();
  const current = async (id: string) => ({
    preset: id,
    version: (await presetOnShelf(db, id)).currentVersion,
  });

  router.get('/likeness', async (_req, res) => {
    res.json((await prints.ofShelf()) satisfies ShelfLikeness);
  });

  router.get('/:id/likeness', async (req, res) => {
    res.json((await prints.of(await current(idOf(req)))) satisfies PresetLikeness);
  });

  /** Renders it now. */
  router.post('/:id/likeness', async (req, res) => {
    res.json((await prints.of(await current(idOf(req)), true)) satisfies PresetLikeness);
  });

  /** The way it sounds now is the way it is meant. */
  router.delete('/:id/likeness', async (req, res) => {
    const place = await current(idOf(req));
    await prints.accept(place);
    res.json((await prints.of(place)) satisfies PresetLikeness);
  });

  return router;
}
