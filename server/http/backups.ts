import { createReadStream } from 'node:fs';
import { stat } from 'node:fs/promises';
import { pipeline } from 'node:stream/promises';
import { Router } from 'express';
import type { BackupList } from '../../contract/index.ts';
import type { Backups } from '../packs/backups.ts';
import { notFound } from './problem.ts';

/** Backups on the server's disk: listed, made now, fetched. */
export function backupRoutes(backups: Backups): Router {
  const router = Router();

  router.get('/', async (_req, res) => {
    const { folder } = backups;
    const { keep } = backups.options;
    res.json({ folder, keep, items: await backups.list() } satisfies BackupList);
  });
  router.post('/', async (_req, res) => {
    res.status(201).json(await backups.make());
  });
  router.get('/:name', async (req, res) => {
    const path = await backups.pathOf(String(req.params.name));
    if (!path) throw notFound('This backup');
    res.attachment(String(req.params.name));
    res.setHeader('Content-Length', (await stat(path)).size);
    // whoever gives up in the middle is no error
    await pipeline(createReadStream(path), res).catch(() => res.destroy());
  });

  return router;
}
