import { randomUUID } from 'node:crypto';
import { createReadStream } from 'node:fs';
import { stat } from 'node:fs/promises';
import { join } from 'node:path';
import { pipeline } from 'node:stream/promises';
import { Router, raw } from 'express';
import type { DataSource } from 'typeorm';
import type { Imported, Notes } from '../../contract/index.ts';
import { devicesIn, printedFromJson, safeName, type Session, type SheetFigure } from '../../core/index.ts';
import { ownerNow } from '../db/acting.ts';
import { JobRow, MediaRow } from '../db/entities.ts';
import { NO_SOUND, bringMedia, mediaFiles, mediaRows, putMedia, putMediaFrom } from '../db/media.ts';
import { putSession } from '../db/store.ts';
import { transact } from '../db/transaction.ts';
import { readFile, writeFile, writeSheet } from '../work/files.ts';
import type { SourceFile } from '../work/files.worker.ts';
import { withFolder } from '../work/work-folder.ts';
import { idOf, type Context } from './context.ts';
import { limitsOn, roomLeft } from './disk.ts';
import { keepSent, withSentFile, type SentFile } from './media.ts';
import { HttpProblem } from './problem.ts';
import { sessionWithDocument } from './session-rows.ts';

/** Sessions as open files: in, and out again with all that this program does not know. */
export function sessionFileRoutes(context: Context): Router {
  const router = Router();
  const { db, work } = context;

  router.post('/import', raw({ type: () => true, limit: '300mb' }), async (req, res) => {
    const { query, body } = req as { query: object; body: unknown };
    const empty = 'Choose the file that the other program exported.';
    const sent = { query, body, otherwise: 'imported.dawproject', empty };
    const imported = await withSentFile(context, sent, (file, folder) => taken(context, file, folder));
    res.status(201).json(imported satisfies Imported);
  });

  router.get('/:id/export', async (req, res) => {
    await withFolder(work, async (folder) => {
      const { path, name } = await written(context, idOf(req), folder);
      const file = encodeURIComponent(name.replace(/[\\/:*?"<>|]/g, '-'));
      res.setHeader('Content-Disposition', `attachment; filename*=UTF-8''${file}.dawproject`);
      res.setHeader('Content-Length', (await stat(path)).size);
      res.type('application/zip');
      // whoever gives up in the middle is no error
      await pipeline(createReadStream(path), res).catch(() => res.destroy());
    });
  });

  router.get('/:id/export/notes', async (req, res) => {
    const { notes } = await withFolder(work, (folder) => written(context, idOf(req), folder, 'notes'));
    res.json({ notes } satisfies Notes);
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
    where: { owner: ownerNow(), state: 'done' },
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

/** Takes a DAWproject file in: its sounds, the states of others' devices, the file itself, and the session. */
async function taken(context: Context, file: SentFile, folder: string): Promise<Imported> {
  const { db, work } = context;
  const read = await readFile(file, folder, await limitsOn(work));
  const refs = new Map(read.session.media.map((m) => [m.id, m]));
  for (const [media, place] of read.media) {
    await putMediaFrom(db, place, { ...refs.get(media)!, kind: 'wav' });
  }
  for (const { path, bytes } of read.states) await putMedia(db, Buffer.from(bytes), path, 'state');
  const { sha256, sounds, notes } = read;
  await keepSent(context, file, { id: sha256, name: file.name, kind: 'dawproject', ...NO_SOUND, sounds });
  const id = randomUUID();
  const session: Session = { ...read.session, source: { format: 'dawproject', sha256, name: file.name } };
  await transact(db, (m) => putSession(m, id, session));
  return { id, revision: 1, notes };
}

/** The file that a session was imported from, on the disk. */
async function sourceOf({ db }: Context, s: Session, folder: string): Promise<SourceFile | null> {
  if (!s.source) return null;
  const path = join(folder, 'source');
  const row = await db
    .createQueryBuilder(MediaRow, 'm')
    .addSelect('m.sounds')
    .where({ id: s.source.sha256 })
    .getOne();
  if (!row || !(await bringMedia(db, row.id, path, row.size))) {
    throw new HttpProblem(
      'source-missing',
      `The imported file “${s.source.name}” is not in the database any more, so an export would lose what this program does not know.`,
    );
  }
  return { path, sounds: row.sounds };
}

/**
 * Writes a session into a file of a folder.
 * @param only what the file would not hold is said, and nothing is written
 */
async function written(context: Context, id: string, folder: string, only?: 'notes') {
  const { db, work } = context;
  const { document: s } = await sessionWithDocument(db, id);
  const rows = await mediaRows(
    db,
    s.media.map((m) => m.id),
  );
  const bytes = rows.reduce((sum, row) => sum + row.size, 0);
  if (!only) {
    const takes = `Writing “${s.name}” takes up to`;
    await roomLeft(work, 3 * bytes, { takes, way: 'Make room on it, and export the session again.' });
  }
  const source = await sourceOf(context, s, folder);
  const inSource = new Set(Object.values(source?.sounds ?? {}).map((m) => m.id));
  const sounds = new Map(rows.map((row) => [row.id, '']));
  for (const row of only ? [] : rows.filter((r) => !inSource.has(r.id))) {
    sounds.set(row.id, join(folder, row.id));
    await bringMedia(db, row.id, join(folder, row.id), row.size);
  }
  const states = s.tracks.flatMap((t) => devicesIn(t.chain)).flatMap((d) => d.foreign?.state?.sha256 ?? []);
  const path = join(folder, 'written');
  const parts = { source, sounds, states: await mediaFiles(db, states), to: only ? null : path };
  const { notes } = await writeFile(s, parts, bytes);
  return { path, name: s.name, notes };
}
