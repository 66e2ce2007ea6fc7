import { promisify } from 'node:util';
import { brotliCompress, brotliDecompress, constants } from 'node:zlib';
import { In, type DataSource, type EntityManager } from 'typeorm';
import { SessionRevisionRow } from './entities.ts';
import { log } from './log.ts';
import { transact } from './transaction.ts';

const compress = promisify(brotliCompress);
const decompress = promisify(brotliDecompress);

const MINUTE = 60 * 1000;
/** Steps lie by themselves so long: by then their document is written, and nobody is in the middle of reading them. */
const REST = MINUTE;
const EVERY = MINUTE;
/** sessions that were changed so lately are looked at every time, the others when all is cleared out */
const LATELY = 10 * MINUTE;
/** what was not changed for so long has nobody at it whose next step would wait */
const STILL = 5 * 1000;
const [EVER, NEVER] = [new Date(0), new Date('9999-01-01')];
/** A bundle is worth it from so many steps or characters of their ways back on … */
const LEAST = { steps: 100, characters: 100_000 };
/** … and no larger than this, so that one step out of it is read soon. */
const MOST = { steps: 500, characters: 2_000_000 };

/** A step that lies by itself, and the characters of its way back. */
interface Loose {
  revision: number;
  size: number;
}

/** Puts old steps together now and then, beside everything else. @returns stops it */
export function bundleRegularly(db: DataSource): () => void {
  const run = () =>
    void bundle(db, new Date(), { lately: true, resting: true }).catch((err: unknown) =>
      log.error({ err }, 'steps were not put together; it is tried again'),
    );
  const timer = setInterval(run, EVERY);
  timer.unref();
  return () => clearInterval(timer);
}

/**
 * Puts the ways back of steps that rest together into bundles: a line that is added, taken off and added again is in
 * one step after another, and packed together they hold it once. The last step of a bundle carries it. Every step keeps
 * its row, its words and its place in the history; what it changed is in the document by then and goes.
 * @param o `lately`: only of sessions that were changed of late; `resting`: only of those that nobody is changing;
 *   `least`: what a bundle is worth it from
 * @returns how many steps were put into bundles
 */
export async function bundle(
  db: DataSource,
  now: Date,
  o: { lately?: boolean; resting?: boolean; least?: typeof LEAST } = {},
): Promise<number> {
  const ago = (ms: number) => new Date(now.getTime() - ms);
  const [before, least] = [ago(REST), o.least ?? LEAST];
  const changed = { since: o.lately ? ago(LATELY) : EVER, until: o.resting ? ago(STILL) : NEVER };
  let count = 0;
  for (const session of await worthIt(db, before, changed, least)) {
    for (const part of parts(await looseSteps(db, session, before), least)) {
      count += await transact(db, (m) => put(m, session, part));
    }
  }
  return count;
}

/** Steps of a session (`s`) that lie by themselves, that its document has, and that are older than a time. */
const LOOSE = `session_revision r ON r.session = s.id AND r.revision <= s.written
   AND r.bundle IS NULL AND r.back IS NOT NULL AND r.createdAt < ?`;
const SIZE = 'COALESCE(r.size, CHAR_LENGTH(r.back))';

/** Sessions changed between two times with enough loose steps for a bundle. */
async function worthIt(
  db: DataSource,
  before: Date,
  changed: { since: Date; until: Date },
  least: typeof LEAST,
): Promise<string[]> {
  const rows = await db.query<{ id: string }[]>(
    `SELECT STRAIGHT_JOIN s.id AS id FROM session s JOIN ${LOOSE} WHERE s.updatedAt BETWEEN ? AND ?
      GROUP BY s.id HAVING COUNT(*) >= ? OR SUM(${SIZE}) >= ?`,
    [before, changed.since, changed.until, least.steps, least.characters],
  );
  return rows.map((row) => row.id);
}

