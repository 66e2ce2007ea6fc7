import { Router, raw } from 'express';
import { MediaRow, OWNER } from '../db/entities.ts';
import { getMedia, putMedia } from '../db/store.ts';
import { FileNameDto, check } from './dto.ts';
import type { Context } from './context.ts';
import { HttpProblem, notFound } from './problem.ts';

export function mediaRoutes({ db }: Context): Router {
  const router = Router();

  router.post('/', raw({ type: () => true, limit: '300mb' }), async (req, res) => {
    const name = check(FileNameDto, req.query, 'query').name ?? 'sound.wav';
    const bytes = req.body as Buffer;
    if (!Buffer.isBuffer(bytes) || bytes.length === 0) {
      throw new HttpProblem('empty', `“${name}” is empty. Choose a WAV file with sound in it.`);
    }
    res.status(201).json(await putMedia(db, bytes, name, 'wav'));
  });

  /** Sounds that a preset can be listened to on, newest first. */
  router.get('/', async (_req, res) => {
    const rows = await db
      .getRepository(MediaRow)
      .find({ where: { owner: OWNER, kind: 'wav' }, order: { createdAt: 'DESC', name: 'ASC' }, take: 200 });
    res.json(
      rows.map((m) => ({
        id: m.id,
        name: m.name,
        sampleRate: m.sampleRate,
        channels: m.channels,
        frames: m.frames,
      })),
    );
  });

  router.get('/:id', async (req, res) => {
    const id = String(req.params.id);
    const bytes = /^[0-9a-f]{64}$/.test(id) ? await getMedia(db, id) : null;
    if (!bytes) throw notFound('This sound');
    res.setHeader('Cache-Control', 'private, max-age=31536000, immutable');
    res.type('audio/wav').send(bytes);
  });

  return router;
}
