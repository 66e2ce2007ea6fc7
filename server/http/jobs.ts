import { randomUUID } from 'node:crypto';
import { join } from 'node:path';
import { Router, type Request, type Response } from 'express';
import { In, IsNull } from 'typeorm';
import { ZipFile } from 'yazl';
import type { JobDetail, JobEntry, NewJobSong, PrintedSong } from '../../contract/index.ts';
import {
  planPrint,
  printOutlook,
  safeName,
  validateSession,
  type PrintFileMade,
  type PrintPlan,
  type Session,
} from '../../core/index.ts';
import { ownerNow, personNow } from '../db/acting.ts';
import { JobRow, SessionRow } from '../db/entities.ts';
import { entryOf, type PrintJobs } from '../jobs/prints.ts';
import { fileName } from '../work/disk-store.ts';
import { NewJobDto, check } from './dto.ts';
import { idOf, type Context } from './context.ts';
import { roomLeft } from './disk.ts';
import { HttpProblem, invalid, notFound } from './problem.ts';
import { beatOf } from './session-events.ts';
import { sessionWithDocument } from './session-rows.ts';

const LISTED = 200;
/** bytes of a frame while a print is made: two sides of 32 bit */
const KEPT = 8;

/** A song that was asked for, as it is printed. */
interface Song {
  id: string;
  revision: number;
  session: Session & { print: PrintPlan };
}

/** Bytes that a print takes at most on the disk, sounds not counted. */
function needed({ session }: Song): number {
  const { print: plan } = session;
  const { length } = printOutlook(session, plan);
  const frames = (length + plan.tail) * (plan.file.rate ?? session.sampleRate);
  const files = Number(plan.mix) + plan.versions.length + plan.stems.length;
  return Math.ceil(frames * KEPT * (files + 1));
}

/** A session as it is printed: as it is kept, or as it was given. */
async function songOf({ db, access }: Context, { session: id, document }: NewJobSong): Promise<Song> {
  const row = await access.at('session', id, 'edit', () => sessionWithDocument(db, id));
  const session = document ?? row.document;
  const problems = document ? validateSession(document) : [];
  if (problems.length) throw invalid(`“${row.name}”`, problems);
  const plan = session.print ?? planPrint(session);
  const outlook = printOutlook(session, plan);
  if (outlook.problems.length) {
    throw new HttpProblem('breaks-a-rule', `“${session.name}”: ${outlook.problems[0]}`);
  }
  return { id, revision: row.revision, session: { ...session, print: plan } };
}

async function jobOf({ db }: Context, id: string): Promise<JobRow> {
  const row = await db.getRepository(JobRow).findOneBy({ id, owner: ownerNow() });
  if (!row) throw notFound('This print');
  return row;
}
/** What a print made; nothing as long as it is not done. */
async function printedOf({ db }: Context, id: string): Promise<PrintedSong[]> {
  const row = await db.getRepository(JobRow).findOne({
    where: { id, owner: ownerNow() },
    select: { id: true, songs: true, printed: true },
  });
  if (!row) throw notFound('This print');
  const rows = await db.getRepository(SessionRow).find({
    where: { id: In(row.songs.map((s) => s.session)), deletedAt: IsNull() },
    select: { id: true, revision: true },
  });
  const now = new Map(rows.map((s) => [s.id, s.revision]));
  const of = (i: number) => ({ ...row.songs[i], now: now.get(row.songs[i].session) ?? null });
  return (row.printed ?? []).map((p, i) => ({ ...p, ...of(i) }));
}

