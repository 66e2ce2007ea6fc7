import { mkdir, readdir, rename, rm } from 'node:fs/promises';
import { hostname } from 'node:os';
import { join } from 'node:path';
import { Worker } from 'node:worker_threads';
import type { DataSource, Repository } from 'typeorm';
import type { JobEntry, JobNews } from '../../contract/index.ts';
import { mediaIn, type PrintFiles, type Session } from '../../core/index.ts';
import { JobRow } from '../db/entities.ts';
import { bringMedia, mediaRow } from '../db/media.ts';
import { log } from '../db/log.ts';
import { transact } from '../db/transaction.ts';
import type { PrintAnswer, PrintTask } from '../work/print.worker.ts';
import { builtFile } from '../work/built.ts';

/** prints at once */
const THREADS = 2;
/** ms from one sign of life to the next; after how many a print whose process says nothing is taken over */
const BEAT = 2000;
const DEAD = 15_000;

/** This process, as other processes see it in the table. */
const ME = `${hostname()} ${process.pid}`;

/** Whether a process that says it is at a print is surely gone: one of this machine that does not run any more. */
function isGone(worker: string): boolean {
  const [host, pid] = worker.split(' ');
  if (host !== hostname() || worker === ME) return false;
  try {
    process.kill(Number(pid), 0);
    return false;
  } catch (e) {
    return (e as NodeJS.ErrnoException).code === 'ESRCH';
  }
}

export interface PrintJobsOptions {
  /** where the files of prints lie, a folder for each */
  folder: string;
  /** is told whenever a print moves on */
  tell: (owner: string, news: JobNews) => void;
  /** bytes that are free on the disk */
  free?: () => Promise<number>;
}

/** MB that a thread lets pile up of what is thrown away at once: of its own it makes little of that, and as quickly */
const YOUNG = 6;

/** As lists show a print. */
export const entryOf = (row: JobRow): JobEntry => ({
  id: row.id,
  name: row.name,
  songs: row.songs,
  state: row.state,
  progress: row.progress,
  message: row.message,
  files: row.files,
  bytes: row.bytes,
  createdAt: row.createdAt.toISOString(),
  startedAt: row.startedAt?.toISOString() ?? null,
  endedAt: row.endedAt?.toISOString() ?? null,
});

/** One attempt at a print by this process. */
interface Attempt {
  row: JobRow;
  /** where it works; what it made gets the print's own folder in the end */
  folder: string;
  worker: Worker | null;
}

/**
 * Takes prints out of the queue and has threads print them. The table is the truth: whichever process is free takes
 * the next one, and one whose process died goes back into the queue.
 */
export class PrintJobs {
  private readonly attempts = new Set<Attempt>();
  private timer: NodeJS.Timeout | null = null;
  private isAsked = false;
  private isStopped = true;
  private looking: Promise<void> | null = null;

  constructor(
    private readonly db: DataSource,
    readonly o: PrintJobsOptions,
  ) {}

