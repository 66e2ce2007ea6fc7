import type { DataSource, EntityManager } from 'typeorm';

/** ER_LOCK_DEADLOCK and ER_LOCK_WAIT_TIMEOUT of MariaDB: the transaction was undone and may be tried again. */
const AGAIN = new Set([1213, 1205]);
const TRIES = 10;

/**
 * Runs a transaction, and again when the database undid it because it and another waited for each other:
 * ordinary parallel saves never fail. READ COMMITTED locks rows and no gaps between them, which is what
 * parallel saves of presets with tags mostly stumbled over.
 * @param task may run several times: everything that it does is in the database
 */
export async function transact<T>(
  db: DataSource | EntityManager,
  task: (m: EntityManager) => Promise<T>,
): Promise<T> {
  for (let tries = 1; ; tries++) {
    try {
      return await db.transaction('READ COMMITTED', task);
    } catch (e) {
      const { errno } = e as { errno?: number };
      if (!errno || !AGAIN.has(errno) || tries === TRIES) throw e;
      await new Promise((resolve) => setTimeout(resolve, 5 * 2 ** tries * Math.random()));
    }
  }
}
