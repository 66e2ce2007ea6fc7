import { writeFile as writeDisk } from 'node:fs/promises';
import { join } from 'node:path';
import { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import { Router, raw } from 'express';
import type { MediaList } from '../../contract/index.ts';
import type { MediaRef } from '../../core/index.ts';
import { ownerNow } from '../db/acting.ts';
import type { UploadRow } from '../db/entities.ts';
import { chunksOf, keepUpload, mediaRow, putMediaFrom, type MediaAbout } from '../db/media.ts';
import { readSound } from '../work/files.ts';
import { withFolder } from '../work/work-folder.ts';
import { FileQueryDto, check } from './dto.ts';
import type { Context } from './context.ts';
import { HttpProblem, notFound } from './problem.ts';
import { bringUpload } from './uploads.ts';

/** A file that somebody sent, as it lies on the disk while it is looked at. */
export interface SentFile {
  path: string;
  size: number;
  name: string;
  /** in pieces, as which it lies in the database already */
  upload: UploadRow | null;
}

/** Takes a file that was sent as the body of a request, or in pieces before. */
export function withSentFile<T>(
  { db, work }: Context,
  sent: { query: object; body: unknown; otherwise: string; empty: string },
  take: (file: SentFile, folder: string) => Promise<T>,
): Promise<T> {
  const { name = sent.otherwise, upload } = check(FileQueryDto, sent.query, 'query');
  return withFolder(work, async (folder) => {
    const path = join(folder, 'sent');
    if (upload) {
      const row = await bringUpload(db, upload, path);
      return take({ path, size: row.size, name: row.name, upload: row }, folder);
    }
    const bytes = sent.body as Buffer;
    if (!Buffer.isBuffer(bytes) || bytes.length === 0) {
      throw new HttpProblem('empty', `“${name}” is empty. ${sent.empty}`);
    }
    await writeDisk(path, bytes);
    return take({ path, size: bytes.length, name, upload: null }, folder);
  });
}

/** Keeps a file that was sent, now that it is known what it is. */
export async function keepSent({ db }: Context, file: SentFile, about: MediaAbout): Promise<void> {
  if (file.upload) await keepUpload(db, file.upload, about);
  else await putMediaFrom(db, { path: file.path, at: 0, size: file.size }, about);
}

export function mediaRoutes(context: Context): Router {
  const router = Router();
  const { db } = context;

  router.post('/', raw({ type: () => true, limit: '300mb' }), async (req, res) => {
    const { query, body } = req as { query: object; body: unknown };
    const sent = { query, body, otherwise: 'sound.wav', empty: 'Choose a WAV file with sound in it.' };
    const ref = await withSentFile(context, sent, async (file): Promise<MediaRef> => {
      const { sha256: id, ...sound } = await readSound(file);
      await keepSent(context, file, { id, name: file.name, kind: 'wav', ...sound });
      return { id, name: file.name, ...sound };
    });
    res.status(201).json(ref);
  });

  /** Sounds that a preset can be listened to on, newest first. */
  router.get('/', async (_req, res) => {
    const sounds = await db.query<MediaList>(
      `SELECT m.id, h.name, m.sampleRate, m.channels, m.frames
         FROM media_holder h JOIN media m ON m.id = h.media AND m.kind = 'wav'
       WHERE h.owner = ? ORDER BY h.createdAt DESC, h.name LIMIT 200`,
      [ownerNow()],
    );
    res.json(sounds satisfies MediaList);
  });

  router.get('/:id', async (req, res) => {
    const id = String(req.params.id);
    const row = /^[0-9a-f]{64}$/.test(id) ? await mediaRow(db, id) : null;
    if (!row) throw notFound('This sound');
    res.setHeader('Cache-Control', 'private, max-age=31536000, immutable');
    res.setHeader('Content-Length', row.size);
    res.type('audio/wav');
    // whoever gives up in the middle is no error
    await pipeline(Readable.from(chunksOf(db, id)), res).catch(() => res.destroy());
  });

  return router;
}
