import { Router, raw } from 'express';
import type { DataSource } from 'typeorm';
import type { Upload } from '../../contract/index.ts';
import { ownerNow } from '../db/acting.ts';
import { UploadRow } from '../db/entities.ts';
import { CHUNK, addToUpload, beginUpload, bringMedia, dropUpload } from '../db/media.ts';
import type { Context } from './context.ts';
import { roomLeft } from './disk.ts';
import { NewUploadDto, PieceQueryDto, check } from './dto.ts';
import { HttpProblem, notFound } from './problem.ts';

/** Bytes that are sent at once: 8 MiB, a second of a slow line. */
const PIECE = 8 * CHUNK;

const asUpload = ({ id, size, received }: UploadRow): Upload => ({ id, size, received, piece: PIECE });

/** Large files, in pieces: one that was cut off goes on from where it was. */
export function uploadRoutes({ db, work }: Context): Router {
  const router = Router();

  router.post('/', async (req, res) => {
    const { name, size } = check(NewUploadDto, req.body);
    // it lies in the database, and once more beside it while it is read
    await roomLeft(work, 2 * size, {
      takes: `Taking “${name}” in takes`,
      way: 'Make room on it, and send the file again.',
    });
    res.status(201).json(asUpload(await beginUpload(db, name, size)));
  });

  router.get('/:id', async (req, res) => {
    res.json(asUpload(await uploadOf(db, String(req.params.id))));
  });

  router.put('/:id', raw({ type: () => true, limit: PIECE }), async (req, res) => {
    const upload = await uploadOf(db, String(req.params.id));
    const { at } = check(PieceQueryDto, req.query, 'query');
    const bytes = req.body as Buffer;
    const isLast = at + bytes.length === upload.size;
    if (!Buffer.isBuffer(bytes) || bytes.length === 0 || at + bytes.length > upload.size) {
      throw new HttpProblem(
        'not-valid',
        `A piece of “${upload.name}” has 1 byte or more, and ends where the file does.`,
      );
    }
    if (!isLast && bytes.length % CHUNK) {
      throw new HttpProblem('not-valid', `Every piece but the last is a multiple of ${CHUNK} bytes.`);
    }
    const received = await addToUpload(db, upload.id, at, bytes);
    if (received < at) {
      const what = `The piece from byte ${received} on is next.`;
      throw new HttpProblem('upload-place', what, [], { received });
    }
    res.json({ ...asUpload(upload), received } satisfies Upload);
  });

  router.delete('/:id', async (req, res) => {
    await dropUpload(db, (await uploadOf(db, String(req.params.id))).id);
    res.status(204).end();
  });

  return router;
}

async function uploadOf(db: DataSource, id: string): Promise<UploadRow> {
  const row = /^[0-9a-f]{64}$/.test(id)
    ? await db.getRepository(UploadRow).findOneBy({ id, owner: ownerNow() })
    : null;
  if (!row) throw notFound('This upload');
  return row;
}

/** Writes an upload that is there to its last byte into a file. */
export async function bringUpload(db: DataSource, id: string, path: string): Promise<UploadRow> {
  const upload = await uploadOf(db, id);
  const isWhole = upload.received === upload.size && (await bringMedia(db, id, path, upload.size));
  if (!isWhole) {
    const { name, received, size } = upload;
    throw new HttpProblem(
      'not-valid',
      `Of “${name}”, ${received} of ${size} bytes are there. Send the rest first.`,
    );
  }
  return upload;
}
