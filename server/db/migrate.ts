import type { DataSource } from 'typeorm';
import { copyFirst } from './copy-first.ts';

/** s that one start waits for another that is making the tables */
const WAIT = 120;

/**
 * Brings the tables up to date, and does something after it, while no other start does: two first starts at
 * once would make the same tables. Every step may have been cut off before (tables can't be made in a
 * transaction), so every one is written to be run again.
 * @param copies folder for a copy of what is there before anything is changed; none is made when left out
 */
export async function migrated(db: DataSource, then: () => Promise<void>, copies?: string): Promise<void> {
  const holder = db.createQueryRunner();
  const name = `rope-shelf ${String(db.options.database)}`;
  try {
    const [{ got }] = (await holder.query('SELECT GET_LOCK(?, ?) AS got', [name, WAIT])) as {
      got: unknown;
    }[];
    if (Number(got) !== 1) {
      throw new Error('Another start of this program is making the database. Wait for it, or stop it.');
    }
    if (copies) await copyFirst(db, copies);
    await db.runMigrations();
    await then();
  } finally {
    await holder.query('SELECT RELEASE_LOCK(?)', [name]).catch(() => undefined);
    await holder.release();
  }
}
