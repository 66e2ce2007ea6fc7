// MariaDB of this project: its own data folder, on 127.0.0.1 only. Usage: database.mjs start | stop | status
import { spawn, spawnSync } from 'node:child_process';
import {
  chmodSync,
  existsSync,
  lstatSync,
  mkdirSync,
  openSync,
  readFileSync,
  renameSync,
  rmSync,
  writeFileSync,
} from 'node:fs';
import { createConnection } from 'node:net';
import { join } from 'node:path';
import { tmpdir } from 'node:os';
import { createHash, randomBytes } from 'node:crypto';
import { DATA, fail, has, isFree, sleep } from './lib.mjs';

export const DB_PORT = Number(process.env.DB_PORT ?? 33306);
const dir = join(DATA, 'mariadb');
const pidFile = join(DATA, 'mariadb.pid');
const logFile = join(DATA, 'mariadb.log');
const lockFile = join(DATA, 'starting');
const passwordFile = join(DATA, 'db-password');
// socket paths over 100 bytes do not work
const isShort = join(DATA, 'mariadb.sock').length < 100;
const elsewhere = `rope-shelf-${createHash('sha256').update(DATA).digest('hex').slice(0, 12)}`;
const socketFolder = isShort ? DATA : join(tmpdir(), elsewhere);
const socket = join(socketFolder, 'mariadb.sock');

/** A folder that nobody else on this machine can look into. */
function privateFolder(path) {
  mkdirSync(path, { recursive: true, mode: 0o700 });
  const found = lstatSync(path);
  if (!found.isDirectory() || found.uid !== process.getuid()) {
    throw new Error(`${path} belongs to somebody else, so the database cannot lie there. Take it away.`);
  }
  chmodSync(path, 0o700);
}

/** The database's password: made by chance once, readable for this account only. */
function password() {
  if (!existsSync(passwordFile)) {
    writeFileSync(passwordFile, randomBytes(24).toString('hex'), { mode: 0o600 });
  }
  chmodSync(passwordFile, 0o600);
  return readFileSync(passwordFile, 'utf8').trim();
}

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

/** The port that our running server listens on: a start before may have asked for another. */
function portOf(pid) {
  const line = readFileSync(`/proc/${pid}/cmdline`, 'utf8');
  return Number(/--port=(\d+)/.exec(line)?.[1] ?? DB_PORT);
}

const answers = (port) =>
  new Promise((resolve) => {
    const c = createConnection(port, '127.0.0.1');
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

/** This account, also where a container runs everything as root: the server refuses that unless told. */
const asRoot = process.getuid?.() === 0 ? ['--user=root'] : [];
/** The program's own, and one for each test file that needs one to itself. */
const TESTS = [
  'test',
  'bench',
  'cut',
  'doors',
  'tidy',
  'prints',
  'history',
  'likeness',
  'lists',
  'files',
  'packs',
  'keeping',
  'several',
  'near',
  'cluster',
  'accounts',
  'people',
  'secure',
  'openapi',
  'size_1000',
  'size_10000',
  'size_100000',
];
const DATABASES = ['ropeshelf', ...TESTS.map((name) => `ropeshelf_${name}`)];
/** ms between two looks whether the server answers, and how often is looked */
const LOOK_EVERY = 100;
const LOOKS = 600;

/** Makes the data folder beside its place first, so that one that was cut off is never taken for whole. */
function makeDataFolder() {
  const init = dir + '.init';
  rmSync(init, { recursive: true, force: true });
  const made = spawnSync(
    has('mariadb-install-db') ?? 'mariadb-install-db',
    [
      '--no-defaults',
      `--datadir=${init}`,
      '--skip-test-db',
      '--skip-name-resolve',
      '--auth-root-authentication-method=socket',
      '--auth-root-socket-user=root',
      ...asRoot,
    ],
    { encoding: 'utf8' },
  );
  if (made.status !== 0) {
    const said = (made.stderr || made.stdout || String(made.error)).slice(-1500);
    throw new Error(`The database’s data folder could not be made:\n${said}`);
  }
  rmSync(dir, { recursive: true, force: true });
  renameSync(init, dir);
}

/** What the server runs at each start: our databases and our account. */
function writeInit() {
  const file = join(DATA, 'mariadb-init.sql');
  const secret = password();
  const make = DATABASES.map((name) => `CREATE DATABASE IF NOT EXISTS ${name};\n`);
  const accounts = ["'127.0.0.1'", "'localhost'"].flatMap((host) => [
    `CREATE USER IF NOT EXISTS 'ropeshelf'@${host} IDENTIFIED BY '${secret}';\n`,
    // a database from before, or a file that was taken away
    `ALTER USER 'ropeshelf'@${host} IDENTIFIED BY '${secret}';\n`,
    ...DATABASES.map((name) => `GRANT ALL ON ${name}.* TO 'ropeshelf'@${host};\n`),
  ]);
  writeFileSync(file, [...make, ...accounts].join(''), { mode: 0o600 });
  chmodSync(file, 0o600);
  return file;
}

/** Starts the server apart from this process; `gone()` says whether it ended. */
function spawnServer() {
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
      `--init-file=${writeInit()}`,
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
      ...asRoot,
    ],
    { detached: true, stdio: ['ignore', log, log] },
  );
  let gone = false;
  for (const event of ['exit', 'error']) {
    child.on(event, () => {
      gone = true;
    });
  }
  child.unref();
  return () => gone;
}

