// MariaDB of this project: its own data folder, on 127.0.0.1 only. Usage: database.mjs start | stop | status
import { spawn, spawnSync } from 'node:child_process';
import { existsSync, mkdirSync, openSync, readFileSync, renameSync, rmSync, writeFileSync } from 'node:fs';
import { createConnection } from 'node:net';
import { join } from 'node:path';
import { tmpdir } from 'node:os';
import { createHash } from 'node:crypto';
import { DATA, fail, has, isFree, sleep } from './lib.mjs';

export const DB_PORT = Number(process.env.DB_PORT ?? 33306);
const dir = join(DATA, 'mariadb');
const pidFile = join(DATA, 'mariadb.pid');
const logFile = join(DATA, 'mariadb.log');
// socket paths over 100 bytes do not work
const wanted = join(DATA, 'mariadb.sock');
const socket =
  wanted.length < 100
    ? wanted
    : join(tmpdir(), `rope-shelf-${createHash('sha256').update(DATA).digest('hex').slice(0, 12)}.sock`);

/** The pid of our server, when the process with that pid really is ours (a pid file outlives a kill -9). */
function ourPid() {
  try {
    const pid = Number(readFileSync(pidFile, 'utf8'));
    const line = readFileSync(`/proc/${pid}/cmdline`, 'utf8');
    return line.includes(`--datadir=${dir}`) ? pid : null;
  } catch {
    return null;
  }
}

const answers = () =>
  new Promise((resolve) => {
    const c = createConnection(DB_PORT, '127.0.0.1');
    c.setTimeout(1000, () => {
      c.destroy();
      resolve(false);
    });
    c.once('data', () => {
      c.destroy();
      resolve(true);
    });
    c.once('error', () => resolve(false));
  });

export async function startDatabase({ quiet = false } = {}) {
  mkdirSync(DATA, { recursive: true });
  if (ourPid()) {
    for (let i = 0; i < 100 && ourPid(); i++) {
      if (await answers()) return;
      await sleep(100);
    }
  }
  if (!(await isFree(DB_PORT))) {
    throw new Error(
      `Port ${DB_PORT} is taken by another program, so the database cannot start. Stop it, or choose another: DB_PORT=33400 npm start`,
    );
  }
  const root = process.getuid?.() === 0;
  if (!existsSync(join(dir, 'mysql'))) {
    if (!quiet) console.log('Making the database’s data folder …');
    const init = dir + '.init';
    rmSync(init, { recursive: true, force: true });
    const r = spawnSync(
      has('mariadb-install-db') ?? 'mariadb-install-db',
      [
        '--no-defaults',
        `--datadir=${init}`,
        '--skip-test-db',
        '--skip-name-resolve',
        '--auth-root-authentication-method=socket',
        '--auth-root-socket-user=root',
        ...(root ? ['--user=root'] : []),
      ],
      { encoding: 'utf8' },
    );
    if (r.status !== 0) {
      throw new Error(
        `The database’s data folder could not be made:\n${(r.stderr || r.stdout || String(r.error)).slice(-1500)}`,
      );
    }
    rmSync(dir, { recursive: true, force: true });
    renameSync(init, dir);
  }
  rmSync(pidFile, { force: true });
  rmSync(socket, { force: true });
  const sql = join(DATA, 'mariadb-init.sql');
  writeFileSync(
    sql,
    ['ropeshelf', 'ropeshelf_test', 'ropeshelf_bench']
      .map((d) => `CREATE DATABASE IF NOT EXISTS ${d};\n`)
      .join('') +
      ["'127.0.0.1'", "'localhost'"]
        .map(
          (h) =>
            `CREATE USER IF NOT EXISTS 'ropeshelf'@${h} IDENTIFIED BY 'ropeshelf';\n` +
            ['ropeshelf', 'ropeshelf_test', 'ropeshelf_bench']
              .map((d) => `GRANT ALL ON ${d}.* TO 'ropeshelf'@${h};\n`)
              .join(''),
        )
        .join(''),
  );
  const log = openSync(logFile, 'a');
  const child = spawn(
    has('mariadbd') ?? 'mariadbd',
    [
      '--no-defaults',
      `--datadir=${dir}`,
      `--port=${DB_PORT}`,
      '--bind-address=127.0.0.1',
      `--socket=${socket}`,
      `--pid-file=${pidFile}`,
      `--init-file=${sql}`,
      '--skip-name-resolve',
      '--character-set-server=utf8mb4',
      '--collation-server=utf8mb4_unicode_ci',
      '--max-allowed-packet=64M',
      '--innodb-buffer-pool-size=256M',
      '--innodb-log-file-size=128M',
      '--innodb-ft-min-token-size=2',
      '--innodb-ft-enable-stopword=0',
      '--sql-mode=TRADITIONAL',
      '--default-time-zone=+00:00',
      '--local-infile=0',
      '--performance-schema=0',
      ...(root ? ['--user=root'] : []),
    ],
    { detached: true, stdio: ['ignore', log, log] },
  );
  let gone = false;
  child.on('exit', () => {
    gone = true;
  });
  child.on('error', () => {
    gone = true;
  });
  child.unref();
  for (let i = 0; i < 600; i++) {
    if (gone) {
      throw new Error(`The database ended while starting:\n${readFileSync(logFile, 'utf8').slice(-1500)}`);
    }
    if (ourPid() && (await answers())) return;
    await sleep(100);
  }
  throw new Error('The database did not answer within a minute.');
}

export async function stopDatabase() {
  const pid = ourPid();
  if (!pid) return;
  process.kill(pid, 'SIGTERM');
  for (let i = 0; i < 300 && ourPid() === pid; i++) await sleep(50);
}

export const databasePid = ourPid;

if (process.argv[1] === import.meta.filename) {
  const what = process.argv[2] ?? 'status';
  const status = async () => console.log(ourPid() ? `running on 127.0.0.1:${DB_PORT}` : 'not running');
  const commands = { start: startDatabase, stop: stopDatabase };
  (commands[what] ?? status)().catch(fail);
}
