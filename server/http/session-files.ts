import { randomUUID } from 'node:crypto';
import { Router, raw } from 'express';
import type { DataSource } from 'typeorm';
import type { Imported, Notes } from '../../contract/index.ts';
import { devicesIn, printedFromJson, safeName, type Session, type SheetFigure } from '../../core/index.ts';
import { JobRow, OWNER } from '../db/entities.ts';
import { getMedia, mediaFiles, putMedia, putSession } from '../db/store.ts';
import { idOf, type Context } from './context.ts';
import { FileNameDto, check } from './dto.ts';
import { HttpProblem } from './problem.ts';
import { sessionWithDocument } from './session-rows.ts';
import { transact } from '../db/transaction.ts';
import { readFile, writeFile, writeSheet } from '../work/files.ts';
import type { FileRead } from '../work/files.worker.ts';

/** Sessions as open files: in, and out again with all that this program does not know. */
export function sessionFileRoutes({ db }: Context): Router {
  const router = Router();

  router.post('/import', raw({ type: () => true, limit: '300mb' }), async (req, res) => {
    const name = check(FileNameDto, req.query, 'query').name ?? 'imported.dawproject';
    const bytes = req.body as Buffer;
    if (!Buffer.isBuffer(bytes) || bytes.length === 0) {
      throw new HttpProblem('empty', `“${name}” is empty. Choose the file that the other program exported.`);
    }
    const read = await readFile(bytes, name);
    const source = await putMedia(db, bytes, name, 'dawproject');
    await putContents(read, db);
    const id = randomUUID();
    const session: Session = {
      ...read.session,
      source: { format: 'dawproject', sha256: source.id, name },
    };
    await transact(db, (m) => putSession(m, id, session));
    res.status(201).json({ id, revision: 1, notes: read.notes } satisfies Imported);
  });

  router.get('/:id/export', async (req, res) => {
    const { bytes, name } = await written(idOf(req), db);
    const file = encodeURIComponent(name.replace(/[\\/:*?"<>|]/g, '-'));
    res.setHeader('Content-Disposition', `attachment; filename*=UTF-8''${file}.dawproject`);
    res.type('application/zip').send(Buffer.from(bytes));
  });

  router.get('/:id/export/notes', async (req, res) => {
    res.json({ notes: (await written(idOf(req), db)).notes } satisfies Notes);
  });

  /** The recall sheet on paper, with the levels of what was printed last. */
  router.get('/:id/recall.pdf', async (req, res) => {
    const id = idOf(req);
    const { document: session } = await sessionWithDocument(db, id);
    const bytes = await writeSheet(session, await figuresOf(id, db));
    res.attachment(`${safeName(`${session.name}, recall sheet`)}.pdf`);
    res.type('application/pdf').send(Buffer.from(bytes));
  });

  return router;
}

/** What was measured when a session was printed last. */
async function figuresOf(id: string, db: DataSource): Promise<SheetFigure[]> {
  const done = await db.getRepository(JobRow).find({
    where: { owner: OWNER, state: 'done' },
    select: { id: true, songs: true },
    order: { createdAt: 'DESC' },
    take: 200,
  });
  for (const row of done) {
    const song = row.songs.findIndex((s) => s.session === id);
    if (song < 0) continue;
    const found = await db
      .getRepository(JobRow)
      .findOne({ where: { id: row.id }, select: { id: true, printed: true } });
    const printed = found?.printed?.[song];
    return printed ? printedFromJson(printed).files : [];
  }
  return [];
}

/** Sounds of an imported file, and the states of devices of others. */
async function putContents(read: FileRead, db: DataSource): Promise<void> {
  for (const wav of read.media.values()) await putMedia(db, Buffer.from(wav), 'imported.wav', 'wav');
  for (const { path, bytes } of read.states) await putMedia(db, Buffer.from(bytes), path, 'state');
}

async function written(id: string, db: DataSource) {
  const { document: s } = await sessionWithDocument(db, id);
  const source = s.source ? await getMedia(db, s.source.sha256) : null;
  if (s.source && !source) {
    throw new HttpProblem(
      'source-missing',
      `The imported file “${s.source.name}” is not in the database any more, so an export would lose what this program does not know.`,
    );
  }
  const states = s.tracks.flatMap((t) => devicesIn(t.chain)).flatMap((d) => d.foreign?.state?.sha256 ?? []);
  const parts = {
    ...(source ? { source } : {}),
    media: await mediaFiles(
      db,
      s.media.map((m) => m.id),
    ),
    states: await mediaFiles(db, states),
  };
  return { name: s.name, ...(await writeFile(s, parts)) };
}
