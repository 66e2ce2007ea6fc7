import { spawn } from 'node:child_process';
import { createWriteStream } from 'node:fs';
import { mkdir, readdir, rename, rm } from 'node:fs/promises';
import { join } from 'node:path';
import { pipeline } from 'node:stream/promises';
import { createGzip } from 'node:zlib';
import type { DataSource, DataSourceOptions } from 'typeorm';
import { log } from './log.ts';

/** copies that are kept */
const KEPT = 3;
const NAME = /^before update .*\.sql\.gz$/;

type Maria = Extract<DataSourceOptions, { type: 'mariadb' | 'mysql' }>;

/**
 * Copies the tables before a new version of the program changes them, as SQL, without the bytes of sounds: those are
 * kept by their hash and never changed. An empty database needs none.
 * @throws Error when the copy can't be made: nothing was changed then
 */
export async function copyFirst(db: DataSource, folder: string): Promise<void> {
  if (!(await isOld(db))) return;
  const at = new Date().toISOString().slice(0, 19).replaceAll(':', '-');
  const path = join(folder, `before update ${at}Z.sql.gz`);
  try {
    await mkdir(folder, { recursive: true, mode: 0o700 });
    await dump(db.options as Maria, `${path}.part`);
    await rename(`${path}.part`, path);
  } catch (e) {
    await rm(`${path}.part`, { force: true }).catch(() => undefined);
    const way = 'Make room in that folder, or see that mariadb-dump is installed, and start again.';
    const what = `Before the update, a copy of the tables goes to ${folder}: ${(e as Error).message}`;
    throw new Error(`${what} ${way}`, { cause: e });
  }
  log.info({ path }, 'the tables were copied before they are changed');
  const old = (await readdir(folder)).filter((name) => NAME.test(name)).sort();
  for (const name of old.slice(0, -KEPT)) await rm(join(folder, name), { force: true });
}

/** Whether there is something, and migrations that did not run yet. */
async function isOld(db: DataSource): Promise<boolean> {
  const tables = await db.query<unknown[]>("SHOW TABLES LIKE 'session'");
  if (!tables.length || !(await db.showMigrations())) return false;
  return (await db.query<unknown[]>('SELECT 1 FROM `session` LIMIT 1')).length > 0;
}

async function dump({ host, port, username, password, database }: Maria, path: string): Promise<void> {
  const name = String(database);
  const child = spawn(
    'mariadb-dump',
    [
      '--no-defaults',
      `--host=${host}`,
      `--port=${port}`,
      `--user=${username}`,
      '--single-transaction',
      '--skip-lock-tables',
      '--no-tablespaces',
      `--ignore-table=${name}.media_chunk`,
      name,
    ],
    { env: { ...process.env, MYSQL_PWD: password ?? '' }, stdio: ['ignore', 'pipe', 'pipe'] },
  );
  let said = '';
  child.stderr.on('data', (text: Buffer) => {
    said = `${said}${text.toString()}`.slice(-500);
  });
  const ended = new Promise<number | null>((resolve, reject) => {
    child.once('error', reject);
    child.once('close', resolve);
  });
  await Promise.all([pipeline(child.stdout, createGzip(), createWriteStream(path, { mode: 0o600 })), ended]);
  if ((await ended) !== 0) throw new Error(said.trim() || 'mariadb-dump ended early.');
}