  private get rows(): Repository<JobRow> {
    return this.db.getRepository(JobRow);
  }
  /** Where the files of a print lie when it is done. */
  folderOf(id: string): string {
    return join(this.o.folder, id);
  }
  start(): void {
    this.isStopped = false;
    this.timer = setInterval(() => this.wake(), BEAT);
    this.timer.unref();
    this.wake();
    void this.sweep().catch((err: unknown) => log.error({ err }, 'the folder of prints could not be swept'));
  }
  /** Takes away what attempts left behind that ended with their machine. */
  private async sweep(): Promise<void> {
    const names = await readdir(this.o.folder).catch(() => []);
    for (const name of names) {
      const [, id, attempt] = /^(.+)\.(\d+)$/.exec(name) ?? [];
      if (!id) continue;
      const isAtIt = await this.rows.existsBy({ id, attempt: Number(attempt), state: 'running' });
      if (!isAtIt) await rm(join(this.o.folder, name), { recursive: true, force: true });
    }
  }
  /** Ends what this process prints; it stands in the queue again. */
  async stop(): Promise<void> {
    this.isStopped = true;
    if (this.timer) clearInterval(this.timer);
    await this.looking;
    await Promise.all([...this.attempts].map(({ worker }) => worker?.terminate()));
    await this.rows.update({ worker: ME, state: 'running' }, { state: 'queued', worker: null, progress: 0 });
  }
  /** Looks at once whether there is something to print. */
  wake(): void {
    // what came while it looked may have come after the look at the queue
    this.isAsked = this.looking !== null;
    this.looking ??= this.look()
      .catch((err: unknown) => log.error({ err }, 'the queue of prints could not be read; it is tried again'))
      .finally(() => {
        this.looking = null;
        if (this.isAsked && !this.isStopped) this.wake();
      });
  }
  private async look(): Promise<void> {
    await this.giveBack();
    await this.beat();
    while (!this.isStopped && this.attempts.size < THREADS) {
      const row = await this.claim();
      if (!row) return;
      const attempt = { row, folder: `${this.folderOf(row.id)}.${row.attempt}`, worker: null };
      this.attempts.add(attempt);
      void this.run(attempt).finally(() => {
        this.attempts.delete(attempt);
        this.wake();
      });
    }
  }
  /** Prints whose process is gone, or has said nothing for long, are queued again. */
  private async giveBack(): Promise<void> {
    const silent = Date.now() - DEAD;
    for (const { id, attempt, worker, beatAt } of await this.rows.findBy({ state: 'running' })) {
      const isAlive = worker && !isGone(worker) && (beatAt?.getTime() ?? 0) > silent;
      if (worker === ME || isAlive) continue;
      await this.rows.update({ id, attempt, state: 'running' }, { state: 'queued', worker: null });
      await rm(`${this.folderOf(id)}.${attempt}`, { recursive: true, force: true });
    }
  }
  /** Says that this process lives, and hears of prints that another one called off. */
  private async beat(): Promise<void> {
    for (const { row, worker } of this.attempts) {
      const { affected } = await this.rows.update(own(row), { beatAt: new Date() });
      if (!affected) await worker?.terminate();
    }
  }
  private claim(): Promise<JobRow | null> {
    return transact(this.db, async (m) => {
      const [next] = (await m.query(
        `SELECT id, attempt FROM job WHERE state = 'queued' ORDER BY createdAt, id LIMIT 1 FOR UPDATE SKIP LOCKED`,
      )) as { id: string; attempt: number }[];
      if (!next) return null;
      const [now, attempt] = [new Date(), next.attempt + 1];
      const taken = {
        state: 'running' as const,
        worker: ME,
        beatAt: now,
        startedAt: now,
        progress: 0,
        attempt,
      };
      await m.update(JobRow, { id: next.id }, taken);
      return m.findOneByOrFail(JobRow, { id: next.id });
    });
  }

