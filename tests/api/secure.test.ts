/** TLS from given files, and the headers that tell a browser what it may do. */
import { execFileSync, fork, type ChildProcess } from 'node:child_process';
import { once } from 'node:events';
import { mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { request, type RequestOptions } from 'node:https';
import type { IncomingHttpHeaders } from 'node:http';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { DataSource } from 'typeorm';
import { addAccount } from '../../server/accounts/accounts.ts';
import { freePort, startApi } from '../support/server.ts';

const folder = mkdtempSync(join(tmpdir(), 'rope-shelf-tls-'));
const [key, cert] = ['key.pem', 'cert.pem'].map((name) => join(folder, name));
let db: DataSource;
let stop: () => Promise<void>;
let child: ChildProcess;
let port: number;

beforeAll(async () => {
  ({ db, stop } = await startApi('ropeshelf_secure'));
  await addAccount(db, 'bosun', 'nine ropes and a bell');
  const names = ['-subj', '/CN=lightship.example', '-addext', 'subjectAltName=DNS:lightship.example'];
  const made = [
    'req',
    '-x509',
    '-newkey',
    'ec',
    '-pkeyopt',
    'ec_paramgen_curve:prime256v1',
    '-nodes',
    '-days',
    '2',
  ];
  execFileSync('openssl', [...made, '-keyout', key, '-out', cert, ...names], { stdio: 'ignore' });
  port = await freePort();
  child = fork(join(process.cwd(), 'dist/node/server/main.js'), {
    stdio: ['ignore', 'ignore', 'ignore', 'ipc'],
    env: {
      ...process.env,
      DB_NAME: 'ropeshelf_secure',
      HOST: '0.0.0.0',
      HOSTS: 'lightship.example',
      TLS_CERT: cert,
      TLS_KEY: key,
      PORT: String(port),
      DEMO: 'no',
      BACKUPS: '0',
      PRINT_FOLDER: join(folder, 'prints'),
    },
  });
  await once(child, 'message');
});
afterAll(async () => {
  const gone = once(child, 'exit');
  child.kill('SIGTERM');
  await gone;
  await stop();
  rmSync(folder, { recursive: true, force: true });
});

/** Asks as a browser does that knows the certificate. */
function ask(
  path: string,
  options: RequestOptions = {},
  body = '',
): Promise<{ status: number; headers: IncomingHttpHeaders }> {
  return new Promise((done, failed) => {
    const ca = readFileSync(cert);
    const to = { host: '127.0.0.1', port, path, ca, servername: 'lightship.example', ...options };
    const headers = { host: 'lightship.example', ...options.headers };
    const r = request({ ...to, headers }, (answer) => {
      answer.resume();
      answer.on('end', () => done({ status: answer.statusCode!, headers: answer.headers }));
    });
    r.on('error', failed);
    r.end(body);
  });
}

test('over TLS: a cookie that never goes without it, and browsers are told to stay with it', async () => {
  const signIn = JSON.stringify({ name: 'bosun', password: 'nine ropes and a bell' });
  const json = { 'content-type': 'application/json', origin: 'https://lightship.example' };
  const r = await ask('/api/sign-in', { method: 'POST', headers: json }, signIn);
  expect(r.status).toBe(200);
  expect(r.headers['set-cookie']?.[0]).toMatch(
    /^__Host-rope-shelf=[\w-]+; .*HttpOnly; Secure; SameSite=Strict$/,
  );
  expect(r.headers['strict-transport-security']).toMatch(/max-age=\d{7,}/);
  await expect(ask('/api/health', { maxVersion: 'TLSv1.1' })).rejects.toThrow();
  // by its addresses, and by no other name
  expect((await ask('/api/health', { headers: { host: `127.0.0.1:${port}` } })).status).toBe(200);
  expect((await ask('/api/health', { headers: { host: 'elsewhere.example' } })).status).toBe(421);
});

test('what a browser may do with an answer (OWASP ASVS 14.4)', async () => {
  for (const path of ['/', '/api/health', '/api/sessions']) {
    const { headers } = await ask(path);
    expect(headers).toMatchObject({
      'content-type': expect.stringMatching(/charset=utf-8/i),
      'x-content-type-options': 'nosniff',
      'referrer-policy': 'no-referrer',
      'cross-origin-opener-policy': 'same-origin',
    });
    expect(headers['content-security-policy']).toMatch(/default-src 'self'.*frame-ancestors 'self'/);
    expect(headers['content-security-policy']).not.toMatch(/script-src[^;]*unsafe-inline/);
    expect(headers['x-powered-by']).toBeUndefined();
  }
});