/** Prints on the server: the queue, and what came of each. */
export function jobRoutes(context: Context, jobs: PrintJobs): Router {
  const router = Router();
  const repo = context.db.getRepository(JobRow);
  /** Told before a thread may take it, so that what the thread tells always comes after. */
  const queued = async (id: string): Promise<JobEntry> => {
    const entry = entryOf(await jobOf(context, id));
    jobs.o.tell(ownerNow(), entry);
    jobs.wake();
    return entry;
  };

  router.post('/', async (req, res) => {
    const { songs: asked, together = null } = check(NewJobDto, req.body);
    const songs: Song[] = [];
    for (const one of asked) songs.push(await songOf(context, one));
    const bytes = songs.reduce((sum, s) => sum + needed(s), 0);
    await roomLeft(jobs.o, bytes, {
      takes: 'This print takes up to',
      way: 'Make room on it, take earlier prints away, or print less at a time.',
    });
    const id = randomUUID();
    await repo.insert({
      id,
      owner: ownerNow(),
      name: songs[0].session.name,
      state: 'queued',
      message: '',
      songs: songs.map((s) => ({ session: s.id, name: s.session.name, revision: s.revision })),
      together,
      request: songs.map((s) => s.session),
    });
    res.status(201).json(await queued(id));
  });
  router.get('/', async (_req, res) => {
    const rows = await repo.find({
      where: { owner: ownerNow() },
      order: { createdAt: 'DESC' },
      take: LISTED,
    });
    res.json(rows.map(entryOf) satisfies JobEntry[]);
  });
  router.get('/events', (req, res) => listen(context, req, res));
  router.get('/:id', async (req, res) => {
    const row = await jobOf(context, idOf(req));
    const printed = row.state === 'done' ? await printedOf(context, row.id) : null;
    res.json({ ...entryOf(row), together: row.together, printed } satisfies JobDetail);
  });
  /** A session as it was when it was printed. */
  router.get('/:id/session/:song', async (req, res) => {
    const row = await repo.findOne({
      where: { id: idOf(req), owner: ownerNow() },
      select: { id: true, request: true },
    });
    const session = row?.request[Number(req.params.song)];
    if (!session) throw notFound('This print');
    res.json(session);
  });
  router.post('/:id/cancel', async (req, res) => {
    const { id } = await jobOf(context, idOf(req));
    await jobs.cancel(id);
    res.json(entryOf(await jobOf(context, id)));
  });
  /** The same sessions as they were then, once more. */
  router.post('/:id/again', async (req, res) => {
    const { id } = await jobOf(context, idOf(req));
    const back = { state: 'queued' as const, message: '', progress: 0, startedAt: null, endedAt: null };
    for (const state of ['failed', 'cancelled'] as const) await repo.update({ id, state }, back);
    res.json(await queued(id));
  });
  router.delete('/:id', async (req, res) => {
    const { id } = await jobOf(context, idOf(req));
    await jobs.remove(id);
    res.status(204).end();
  });
  router.use(fileRoutes(context, jobs));
  return router;
}

/** Tells prints as they move on, as server-sent events. */
function listen(context: Context, req: Request, res: Response): void {
  res.writeHead(200, { 'Content-Type': 'text/event-stream', 'Cache-Control': 'no-store' });
  res.write(': here\n\n');
  const stop = context.events.listenToJobs(personNow(), (entry) =>
    res.write(`data: ${JSON.stringify(entry)}\n\n`),
  );
  const beat = beatOf(context, res);
  req.on('close', () => {
    beat();
    stop();
  });
}

/** The files of a print: one by one, or all as a zip that is packed while it is sent. */
function fileRoutes(context: Context, jobs: PrintJobs): Router {
  const router = Router();
  const pathOf = (id: string, song: number, file: number, made: PrintFileMade) =>
    join(jobs.folderOf(id), String(song), fileName(file, made.name));

  router.get('/:id/files/:song/:file', async (req, res) => {
    const id = idOf(req);
    const [song, file] = [Number(req.params.song), Number(req.params.file)];
    const made = (await printedOf(context, id))[song]?.files[file];
    if (!made) throw notFound('This file of a print');
    await sent(res, pathOf(id, song, file, made), made.name);
  });
  router.get('/:id/zip', async (req, res) => {
    const id = idOf(req);
    const songs = await printedOf(context, id);
    if (!songs.length) throw notFound('What was printed');
    const folders = distinct(songs.map((s) => safeName(s.name)));
    const files = songs.flatMap((song, i) =>
      song.files.map((made, k) => ({
        path: pathOf(id, i, k, made),
        name: songs.length > 1 ? `${folders[i]}/${made.name}` : made.name,
      })),
    );
    res.attachment(`${songs.length > 1 ? 'Prints' : folders[0]}.zip`);
    sendZip(res, files);
  });
  return router;
}

/** Packs files while they are sent, so that none is held whole. */
function sendZip(res: Response, files: { path: string; name: string }[]): void {
  const zip = new ZipFile();
  // sound hardly shrinks
  for (const { path, name } of files) zip.addFile(path, name, { compress: false });
  zip.on('error', (e: Error) => res.destroy(e));
  res.on('close', () => zip.outputStream.unpipe(res));
  // the types that ship do not know that it is told the size of the whole
  const begin = (size: number) => {
    if (size > 0) res.setHeader('Content-Length', size);
    zip.outputStream.pipe(res);
  };
  zip.end({ forceZip64Format: false, comment: '' }, begin as () => void);
}

/** Names of folders, none twice. */
const distinct = (names: string[]): string[] =>
  names.map((name, i) => (names.indexOf(name) === i ? name : `${name} (${i + 1})`));

/** Sends a file that can be heard while it comes, any stretch of it. */
function sent(res: Response, path: string, name: string): Promise<void> {
  return new Promise((resolve, reject) => {
    res.attachment(name);
    res.sendFile(
      path,
      { cacheControl: false, dotfiles: 'allow' },
      (e: (Error & { code?: string }) | undefined) => {
        if (!e || e.code === 'ECONNABORTED' || res.headersSent) resolve();
        else reject(e.code === 'ENOENT' ? notFound('This file of a print') : e);
      },
    );
  });
}
