import type { DataSource, EntityManager } from 'typeorm';

/** ER_QUERY_INTERRUPTED of MariaDB: somebody ended the query. */
export const INTERRUPTED = 1317;

/** Who waits for an answer: “close” comes when it was sent, or when nobody waits any more. */
interface Waiting {
  readonly writableEnded: boolean;
  on(event: 'close', listener: () => void): unknown;
  off(event: 'close', listener: () => void): unknown;
}

/**
 * Reads from the database as long as somebody waits for it: when the request is given up, the query that runs for it
 * is ended, so that typing ahead leaves no work behind.
 * @returns null when nobody waits any more
 */
export async function abortable<T>(
  db: DataSource,
  waiting: Waiting,
  task: (m: EntityManager) => Promise<T>,
): Promise<T | null> {
  const runner = db.createQueryRunner();
  const { threadId } = (await runner.connect()) as { threadId: number };
  let ending: Promise<unknown> = Promise.resolve();
  const end = () => {
    if (waiting.writableEnded) return;
    ending = db.query(`KILL QUERY ${threadId}`).catch(() => undefined);
  };
  waiting.on('close', end);
  try {
    return await task(runner.manager);
  } catch (e) {
    if ((e as { errno?: number }).errno === INTERRUPTED) return null;
    throw e;
  } finally {
    waiting.off('close', end);
    // the connection goes back when nothing can hit its next query
    await ending;
    await runner.release();
  }
}
