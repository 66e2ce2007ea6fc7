import { LessThan, type DataSource } from 'typeorm';
import { bundle } from './bundle.ts';
import { SignInTryRow, UploadRow } from './entities.ts';
import { log } from './log.ts';
import { dropUpload } from './media.ts';
import { thin } from './thin.ts';
import { transact } from './transaction.ts';

const DAY = 24 * 3600 * 1000;
/** Deleted things can be brought back so many days; a sound that nobody uses stays as long. */
export const TRASH_DAYS = 30;
const TRASH = TRASH_DAYS * DAY;
/** ms after the start, and from one clearing to the next */
const FIRST = 60 * 1000;
const EVERY = 6 * 3600 * 1000;
/** documents that are looked at together: each may have some MB */
const PAGE = 10;
const SHA256 = /[0-9a-f]{64}/g;

export interface Tidied {
  revisions: number;
  sessions: number;
  presets: number;
  setups: number;
  sounds: number;
}

/** What can lie in the trash, and the rows that go with it. */
export type Trashed = 'session' | 'preset' | 'setup';
const PARTS: Record<Trashed, readonly (readonly [table: string, column: string])[]> = {
  session: [
    ['session_revision', 'session'],
    ['session_use', 'session'],
    ['drop_record', 'session'],
    ['share', 'thing'],
  ],
  preset: [
    ['preset_version', 'preset'],
    ['tag', 'preset'],
    ['fingerprint', 'preset'],
  ],
  setup: [['setup_version', 'setup']],
};

/** Clears out now and then, beside everything else. @returns stops it */
export function tidyRegularly(db: DataSource): () => void {
  const run = () =>
    void tidy(db).then(
      (done) => log.info(done, 'cleared out'),
      (err) => log.error({ err }, 'clearing out failed; it is tried again later'),
    );
  const timers = [setTimeout(run, FIRST), setInterval(run, EVERY)];
  for (const t of timers) t.unref();
  return () => timers.forEach((t) => clearTimeout(t));
}

/**
 * Thins histories and puts their steps together, empties the trash of what lies in it for a month, and lets go of sounds
 * that nobody uses.
 */
export async function tidy(db: DataSource, now = new Date()): Promise<Tidied> {
  const before = (ms: number) => new Date(now.getTime() - ms);
  const revisions = await thin(db, now);
  await bundle(db, now, { resting: true });
  const sessions = await emptied(db, 'session', before(TRASH));
  const presets = await emptied(db, 'preset', before(TRASH));
  const setups = await emptied(db, 'setup', before(TRASH));
  const sounds = await withoutUse(db, before(TRASH));
  for (const { id } of await db.getRepository(UploadRow).findBy({ createdAt: LessThan(before(DAY)) })) {
    await dropUpload(db, id);
  }
  await db.getRepository(SignInTryRow).delete({ expire: LessThan(String(now.getTime())) });
  return { revisions, sessions, presets, setups, sounds };
}

/**
 * Deletes for good what lies in the trash since before a time, with the rows that belong to it.
 * @param only those of an account, or one of them
 * @returns how many there were
 */
export async function emptied(
  db: DataSource,
  table: Trashed,
  time: Date,
  only: { owner?: string; id?: string } = {},
): Promise<number> {
  const parts = PARTS[table];
  const narrowed = Object.entries(only);
  const which = narrowed.map(([column]) => ` AND ${column} = ?`).join('');
  const old = await db.query<{ id: string }[]>(`SELECT id FROM \`${table}\` WHERE deletedAt <= ?${which}`, [
    time,
    ...narrowed.map(([, value]) => value),
  ]);
  for (const { id } of old) {
    await transact(db, async (m) => {
      // it may have been brought back meanwhile
      const r = (await m.query(`DELETE FROM \`${table}\` WHERE id = ? AND deletedAt <= ?`, [id, time])) as {
        affectedRows: number;
      };
      if (!r.affectedRows) return;
      for (const [part, column] of parts) await m.query(`DELETE FROM ${part} WHERE ${column} = ?`, [id]);
    });
  }
  return old.length;
}

/** Lets go of sounds, files and states from before a time that no session and no preset speaks of. */
async function withoutUse(db: DataSource, time: Date): Promise<number> {
  const old = (await db.query('SELECT id FROM media WHERE createdAt < ?', [time])) as { id: string }[];
  if (!old.length) return 0;
  const used = new Set([
    ...(await spokenOf(db, 'session', 'id', '1')),
    ...(await spokenInSteps(db)),
    ...(await spokenOf(db, 'preset_version', 'preset', 'version')),
  ]);
  const free = old.filter(({ id }) => !used.has(id));
  for (const { id } of free) {
    await transact(db, async (m) => {
      const r = (await m.query('DELETE FROM media WHERE id = ? AND createdAt < ?', [id, time])) as {
        affectedRows: number;
      };
      if (!r.affectedRows) return;
      for (const part of ['media_chunk', 'media_holder']) {
        await m.query(`DELETE FROM ${part} WHERE media = ?`, [id]);
      }
    });
  }
  return free.length;
}

/** What the steps speak of that no document has yet: more than sounds, which does no harm. */
async function spokenInSteps(db: DataSource): Promise<string[]> {
  const steps = await db.query<{ patch: string }[]>(
    'SELECT r.patch FROM session_revision r JOIN session s ON s.id = r.session AND r.revision > s.written',
  );
  return steps.flatMap(({ patch }) => patch.match(SHA256) ?? []);
}

/**
 * Every sound, file and state that the documents of a table name, and whatever else looks like one: a page of them at a
 * time, as text, since the database reads no JSON that is nested as deep as racks may be.
 */
async function spokenOf(db: DataSource, table: string, id: string, version: string): Promise<Set<string>> {
  const out = new Set<string>();
  for (let last: [string, number] = ['', 0]; ;) {
    const rows = await db.query<{ id: string; version: number; text: string }[]>(
      `SELECT ${id} AS id, ${version} AS version, CONVERT(document USING utf8mb4) AS text FROM ${table}
        WHERE ${id} >= ? AND (${id} > ? OR ${version} > ?) ORDER BY ${id}, ${version} LIMIT ${PAGE}`,
      [last[0], ...last],
    );
    for (const { text } of rows) for (const [name] of text.matchAll(SHA256)) out.add(name);
    const end = rows.at(-1);
    if (!end || rows.length < PAGE) return out;
    last = [end.id, Number(end.version)];
  }
}
