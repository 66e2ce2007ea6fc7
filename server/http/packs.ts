import { createReadStream } from 'node:fs';
import { stat } from 'node:fs/promises';
import { join } from 'node:path';
import { pipeline } from 'node:stream/promises';
import { Router, type Response } from 'express';
import type { NewPack, PackBack, PackPlan, PackTaken } from '../../contract/index.ts';
import { safeName } from '../../core/index.ts';
import { dropUpload } from '../db/media.ts';
import { makePack } from '../packs/make.ts';
import { planPack } from '../packs/plan.ts';
import { takeBack } from '../packs/take-back.ts';
import { takePack } from '../packs/take.ts';
import { readPack, writeDemo } from '../work/files.ts';
import type { Unpacked } from '../work/packing.ts';
import { withFolder } from '../work/work-folder.ts';
import { idOf, type Context } from './context.ts';
import { packLimits } from './disk.ts';
import { NewPackDto, TakePackDto, check } from './dto.ts';
import { notFound } from './problem.ts';
import { currentVersion, presetOnShelf } from './shelf.ts';
import { bringUpload } from './uploads.ts';

/** Packs: out, looked at, in, and taken back. @param saved is called when presets came */
export function packRoutes(context: Context, saved: () => void): Router {
  const router = Router();
  const { db, work } = context;

  router.post('/', async (req, res) => {
    await sendPack(context, check(NewPackDto, req.body), res);
  });
  router.get('/of/:id', async (req, res) => {
    const { id } = await presetOnShelf(db, idOf(req));
    await sendPack(context, { presets: [id] }, res);
  });
  /** One preset by itself, as JSON that people can read. */
  router.get('/of/:id/json', async (req, res) => {
    const preset = await currentVersion(db, idOf(req));
    res.attachment(`${safeName(preset.name)}.preset.json`);
    res.type('application/json').send(JSON.stringify(preset, null, 1));
  });

  router.post('/look', async (req, res) => {
    const { upload } = check(TakePackDto, req.body);
    const plan = await unpacked(context, upload, (pack, name) => planPack(db, pack, name));
    res.json(plan satisfies PackPlan);
  });
  router.post('/take', async (req, res) => {
    const { upload, leave = [] } = check(TakePackDto, req.body);
    const taken = await unpacked(context, upload, (pack, name) => takePack(db, pack, name, new Set(leave)));
    await dropUpload(db, upload);
    saved();
    res.status(201).json(taken satisfies PackTaken);
  });
  /** The demo, where it is not there or not any more: what is there stays as it is. */
  router.post('/demo', async (_req, res) => {
    const taken = await withFolder(work, async (folder) => {
      const path = join(folder, 'sent');
      await writeDemo(path);
      const { size } = await stat(path);
      const pack = await readPack({ path, name: 'The demo', size }, folder, await packLimits(work));
      return takePack(db, pack, 'The demo', new Set());
    });
    saved();
    res.status(201).json(taken satisfies PackTaken);
  });
  router.post('/taken/:id/back', async (req, res) => {
    const back = await takeBack(db, idOf(req));
    if (!back) throw notFound('What this pack brought');
    res.json(back satisfies PackBack);
  });

  /** Reads a pack that was sent in pieces. */
  function unpacked<T>(
    { db: from }: Context,
    upload: string,
    use: (pack: Unpacked, name: string) => Promise<T>,
  ): Promise<T> {
    return withFolder(work, async (folder) => {
      const path = join(folder, 'sent');
      const { name, size } = await bringUpload(from, upload, path);
      return use(await readPack({ path, name, size }, folder, await packLimits(work)), name);
    });
  }

  return router;
}

/** Makes a pack and sends it. */
async function sendPack({ db, work }: Context, what: NewPack, res: Response): Promise<void> {
  await withFolder(work, async (folder) => {
    const at = new Date();
    const { path, things } = await makePack(db, what, folder, at);
    if (!things && !what.everything) throw notFound('What should go into the pack');
    const name = what.everything ? 'Everything' : 'Pack';
    res.attachment(`${name} ${at.toISOString().slice(0, 10)}.ropeshelf.zip`);
    res.setHeader('Content-Length', (await stat(path)).size);
    res.type('application/zip');
    // whoever gives up in the middle is no error
    await pipeline(createReadStream(path), res).catch(() => res.destroy());
  });
}
