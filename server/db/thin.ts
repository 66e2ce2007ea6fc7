import type { Operation } from 'fast-json-patch';
import { Between, type DataSource, type EntityManager } from 'typeorm';
import { unbundle } from './bundle.ts';
import { SessionRevisionRow } from './entities.ts';
import { transact } from './transaction.ts';

const HOUR = 3600 * 1000;
const DAY = 24 * HOUR;
/** Every step of the last day stays, as far as there are not more than so many of them … */
const MOST_STEPS = 5000;
/** … then one an hour for so long, then one a day. */
const MONTH = 30 * DAY;
/** what is joined at a time: steps, and characters of their ways back */
const MOST_JOINED = 1000;
const MOST_CHARACTERS = 4_000_000;

/** Steps of one session that belong to one hour or one day. */
interface Stretch {
  session: string;
  first: number;
  last: number;
}
/** Of a step: what it takes to know which go together. */
interface Measured {
  revision: number;
  steps: number;
  size: number;
}

/**
 * Thins the histories of all sessions as they grow old: the steps of an hour, later those of a day, become one, whose
 * way back is all of theirs. Every step that is left still leads to the one before it.
 * @returns how many rows there are less
 */
export async function thin(db: DataSource, now: Date): Promise<number> {
  // steps from before their ways back were kept lead nowhere
  const dead = await db.query<{ affectedRows: number }>(
    `DELETE r FROM session_revision r JOIN session s ON s.id = r.session AND r.revision <= s.written
      WHERE r.back IS NULL AND r.createdAt < ?`,
    [new Date(now.getTime() - MONTH)],
  );
  let joined = dead.affectedRows;
  for (const stretch of await stretches(db, now)) {
    for (const part of parts(await measured(db, stretch))) {
      joined += await transact(db, (m) => join(m, stretch.session, part));
    }
  }
  return joined;
}

/** What is old enough and stands beside others of its hour or day. What a document does not have yet stays as it is. */
async function stretches(db: DataSource, now: Date): Promise<Stretch[]> {
  const [day, month] = [DAY, MONTH].map((ms) => new Date(now.getTime() - ms));
  const found = await db.query<Record<keyof Stretch, string>[]>(
    `SELECT r.session AS session, MIN(r.revision) AS first, MAX(r.revision) AS last
       FROM session_revision r JOIN session s ON s.id = r.session
      WHERE r.revision <= s.written AND r.back IS NOT NULL AND (r.createdAt < ? OR r.revision <= s.revision - ?)
      GROUP BY r.session, r.createdAt < ?,
               TIMESTAMPDIFF(HOUR, '2000-01-01', r.createdAt) DIV IF(r.createdAt < ?, 24, 1)
     HAVING COUNT(*) > 1`,
    [day, MOST_STEPS, month, month],
  );
  return found.map(({ session, first, last }) => ({ session, first: Number(first), last: Number(last) }));
}

/** The steps of a stretch, oldest first; those in between that a clock which was put back dates elsewhere go with it. */
async function measured(db: DataSource, { session, first, last }: Stretch): Promise<Measured[]> {
  const rows = await db.query<Record<keyof Measured, string>[]>(
    `SELECT revision, steps, COALESCE(size, CHAR_LENGTH(back), -1) AS size FROM session_revision
      WHERE session = ? AND revision BETWEEN ? AND ? ORDER BY revision`,
    [session, first, last],
  );
  return rows.map((r) => ({ revision: Number(r.revision), steps: Number(r.steps), size: Number(r.size) }));
}

/** Steps that become one: each leads to the one before it, and they are not too many at a time. */
function parts(steps: readonly Measured[]): Measured[][] {
  const found: Measured[][] = [];
  let part: Measured[] = [];
  let size = 0;
  for (const step of steps) {
    const before = part.at(-1);
    const leadsOn = before !== undefined && step.size >= 0 && step.revision - step.steps === before.revision;
    if (!leadsOn || part.length === MOST_JOINED || size + step.size > MOST_CHARACTERS) {
      found.push(part);
      part = [];
      size = 0;
    }
    if (step.size < 0) continue;
    part.push(step);
    size += step.size;
  }
  return [...found, part].filter((p) => p.length > 1);
}

/** The last of some steps takes the others in. */
async function join(m: EntityManager, session: string, part: readonly Measured[]): Promise<number> {
  const [first, last] = [part[0].revision, part.at(-1)!.revision];
  const read = () =>
    m.find(SessionRevisionRow, {
      where: { session, revision: Between(first, last) },
      order: { revision: 'DESC' },
      lock: { mode: 'pessimistic_write' },
    });
  let rows = await read();
  const carriers = rows.flatMap((r) => r.bundle ?? []);
  if (carriers.length) {
    // others of the same bundles may stay
    await unbundle(m, session, carriers);
    rows = await read();
  }
  // another server was first
  if (rows.length !== part.length || rows.some((r) => r.back === null)) return 0;
  const [newest, ...others] = rows;
  const back = JSON.stringify(joinedWays(rows.map((r) => JSON.parse(r.back!) as Operation[])));
  const told = rows.find((r) => r.kind === 'do') ?? newest;
  await m.update(
    SessionRevisionRow,
    { session, revision: last },
    {
      steps: rows.reduce((sum, r) => sum + r.steps, 0),
      back,
      size: back.length,
      // its document has it
      patch: '',
      label: told.label,
      kind: 'do',
      person: rows.every((r) => r.person === newest.person) ? newest.person : '',
    },
  );
  await m.delete(SessionRevisionRow, { session, revision: Between(first, last - 1) });
  return others.length;
}

/**
 * Ways back, newest first, as one. Where one value was moved again and again, what it was at first is all that is
 * left of that.
 */
export function joinedWays(ways: readonly Operation[][]): Operation[] {
  const all: Operation[] = [];
  for (const op of ways.flat()) {
    const before = all.at(-1);
    if (before?.op === 'replace' && op.op === 'replace' && before.path === op.path) all.pop();
    all.push(op);
  }
  return all;
}