  /** Prints one job to its end, whatever that is. */
  private async run(attempt: Attempt): Promise<void> {
    const { row, folder } = attempt;
    try {
      this.o.tell(row.owner, entryOf(row));
      const { request: songs } = await this.rows.findOneOrFail({
        where: { id: row.id },
        select: { id: true, request: true },
      });
      await this.bringSounds(songs, join(folder, 'sounds'));
      const at = row.createdAt.toISOString();
      const printed = await this.inThread(attempt, { folder, songs, together: row.together, at });
      // null: it was called off, or given back
      if (printed) await this.keep(attempt, printed);
    } catch (e) {
      log.error({ err: e as Error, id: row.id }, 'a print failed');
      await this.finish(row, { state: 'failed', message: (e as Error).message }).catch(() => undefined);
    } finally {
      // what came to nothing leaves nothing behind
      await rm(folder, { recursive: true, force: true });
    }
  }
  /** Writes the sounds of some sessions into a folder, a piece at a time. */
  private async bringSounds(songs: readonly Session[], folder: string): Promise<void> {
    await mkdir(folder, { recursive: true });
    for (const media of mediaIn(songs.flatMap((s) => s.tracks))) {
      const row = await mediaRow(this.db, media);
      if (!row || !(await bringMedia(this.db, media, join(folder, media), row.size))) {
        throw new Error('A sound of this session is not in the database any more.');
      }
    }
  }
  /** @returns null when the thread was ended before it was done */
  private inThread(attempt: Attempt, task: PrintTask): Promise<PrintFiles[] | null> {
    if (this.isStopped) return Promise.resolve(null);
    const worker = new Worker(builtFile('work/print.worker.js'), {
      workerData: task,
      resourceLimits: { maxYoungGenerationSizeMb: YOUNG },
    });
    attempt.worker = worker;
    return new Promise((resolve, reject) => {
      let told = 0;
      worker.on('message', (answer: PrintAnswer) => {
        if ('printed' in answer) resolve(answer.printed);
        else if ('failed' in answer) reject(new Error(answer.failed));
        else if (Date.now() - told > BEAT / 4) {
          told = Date.now();
          void this.progress(attempt.row, answer.progress);
        }
      });
      worker.once('error', reject);
      worker.once('exit', () => resolve(null));
    });
  }
  private async progress(row: JobRow, progress: number): Promise<void> {
    try {
      await this.rows.update(own(row), { progress });
      await this.tellOf(row.id);
    } catch {
      /* the next one is told */
    }
  }
  /** Puts what was made in its place, unless the print was called off meanwhile. */
  private async keep({ row, folder }: Attempt, printed: PrintFiles[]): Promise<void> {
    await rm(join(folder, 'sounds'), { recursive: true, force: true });
    await rm(this.folderOf(row.id), { recursive: true, force: true });
    await rename(folder, this.folderOf(row.id));
    const isKept = await this.finish(row, { state: 'done', printed, progress: 1, ...sumOf(printed) });
    if (!isKept) await rm(this.folderOf(row.id), { recursive: true, force: true });
  }
  private async finish(row: JobRow, end: Partial<JobRow>): Promise<boolean> {
    const { affected } = await this.rows.update(own(row), { ...end, endedAt: new Date(), worker: null });
    await this.tellOf(row.id);
    return affected === 1;
  }
  private async tellOf(id: string): Promise<void> {
    const row = await this.rows.findOneBy({ id });
    if (row) this.o.tell(row.owner, entryOf(row));
  }

  /** Calls a print off: at once where this process is at it, within a sign of life where another is. */
  async cancel(id: string): Promise<void> {
    await this.callOff(id);
    await this.tellOf(id);
  }
  private async callOff(id: string): Promise<void> {
    const end = { state: 'cancelled' as const, endedAt: new Date(), worker: null };
    for (const state of ['queued', 'running'] as const) await this.rows.update({ id, state }, end);
    const mine = [...this.attempts].filter((a) => a.row.id === id);
    await Promise.all(mine.map(({ worker }) => worker?.terminate()));
  }
  /** Takes a print away with its files. */
  async remove(id: string): Promise<void> {
    await this.callOff(id);
    const row = await this.rows.findOneBy({ id });
    await this.rows.delete({ id });
    await rm(this.folderOf(id), { recursive: true, force: true });
    if (row) this.o.tell(row.owner, { id, gone: true });
  }
}

/** A print as long as it is this attempt's. */
const own = ({ id, attempt }: JobRow) => ({ id, attempt, worker: ME, state: 'running' as const });

function sumOf(printed: readonly PrintFiles[]): { files: number; bytes: number } {
  const all = printed.flatMap((p) => p.files);
  return { files: all.length, bytes: all.reduce((sum, f) => sum + f.size, 0) };
}
