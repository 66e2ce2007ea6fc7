// npm start as it is: first run, second run, a port in use, kill -9 of server and database, a damaged build,
// Ctrl-C. In its own data folder.
import assert from 'node:assert/strict';
import { spawn } from 'node:child_process';
import { existsSync, mkdtempSync, readFileSync, readdirSync, rmSync, statSync } from 'node:fs';
import { createServer } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { after, test } from 'node:test';
import { freePort } from '../../scripts/lib.mjs';

const root = join(import.meta.dirname, '../..');
const data = mkdtempSync(join(tmpdir(), 'rope-shelf-start-'));
const PORT = await freePort(4990);
const DB_PORTS = [await freePort(33990), await freePort(34090), await freePort(34190)];
const base = `http://127.0.0.1:${PORT}`;
const env = { ...process.env, ROPE_SHELF_DATA: data, DB_PORT: String(DB_PORTS[0]), PORT: String(PORT) };
const running = new Set();
after(() => {
  for (const c of running) c.kill('SIGKILL');
  try {
    process.kill(Number(readFileSync(join(data, 'mariadb.pid'), 'utf8')));
  } catch {
    /* stopped */
  }
  rmSync(data, { recursive: true, force: true, maxRetries: 10, retryDelay: 300 });
});

/** Starts it and waits for a line; gives the process and what it has said. */
function start(until, more = {}) {
  const child = spawn(process.execPath, ['scripts/start.mjs'], {
    cwd: root,
    env: { ...env, ...more },
    stdio: ['ignore', 'pipe', 'pipe'],
  });
  running.add(child);
  const said = { text: '' };
  return new Promise((resolve, reject) => {
    const timer = setTimeout(() => reject(new Error(`not said: ${until}\n${said.text}`)), 120000);
    const hear = (d) => {
      said.text += d;
      if (until.test(said.text)) {
        clearTimeout(timer);
        resolve({
          child,
          said,
          exit: new Promise((r) => {
            if (child.exitCode !== null) r(child.exitCode);
            child.once('exit', (c) => {
              running.delete(child);
              r(c);
            });
          }),
        });
      }
    };
    child.stdout.on('data', hear);
    child.stderr.on('data', hear);
    child.once('exit', (code) => {
      clearTimeout(timer);
      reject(new Error(`ended with ${code}:\n${said.text}`));
    });
  });
}
const health = async (port = PORT) => {
  try {
    return (await (await fetch(`http://127.0.0.1:${port}/api/health`)).json()).app;
  } catch {
    return null;
  }
};
const names = async (port = PORT) => {
  try {
    return (await (await fetch(`http://127.0.0.1:${port}/api/sessions`)).json()).items
      .map((s) => s.name)
      .sort();
  } catch {
    return [];
  }
};
async function until(what, f, ms = 60000) {
  for (const end = Date.now() + ms; Date.now() < end;) {
    const found = await f();
    if (found) return found;
    await new Promise((r) => setTimeout(r, 150));
  }
  throw new Error('waited for ' + what);
}
const READY = /is ready: http:\/\/127\.0\.0\.1:(\d+)/;
let app;

test('the first run makes its data folder, puts the demo in and prints the address', async () => {
  app = await start(READY);
  assert.equal(await health(), 'rope-shelf');
  assert.deepEqual(await names(), [
    'Kelp and Copper',
    'Lantern Room',
    'Lantern Room, first try',
    'Ninth Wave Out',
  ]);
  const page = await (await fetch(`${base}/session/kelp-and-copper`)).text();
  assert.match(page, /<div id="app">/);
});

test('a second run while it runs says where it is', async () => {
  const second = await start(new RegExp(`running already: ${base}`));
  assert.equal(await second.exit, 0);
  assert.equal(await health(), 'rope-shelf');
});

test('a database that is killed comes back by itself, and the server with it', async () => {
  const pid = Number(readFileSync(join(data, 'mariadb.pid'), 'utf8'));
  process.kill(pid, 'SIGKILL');
  const r = await fetch(`${base}/api/sessions`);
  assert.ok([200, 503].includes(r.status));
  await until('the database', async () => (await names()).length === 4);
  assert.match(app.said.text, /database is gone; starting it again/);
});

