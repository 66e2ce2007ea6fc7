// npm start: installs what is missing, starts MariaDB and the server, prints the address, stops both on
// Ctrl-C.
import { fork } from 'node:child_process';
import { mkdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { DATA, ROOT, ensureDebian, ensureNpm, fail, freePort, isFree, sleep } from './lib.mjs';
import { databasePid, startDatabase, stopDatabase } from './database.mjs';
import { build } from './build.mjs';

const WANTED = Number(process.env.PORT ?? 4310);
const { HOST = '127.0.0.1', TLS_CERT, TLS_KEY } = process.env;
const scheme = TLS_CERT && TLS_KEY ? 'https' : 'http';
/** where this machine reaches it: one that listens everywhere listens here, too */
const own = /^(0\.0\.0\.0|::)$/.test(HOST) ? '127.0.0.1' : HOST;
const addressOf = (port) => `${scheme}://${own.includes(':') ? `[${own}]` : own}:${port}/`;
const note = join(DATA, 'server.json');
/** the database is one that runs already, here or on another machine */
const elsewhere = Boolean(process.env.DATABASE_URL);

async function running() {
  try {
    const { port, pid } = JSON.parse(readFileSync(note, 'utf8'));
    process.kill(pid, 0);
    // over TLS the certificate is not made for this name; that its process is there has to do
    if (scheme === 'https') return port;
    const r = await fetch(`${addressOf(port)}api/health`, { signal: AbortSignal.timeout(3000) });
    return (await r.json()).app === 'rope-shelf' || r.status === 503 ? port : null;
  } catch {
    return null;
  }
}

/**
 * MB of each half of the room for what is thrown away at once. Node takes 16, and holds them as long as it lives; a
 * server that is asked now and then needs few.
 */
const YOUNG = 4;

/** Starts the server process and waits until it listens. @returns the child */
export function serve(port, env = {}) {
  return new Promise((resolve, reject) => {
    const child = fork(join(ROOT, 'dist/node/server/main.js'), [], {
      cwd: ROOT,
      execArgv: ['--enable-source-maps', `--max-semi-space-size=${YOUNG}`],
      env: { ...process.env, PORT: String(port), ROPE_SHELF_DATA: DATA, ...env },
      stdio: ['ignore', 'inherit', 'inherit', 'ipc'],
      detached: true,
    });
    const timer = setTimeout(() => {
      child.kill('SIGKILL');
      reject(new Error('The server did not answer within two minutes.'));
    }, 120000);
    child.once('message', () => {
      clearTimeout(timer);
      resolve(child);
    });
    child.once('exit', (code) => {
      clearTimeout(timer);
      reject(Object.assign(new Error(`The server ended while starting (code ${code}).`), { code }));
    });
  });
}

async function main() {
  mkdirSync(DATA, { recursive: true, mode: 0o700 });
  const already = await running();
  if (already) {
    console.log(`Rope Shelf is running already: ${addressOf(already)}`);
    return;
  }
  await ensureNpm();
  if (!elsewhere) await ensureDebian([['mariadbd', 'mariadb-server']]);
  let dbPort = elsewhere ? 0 : await startDatabase();
  await build();
  let port = WANTED;
  if (!(await isFree(port))) {
    port = await freePort(port + 1);
    console.log(`Port ${WANTED} is taken by another program; using ${port}.`);
  }
  let stopping = false;
  let child = null;
  const up = async () => {
    child = await serve(port, { DB_PORT: String(dbPort) });
    writeFileSync(note, JSON.stringify({ port, pid: child.pid }));
    child.on('exit', async (code, signal) => {
      if (stopping) return;
      console.error(`The server ended (${signal ?? code}); starting it again …`);
      await sleep(500);
      if (!stopping) await up().catch(stop);
    });
  };
  const stop = async (e) => {
    if (stopping) return;
    stopping = true;
    if (e instanceof Error) console.error(e.message);
    console.log('\nStopping …');
    if (child && child.exitCode === null) {
      const gone = new Promise((r) => child.once('exit', r));
      child.kill('SIGTERM');
      await Promise.race([gone, sleep(5000).then(() => child.kill('SIGKILL'))]);
    }
    if (!elsewhere) await stopDatabase();
    rmSync(note, { force: true });
    process.exit(e instanceof Error ? 1 : 0);
  };
  process.on('SIGINT', stop);
  process.on('SIGTERM', stop);
  process.on('SIGHUP', stop);
  await up().catch(stop);
  console.log(
    `\n  Rope Shelf is ready: ${addressOf(port)}\n  Ctrl-C stops it${elsewhere ? '' : ' and its database'}.\n`,
  );
  // a database that was killed comes back by itself; the interface keeps changes until it does
  for (;;) {
    await sleep(1500);
    if (!stopping && !elsewhere && !databasePid()) {
      console.error('The database is gone; starting it again …');
      dbPort = await startDatabase({ quiet: true }).catch((e) => {
        console.error(e.message);
        return dbPort;
      });
    }
  }
}

if (process.argv[1] === import.meta.filename) main().catch(fail);