/** The port of our server if it runs: one that was left by a start that was killed, or another's that goes on. */
async function runningPort() {
  for (let look = 0; look < LOOKS / 6; look++) {
    const pid = ourPid();
    if (!pid) return null;
    const port = portOf(pid);
    if (existsSync(passwordFile) && (await answers(port))) return port;
    await sleep(LOOK_EVERY);
  }
  const pid = ourPid();
  if (!pid) return null;
  throw new Error(
    `The database of ${DATA} runs (process ${pid}) and does not answer. End it with “kill ${pid}” and start again.`,
  );
}

/** Whether the start that holds the lock still goes on. */
function isStarting() {
  try {
    const pid = Number(readFileSync(lockFile, 'utf8'));
    return pid > 0 && readFileSync(`/proc/${pid}/cmdline`, 'utf8').includes('node');
  } catch {
    return false;
  }
}

/** One start at a time: two at once would make the same data folder. */
async function alone(task) {
  for (;;) {
    try {
      writeFileSync(lockFile, String(process.pid), { flag: 'wx' });
      break;
    } catch {
      if (!isStarting()) rmSync(lockFile, { force: true });
      await sleep(LOOK_EVERY);
    }
  }
  try {
    return await task();
  } finally {
    rmSync(lockFile, { force: true });
  }
}

/**
 * Starts the database, or finds it running; makes its data folder the first time.
 * @returns the port that it listens on: of a running one, its own
 */
export function startDatabase(options = {}) {
  privateFolder(DATA);
  privateFolder(socketFolder);
  return alone(() => startNow(options));
}

async function startNow({ quiet = false }) {
  const running = await runningPort();
  if (running) return running;
  if (!(await isFree(DB_PORT))) {
    throw new Error(
      `Port ${DB_PORT} is taken by another program, so the database cannot start. Stop it, or choose another: DB_PORT=33400 npm start`,
    );
  }
  if (!existsSync(join(dir, 'mysql'))) {
    if (!quiet) console.log('Making the database’s data folder …');
    makeDataFolder();
  }
  rmSync(pidFile, { force: true });
  rmSync(socket, { force: true });
  const gone = spawnServer();
  for (let look = 0; look < LOOKS; look++) {
    if (gone()) {
      throw new Error(`The database ended while starting:\n${readFileSync(logFile, 'utf8').slice(-1500)}`);
    }
    if (ourPid() && (await answers(DB_PORT))) return DB_PORT;
    await sleep(LOOK_EVERY);
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
  const status = async () =>
    console.log(ourPid() ? `running on 127.0.0.1:${portOf(ourPid())}` : 'not running');
  const commands = { start: startDatabase, stop: stopDatabase };
  (commands[what] ?? status)().catch(fail);
}
