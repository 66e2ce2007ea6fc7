// What the commands share: paths, running programs, installing what a bare Debian machine lacks, finding a
// free port.
import { spawn } from 'node:child_process';
import { existsSync, readFileSync, writeFileSync, mkdirSync } from 'node:fs';
import { createHash } from 'node:crypto';
import { createServer } from 'node:net';
import { dirname, join } from 'node:path';

export const ROOT = dirname(import.meta.dirname);
export const DATA = process.env.ROPE_SHELF_DATA ?? join(ROOT, '.data');

export function fail(e) {
  const told = process.env.DEBUG ? e?.stack : e?.message;
  console.error(e instanceof Error ? told : e);
  process.exit(1);
}

/** Runs a program in the project's folder; rejects with its output when it fails. */
export function run(command, args, { quiet = false, env = {}, cwd = ROOT } = {}) {
  return new Promise((resolve, reject) => {
    const child = spawn(command, args, {
      cwd,
      env: { ...process.env, ...env },
      stdio: quiet ? ['ignore', 'pipe', 'pipe'] : ['ignore', 'inherit', 'inherit'],
    });
    let out = '';
    child.stdout?.on('data', (d) => {
      out += d;
    });
    child.stderr?.on('data', (d) => {
      out += d;
    });
    child.on('error', reject);
    child.on('exit', (code) =>
      code === 0
        ? resolve(out)
        : reject(new Error(`${command} ${args.join(' ')} ended with ${code}.\n${out.slice(-4000)}`)),
    );
  });
}

export const has = (program) =>
  ['/usr/bin', '/usr/sbin', '/usr/local/bin', '/bin', '/sbin']
    .map((d) => join(d, program))
    .find(existsSync) ?? null;

/** Installs npm packages when node_modules does not match the lock file. */
export async function ensureNpm() {
  const lock = readFileSync(join(ROOT, 'package-lock.json'));
  const mark = join(ROOT, 'node_modules', '.rope-shelf-lock');
  const hash = createHash('sha256').update(lock).digest('hex');
  if (existsSync(mark) && readFileSync(mark, 'utf8') === hash) return;
  console.log('Installing npm packages …');
  await run('npm', ['ci', '--no-audit', '--no-fund', '--loglevel=error'], { quiet: true });
  mkdirSync(dirname(mark), { recursive: true });
  writeFileSync(mark, hash);
}

/** Installs Debian packages for programs that are missing: [[program, package], …]. */
export async function ensureDebian(wanted) {
  const missing = wanted.filter(([program]) => !has(program)).map(([, pkg]) => pkg);
  if (missing.length === 0) return;
  const names = [...new Set(missing)];
  const root = process.getuid?.() === 0;
  const sudo = root ? null : has('sudo');
  if (!has('apt-get') || (!root && !sudo)) {
    throw new Error(
      `Please install ${names.join(', ')} first (on Debian: apt-get install ${names.join(' ')}).`,
    );
  }
  console.log(`Installing ${names.join(', ')} from Debian’s packages …`);
  const env = { DEBIAN_FRONTEND: 'noninteractive' };
  const apt = (args) =>
    run(root ? 'apt-get' : sudo, root ? args : ['-n', 'apt-get', ...args], { quiet: true, env });
  await apt(['update', '-qq']);
  await apt(['install', '-y', '-qq', '--no-install-recommends', ...names]);
}

export const isFree = (port) =>
  new Promise((resolve) => {
    const s = createServer();
    s.once('error', () => resolve(false));
    s.listen(port, '127.0.0.1', () => s.close(() => resolve(true)));
  });

export async function freePort(from) {
  for (let p = from; p < from + 200; p++) if (await isFree(p)) return p;
  throw new Error(`No free port between ${from} and ${from + 199}.`);
}

export const sleep = (ms) => new Promise((r) => setTimeout(r, ms));

/** MB that a process holds in memory now. */
export function memoryOf(pid) {
  const [, kb] = /VmRSS:\s+(\d+)/.exec(readFileSync(`/proc/${pid}/status`, 'utf8'));
  return Number(kb) / 1000;
}
