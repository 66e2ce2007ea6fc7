import { mkdir, readdir, rename, rm, stat } from 'node:fs/promises';
import { join } from 'node:path';
import { IsNull, type DataSource } from 'typeorm';
import type { BackupEntry } from '../../contract/index.ts';
import { actAsOwner, ownerNow } from '../db/acting.ts';
import { OWNER, UserRow } from '../db/entities.ts';
import { log } from '../db/log.ts';
import { sweepWork, withFolder, type WorkDisk } from '../work/work-folder.ts';
import { makePack } from './make.ts';

/** ms between two looks whether it is time */
const LOOK = 15 * 60 * 1000;
/** ms after which another backup is due, and after which a start makes up for a missed one */
const DAY = 24 * 3600 * 1000;
/** ms after a start, so that the program is there first */
const FIRST = 3 * 60 * 1000;
const NAME = /^Rope Shelf \d{4}-\d{2}-\d{2}T\d{2}-\d{2}-\d{2}Z\.ropeshelf\.zip$/;

export interface BackupOptions {
  /** where they lie */
  folder: string;
  /** how many are kept; none are made by themselves where it is 0 */
  keep: number;
}

/** Backups on this machine, of each account by itself: made once a day, or when somebody asks for one. */
export class Backups {
  constructor(
    private readonly db: DataSource,
    private readonly work: WorkDisk,
    readonly options: BackupOptions,
  ) {}

  /** Where those of the account lie that is spoken of: the first one's where they always lay. */
  get folder(): string {
    const owner = ownerNow();
    return owner === OWNER ? this.options.folder : join(this.options.folder, owner);
  }

  /** Those that are there, the newest first. */
  async list(): Promise<BackupEntry[]> {
    const names = await readdir(this.folder).catch(() => []);
    const all: BackupEntry[] = [];
    for (const name of names.filter((n) => NAME.test(n))) {
      const { size, mtime } = await stat(join(this.folder, name));
      all.push({ name, bytes: size, at: mtime.toISOString() });
    }
    return all.sort((a, b) => (a.name < b.name ? 1 : -1));
  }
  /** The file of one of them; null where there is none of that name. */
  async pathOf(name: string): Promise<string | null> {
    return (await this.list()).some((b) => b.name === name) ? join(this.folder, name) : null;
  }

  /** Makes one now, whole or not at all, and lets go of those that are too many. */
  async make(now = new Date()): Promise<BackupEntry> {
    const { folder } = this;
    const { keep } = this.options;
    await mkdir(folder, { recursive: true, mode: 0o700 });
    const name = `Rope Shelf ${now.toISOString().slice(0, 19).replaceAll(':', '-')}Z.ropeshelf.zip`;
    await sweepWork({ folder });
    await withFolder({ ...this.work, folder }, async (work) => {
      const { path } = await makePack(this.db, { everything: true }, work, now);
      await rename(path, join(folder, name));
    });
    const all = await this.list();
    for (const old of all.slice(Math.max(1, keep))) await rm(join(folder, old.name), { force: true });
    return all.find((b) => b.name === name)!;
  }

  /** Makes one a day. @returns stops it */
  regularly(): () => void {
    if (!this.options.keep) return () => undefined;
    const look = () =>
      void this.ifDue().catch((err: unknown) =>
        log.error({ err }, 'the backup could not be made; it is tried again later'),
      );
    const timers = [setTimeout(look, FIRST), setInterval(look, LOOK)];
    for (const t of timers) t.unref();
    return () => timers.forEach((t) => clearTimeout(t));
  }
  /** Makes one of each account where its last is a day old. @returns those that were made */
  async ifDue(now = new Date()): Promise<BackupEntry[]> {
    const accounts = await this.db.getRepository(UserRow).findBy({ closedAt: IsNull() });
    const made: BackupEntry[] = [];
    // the first one has things from the first start on, whether or not it has a row
    for (const id of new Set([OWNER, ...accounts.map((a) => a.id)])) {
      const one = await actAsOwner(id, () => this.ofOne(now));
      if (one) made.push(one);
    }
    return made;
  }
  /** Unless another process of the same database is at it. */
  private async ofOne(now: Date): Promise<BackupEntry | null> {
    const [last] = await this.list();
    if (last && now.getTime() - Date.parse(last.at) < DAY) return null;
    const holder = this.db.createQueryRunner();
    const lock = `rope-shelf backup ${String(this.db.options.database)}`;
    try {
      const [{ got }] = (await holder.query('SELECT GET_LOCK(?, 0) AS got', [lock])) as { got: unknown }[];
      if (Number(got) !== 1) return null;
      const made = await this.make(now);
      log.info({ name: made.name, bytes: made.bytes }, 'a backup was made');
      return made;
    } finally {
      await holder.query('SELECT RELEASE_LOCK(?)', [lock]).catch(() => undefined);
      await holder.release();
    }
  }
}