/** The loose steps of a session, oldest first. */
async function looseSteps(db: DataSource, session: string, before: Date): Promise<Loose[]> {
  const rows = await db.query<Record<keyof Loose, string>[]>(
    `SELECT r.revision AS revision, ${SIZE} AS size FROM session s JOIN ${LOOSE}
      WHERE s.id = ? ORDER BY r.revision`,
    [before, session],
  );
  return rows.map(({ revision, size }) => ({ revision: Number(revision), size: Number(size) }));
}

/** What goes into one bundle each. What is too little for one waits for more. */
function parts(steps: readonly Loose[], least: typeof LEAST): Loose[][] {
  const found: Loose[][] = [];
  let part: Loose[] = [];
  let characters = 0;
  for (const step of steps) {
    if (part.length === MOST.steps || (part.length > 0 && characters + step.size > MOST.characters)) {
      found.push(part);
      part = [];
      characters = 0;
    }
    part.push(step);
    characters += step.size;
  }
  const isWorth = part.length >= least.steps || characters >= least.characters;
  return isWorth ? [...found, part] : found;
}

async function put(m: EntityManager, session: string, part: readonly Loose[]): Promise<number> {
  const revisions = part.map((step) => step.revision);
  const rows = await m.find(SessionRevisionRow, {
    where: { session, revision: In(revisions) },
    order: { revision: 'ASC' },
    lock: { mode: 'pessimistic_write' },
  });
  // another server was first
  if (rows.length !== part.length || rows.some((r) => r.bundle !== null || r.back === null)) return 0;
  const carrier = revisions.at(-1)!;
  const ways = await packed(Object.fromEntries(rows.map((r) => [r.revision, r.back!])));
  // in one statement: its columns are set from left to right
  await m.query(
    `UPDATE session_revision SET bundle = ?, size = COALESCE(size, CHAR_LENGTH(back)), back = '', patch = ''
      WHERE session = ? AND revision IN (?)`,
    [carrier, session, revisions],
  );
  await m.update(SessionRevisionRow, { session, revision: carrier }, { ways });
  return rows.length;
}

/** The same steps of a session, each with its way back, wherever that lies. */
export async function withWays(
  m: EntityManager,
  session: string,
  rows: readonly SessionRevisionRow[],
): Promise<SessionRevisionRow[]> {
  const carriers = [...new Set(rows.flatMap((r) => r.bundle ?? []))];
  if (!carriers.length) return [...rows];
  const found = await m.find(SessionRevisionRow, {
    where: { session, revision: In(carriers) },
    select: { session: true, revision: true, ways: true },
  });
  const bundles = new Map<number, Record<string, string>>();
  for (const { revision, ways } of found) if (ways) bundles.set(revision, await unpacked(ways));
  return rows.map((r) => {
    if (r.bundle === null) return r;
    return { ...r, back: bundles.get(r.bundle)?.[r.revision] ?? null, bundle: null };
  });
}

/** Takes bundles apart, within a transaction: their steps lie by themselves again. */
export async function unbundle(
  m: EntityManager,
  session: string,
  carriers: readonly number[],
): Promise<void> {
  const rows = await m.find(SessionRevisionRow, {
    where: { session, bundle: In([...new Set(carriers)]) },
    lock: { mode: 'pessimistic_write' },
  });
  for (const { revision, back } of await withWays(m, session, rows)) {
    await m.update(SessionRevisionRow, { session, revision }, { back, bundle: null, ways: null });
  }
}

const packed = (ways: Record<string, string>): Promise<Buffer> => {
  const text = Buffer.from(JSON.stringify(ways));
  const params = {
    [constants.BROTLI_PARAM_QUALITY]: 5,
    // so wide a window that what stands at both ends of a bundle is stored once
    [constants.BROTLI_PARAM_LGWIN]: 22,
    [constants.BROTLI_PARAM_SIZE_HINT]: text.length,
  };
  return compress(text, { params });
};
const unpacked = async (ways: Buffer): Promise<Record<string, string>> =>
  JSON.parse((await decompress(ways)).toString()) as Record<string, string>;