test('a server that is killed in the middle of a print is started again, and prints it to its end', async () => {
  const songs = Array.from({ length: 6 }, () => ({ session: 'kelp-and-copper' }));
  const asked = await fetch(`${base}/api/jobs`, {
    method: 'POST',
    headers: { 'Content-Type': 'application/json' },
    body: JSON.stringify({ songs }),
  });
  const { id } = await asked.json();
  const job = async () => (await fetch(`${base}/api/jobs/${id}`)).json();
  await until('the print to be under way', async () => (await job()).progress > 0.1);
  const { pid } = JSON.parse(readFileSync(join(data, 'server.json'), 'utf8'));
  process.kill(pid, 'SIGKILL');
  await until(
    'the server',
    async () =>
      (await health()) === 'rope-shelf' &&
      JSON.parse(readFileSync(join(data, 'server.json'), 'utf8')).pid !== pid,
  );
  assert.deepEqual(await names(), [
    'Kelp and Copper',
    'Lantern Room',
    'Lantern Room, first try',
    'Ninth Wave Out',
  ]);
  const done = await until('the print', async () => {
    const now = await job();
    return now.state === 'done' && now;
  });
  assert.equal(done.printed.length, 6);
  // of the attempt that was cut off nothing is left
  assert.deepEqual(readdirSync(join(data, 'prints')), [id]);
});

test('kill -9 of everything at once: the next start has it all again', async () => {
  const { pid } = JSON.parse(readFileSync(join(data, 'server.json'), 'utf8'));
  app.child.kill('SIGKILL');
  process.kill(pid, 'SIGKILL');
  process.kill(Number(readFileSync(join(data, 'mariadb.pid'), 'utf8')), 'SIGKILL');
  await app.exit;
  await until('the port to be free', async () => (await health()) === null);
  app = await start(READY);
  assert.deepEqual(await names(), [
    'Kelp and Copper',
    'Lantern Room',
    'Lantern Room, first try',
    'Ninth Wave Out',
  ]);
});

test('kill -9 of all but the database, and another port for it next: the one that runs is used', async () => {
  const { pid } = JSON.parse(readFileSync(join(data, 'server.json'), 'utf8'));
  const database = Number(readFileSync(join(data, 'mariadb.pid'), 'utf8'));
  app.child.kill('SIGKILL');
  process.kill(pid, 'SIGKILL');
  await app.exit;
  await until('the port to be free', async () => (await health()) === null);
  app = await start(READY, { DB_PORT: String(DB_PORTS[1]) });
  assert.equal((await names()).length, 4);
  assert.equal(Number(readFileSync(join(data, 'mariadb.pid'), 'utf8')), database);
});

test('the data folder, the database’s password and its socket are for this account only', () => {
  const mode = (path) => (statSync(path).mode & 0o777).toString(8);
  const secret = join(data, 'db-password');
  assert.deepEqual([mode(data), mode(secret), mode(join(data, 'mariadb-init.sql'))], ['700', '600', '600']);
  assert.match(readFileSync(secret, 'utf8'), /^[0-9a-f]{48}$/);
  assert.ok(existsSync(join(data, 'mariadb.sock')));
});

test('two first starts of the database at once: one makes it, both find it', async () => {
  const fresh = mkdtempSync(join(tmpdir(), 'rope-shelf-twice-'));
  const own = { ...process.env, ROPE_SHELF_DATA: fresh, DB_PORT: String(DB_PORTS[2]) };
  const run = (what) =>
    new Promise((resolve) => {
      const child = spawn(process.execPath, ['scripts/database.mjs', what], { cwd: root, env: own });
      let text = '';
      for (const s of [child.stdout, child.stderr]) s.on('data', (d) => (text += d));
      child.once('exit', (code) => resolve(`${code} ${text.trim()}`));
    });
  const said = await Promise.all([run('start'), run('start')]);
  assert.deepEqual(said.map((t) => t.trim()).sort(), ['0', '0 Making the database’s data folder …']);
  assert.equal(await run('status'), `0 running on 127.0.0.1:${DB_PORTS[2]}`);
  await run('stop');
  rmSync(fresh, { recursive: true, force: true, maxRetries: 10, retryDelay: 300 });
});

test('Ctrl-C stops the server and the database', async () => {
  app.child.kill('SIGINT');
  assert.equal(await app.exit, 0);
  assert.equal(await health(), null);
  assert.equal(existsSync(join(data, 'mariadb.pid')), false);
});

test('a port in use by another program: the next free one is taken and said; a database port in use: a way out is said', async () => {
  const other = createServer().listen(PORT, '127.0.0.1');
  app = await start(READY);
  const port = Number(READY.exec(app.said.text)[1]);
  assert.notEqual(port, PORT);
  assert.match(app.said.text, new RegExp(`Port ${PORT} is taken by another program`));
  assert.equal(await health(port), 'rope-shelf');
  app.child.kill('SIGINT');
  await app.exit;
  other.close();
  const db = createServer().listen(DB_PORTS[0], '127.0.0.1');
  await assert.rejects(
    start(READY),
    new RegExp(`Port ${DB_PORTS[0]} is taken by another program.*DB_PORT=`, 's'),
  );
  db.close();
});
