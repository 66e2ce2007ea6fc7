/** A first start, or an upgrade, that is cut off at any statement (tables can't be made in a transaction). */
import { mkdtempSync, readFileSync, readdirSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { gunzipSync } from 'node:zlib';
import type { DataSource, MigrationInterface, QueryRunner } from 'typeorm';
import { makeDataSource } from '../../server/db/data-source.ts';
import { DropRecordRow } from '../../server/db/entities.ts';
import { migrated } from '../../server/db/migrate.ts';

const open = async (): Promise<DataSource> => {
  const db = makeDataSource({ port: Number(process.env.DB_PORT ?? 33306), database: 'ropeshelf_cut' });
  await db.initialize();
  return db;
};
/** The update that was made last. */
const lastOf = async (db: DataSource) =>
  (await db.query<{ name: string }[]>('SELECT name FROM migrations ORDER BY id DESC LIMIT 1'))[0].name;
const schemaIsWhole = async (db: DataSource) =>
  expect((await db.driver.createSchemaBuilder().log()).upQueries.map((q) => q.query)).toEqual([]);

/**
 * Runs the migrations that are left, and ends as a kill would: in each migration one statement further than at the
 * last try.
 */
async function cutOff(tries: Map<string, number>): Promise<boolean> {
  const db = await open();
  for (const migration of db.migrations) {
    const name = migration.name!;
    const up = migration.up.bind(migration);
    (migration as MigrationInterface).up = (runner: QueryRunner) => {
      let left = tries.get(name) ?? 0;
      tries.set(name, left + 1);
      const counted = new Proxy(runner, {
        get: (target, key) =>
          key === 'query'
            ? (sql: string) => {
                if (left-- === 0) throw new Error('cut off here');
                return target.query(sql);
              }
            : (Reflect.get(target, key) as unknown),
      });
      return up(counted);
    };
  }
  const whole = await db.runMigrations().then(
    () => true,
    () => false,
  );
  await db.destroy();
  return whole;
}

test('cut off after any statement of any migration, the next start goes on, and in the end all is there', async () => {
  const empty = await open();
  await empty.dropDatabase();
  await empty.destroy();
  const tries = new Map<string, number>();
  let cuts = 0;
  while (!(await cutOff(tries))) cuts++;
  const db = await open();
  expect(await db.showMigrations()).toBe(false);
  await schemaIsWhole(db);
  // every table, column and index is a statement of its own
  expect(cuts).toBeGreaterThanOrEqual(12);
  expect(tries.size).toBe(db.migrations.length);
  await db.destroy();
});

test('two first starts at once: one makes the database, the other finds it made', async () => {
  const first = await open();
  await first.dropDatabase();
  const second = await open();
  let running = 0;
  const alone = async () => {
    expect(++running).toBe(1);
    await new Promise((resolve) => setTimeout(resolve, 50));
    running--;
  };
  await Promise.all([migrated(first, alone), migrated(second, alone)]);
  await schemaIsWhole(second);
  await Promise.all([first.destroy(), second.destroy()]);
});

test('an update copies the tables first, sounds aside; without an update or without anything in them there is none', async () => {
  const folder = mkdtempSync(join(tmpdir(), 'rope-shelf-copies-'));
  const db = await open();
  await db.dropDatabase();
  await migrated(db, async () => undefined, folder);
  expect(readdirSync(folder)).toEqual([]);
  await db.query(
    `INSERT INTO session (id, owner, name, revision, tempo, sampleRate, trackCount, document)
     VALUES ('s', 'owner', 'Before the update', 1, 120, 48000, 1, '{}')`,
  );
  await migrated(db, async () => undefined, folder);
  expect(readdirSync(folder)).toEqual([]);
  // back to before what drops tell was packed
  while ((await lastOf(db)) !== 'Tries1797600000000') await db.undoLastMigration();
  const record = {
    name: '«Änderung»',
    report: { ok: true, rows: [{ path: '/a' }] },
    nullTest: { picture: [1] },
  };
  await db.query(
    `INSERT INTO drop_record (id, owner, session, preset, version, record)
     VALUES ('d', 'owner', 's', 'p', 1, ?)`,
    [JSON.stringify(record)],
  );
  await db.query(
    `INSERT INTO preset (id, owner, kind, name, category, colour, currentVersion, summary, search, \`lock\`)
     VALUES ('p', 'owner', 'strip', 'Kept', '', 'x', 1, '{}', 'Kept, since «Änderung» 2', 1)`,
  );
  await db.query("INSERT INTO tag (preset, name, owner) VALUES ('p', 'old hand', 'owner')");
  const long = JSON.stringify('«Änderung» 合唱 '.repeat(5000));
  await db.query(
    "INSERT INTO session_revision (session, revision, owner, patch, back) VALUES ('s', 2, 'owner', ?, ?)",
    [long, long],
  );
  await migrated(db, async () => undefined, folder);
  // steps from before are packed, and none of their letters is another
  expect(await db.query('SELECT patch, back FROM session_revision')).toEqual([{ patch: long, back: long }]);
  const columns = await db.query<{ type: string }[]>(
    `SELECT COLUMN_TYPE AS type FROM information_schema.columns
     WHERE TABLE_SCHEMA = DATABASE() AND COLUMN_NAME IN ('patch', 'back', 'record')`,
  );
  expect(columns.map(({ type }) => type.includes('COMPRESSED'))).toEqual([true, true, true]);
  // and so are records of drops, with what a list shows of them beside them
  const [drop] = await db.getRepository(DropRecordRow).find();
  expect(drop.record).toEqual(record);
  expect(drop.summary).toEqual({ name: '«Änderung»', report: { ok: true }, nullTest: {} });
  // what was there before its words were kept is found by them, too
  const words = await db.query<{ word: string }[]>('SELECT word FROM preset_word ORDER BY word');
  expect(words.map((row) => row.word)).toEqual(['#old hand', '2', 'änderung', 'kept', 'since']);
  const [name] = readdirSync(folder);
  const text = gunzipSync(readFileSync(join(folder, name))).toString();
  expect(text).toContain('Before the update');
  expect(text).not.toContain('media_chunk');
  expect(text).toMatch(/Dump completed/);
  // a folder that cannot be: nothing is changed
  await db.undoLastMigration();
  await expect(migrated(db, async () => undefined, '/dev/null/copies')).rejects.toThrow(/copies/);
  expect(await db.showMigrations()).toBe(true);
  await db.dropDatabase();
  await db.destroy();
});
