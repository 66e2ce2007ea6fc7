/** A database elsewhere that is reached by TLS: one of its own, with certificates made for the test. */
import { execFileSync, fork, spawn, spawnSync, type ChildProcess } from 'node:child_process';
import { once } from 'node:events';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { connected } from '../../server/db/data-source.ts';
import { UserRow } from '../../server/db/entities.ts';
import { unfitSettings } from '../../server/db/settings.ts';
import { freePort } from '../support/server.ts';

const folder = mkdtempSync(join(tmpdir(), 'rope-shelf-db-tls-'));
const at = (name: string) => join(folder, name);
const PASSWORD = 'a p@ss/word: ü';
const asRoot = process.getuid?.() === 0 ? ['--user=root'] : [];
let port: number;
let server: ChildProcess;

/** A certificate that vouches for itself, made out to a host. */
function certificate(name: string, host: string): void {
  const made = ['req', '-x509', '-newkey', 'ec', '-pkeyopt', 'ec_paramgen_curve:prime256v1', '-nodes'];
  const names = ['-days', '2', '-subj', `/CN=${host}`, '-addext', `subjectAltName=DNS:${host}`];
  const files = ['-keyout', at(`${name}.key`), '-out', at(`${name}.pem`)];
  execFileSync('openssl', [...made, ...names, ...files], { stdio: 'ignore' });
}

/** Starts the database with a certificate; it lets nobody in without TLS. */
async function start(name: string): Promise<void> {
  server = spawn(
    'mariadbd',
    [
      '--no-defaults',
      `--datadir=${at('data')}`,
      `--port=${port}`,
      '--bind-address=127.0.0.1',
      `--socket=${at('db.sock')}`,
      `--pid-file=${at('db.pid')}`,
      `--init-file=${at('init.sql')}`,
      `--ssl_cert=${at(`${name}.pem`)}`,
      `--ssl_key=${at(`${name}.key`)}`,
      '--require_secure_transport=ON',
      '--innodb-ft-min-token-size=2',
      '--innodb-ft-enable-stopword=0',
      // nothing of this may be seen in what the program keeps
      '--default-time-zone=+05:00',
      '--sql-mode=',
      '--character-set-server=latin1',
      ...asRoot,
    ],
    { stdio: ['ignore', 'ignore', 'pipe'] },
  );
  let said = '';
  for await (const part of server.stderr!) {
    said += String(part);
    if (said.includes('ready for connections')) break;
  }
  server.stderr!.resume();
}
async function end(): Promise<void> {
  const gone = once(server, 'exit');
  server.kill('SIGTERM');
  await gone;
}

beforeAll(async () => {
  port = await freePort();
  for (const [name, host] of [
    ['own', 'localhost'],
    ['other', 'localhost'],
    ['elsewhere', 'lightship.example'],
  ]) {
    certificate(name, host);
  }
  const made = ['--no-defaults', `--datadir=${at('data')}`, '--skip-test-db', ...asRoot];
  expect(spawnSync('mariadb-install-db', made, { stdio: 'ignore' }).status).toBe(0);
  const user = `'studio'@'%' IDENTIFIED BY '${PASSWORD}'`;
  const init = [
    'CREATE DATABASE IF NOT EXISTS shelf',
    `CREATE USER IF NOT EXISTS ${user}`,
    "GRANT ALL ON shelf.* TO 'studio'@'%'",
  ];
  writeFileSync(at('init.sql'), init.map((line) => `${line};\n`).join(''));
  await start('own');
});
afterAll(async () => {
  await end();
  rmSync(folder, { recursive: true, force: true });
  delete process.env.DATABASE_URL;
});

const urlWith = (ca: string | null, host = 'localhost', password = PASSWORD) =>
  `mysql://studio:${encodeURIComponent(password)}@${host}:${port}/shelf${ca ? `?ca=${at(ca)}` : ''}`;
/** What comes of it: “in” for who was let in, which is nobody without TLS. */
async function tried(url: string): Promise<string> {
  process.env.DATABASE_URL = url;
  try {
    const db = await connected();
    await db.destroy();
    return 'in';
  } catch (e) {
    return (e as Error).message;
  }
}

test('the connection is encrypted, and only with a database that its certificate vouches for', async () => {
  expect(await tried(urlWith('own.pem'))).toBe('in');
  expect(await tried(urlWith('other.pem'))).toMatch(/is not trusted: .*“ca” names the certificate/);
  expect(await tried(urlWith('gone.pem'))).toMatch(/no file .*gone\.pem.*“ca” names/);
  expect(await tried(urlWith(null))).toMatch(/refuses the user .*\?ca=/);
  expect(await tried(urlWith('own.pem', 'localhost', 'wrong'))).toMatch(/refuses the user/);
});

/** Its time zone, its leniency and its letters are others: moments are in UTC, nothing is cut, any letter is kept. */
async function hasOurSettings(): Promise<void> {
  process.env.DATABASE_URL = urlWith('own.pem');
  const db = await connected();
  try {
    const users = db.getRepository(UserRow);
    await users.insert({ id: 'sailor', name: 'Möwe 鴎 🪢' });
    const { name, createdAt } = await users.findOneByOrFail({ id: 'sailor' });
    expect(name).toBe('Möwe 鴎 🪢');
    expect(Math.abs(Date.now() - createdAt.getTime())).toBeLessThan(600_000);
    await expect(users.insert({ id: 'other', name: 'x'.repeat(201) })).rejects.toThrow('too long');
    const unfit = await unfitSettings(db);
    expect(unfit).toEqual([
      expect.stringMatching(/more than 16 MB cannot be kept: .*max_allowed_packet=64M/),
    ]);
  } finally {
    await db.destroy();
  }
}

test('the whole program runs on it; one that is not the host that was asked for is not trusted', async () => {
  const env = { ...process.env, DATABASE_URL: urlWith('own.pem'), DEMO: 'no', BACKUPS: '0' };
  const own = { PORT: String(await freePort()), ROPE_SHELF_DATA: at('program') };
  const main = join(process.cwd(), 'dist/node/server/main.js');
  const program = fork(main, { stdio: ['ignore', 'ignore', 'ignore', 'ipc'], env: { ...env, ...own } });
  await once(program, 'message');
  const health = await fetch(`http://127.0.0.1:${own.PORT}/api/health`);
  const gone = once(program, 'exit');
  program.kill('SIGTERM');
  await gone;
  expect(health.status).toBe(200);
  await hasOurSettings();

  await end();
  await start('elsewhere');
  expect(await tried(urlWith('elsewhere.pem'))).toMatch(/is not trusted: .*made out to that host/);
});

test('a database that does not answer, and an address that is none, are said in words', async () => {
  const nobody = await freePort();
  const url = `mysql://studio:x@127.0.0.1:${nobody}/shelf`;
  expect(await tried(url)).toMatch(
    new RegExp(`127\\.0\\.0\\.1:${nobody} does not answer .*Look at DATABASE_URL`),
  );
  expect(await tried('somewhere')).toMatch(/must look like mysql:/);
});
