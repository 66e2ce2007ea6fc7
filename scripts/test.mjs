// npm test: type check, lint, unit, reference and API tests on a throw-away MariaDB, and the real interface
// in Chromium. Ends with "N passed, N failed".
// Parts can be named: npm test -- format types lint unit browser [words of a browser file's name]
import { spawn } from 'node:child_process';
import { mkdtempSync, readFileSync, readdirSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';

process.env.ROPE_SHELF_DATA = mkdtempSync(join(tmpdir(), 'rope-shelf-test-'));
const { ROOT, DATA, ensureDebian, ensureNpm, fail, freePort, run } = await import('./lib.mjs');
process.env.DB_PORT = String(await freePort(33400));
const { startDatabase, stopDatabase } = await import('./database.mjs');

const PARTS = ['format', 'types', 'lint', 'unit', 'browser'];
const args = process.argv.slice(2);
const parts = PARTS.filter((p) => args.includes(p));
const words = args.filter((a) => !PARTS.includes(a));
const wanted = parts.length ? parts : PARTS;
const total = { passed: 0, failed: 0 };
const began = Date.now();

function count(name, passed, failed) {
  total.passed += passed;
  total.failed += failed;
  console.log(
    `— ${name}: ${passed} passed, ${failed} failed (${Math.round((Date.now() - began) / 1000)} s so far)\n`,
  );
}

/** Ids of the programs that were started here: each leads a process group, in which whatever it starts stays. */
const started = new Set();

/** Ends what is left of the programs that were started here, by their ids. */
function endStarted() {
  for (const pid of started) {
    try {
      process.kill(-pid, 'SIGKILL');
    } catch {
      /* all of the group is gone already */
    }
  }
  started.clear();
}

/** Runs a program with its output shown; gives its exit code. */
const show = (command, list, env = {}) =>
  new Promise((resolve) => {
    const child = spawn(command, list, {
      cwd: ROOT,
      stdio: ['ignore', 'inherit', 'inherit'],
      env: { ...process.env, ...env },
      detached: true,
    });
    if (child.pid) started.add(child.pid);
    child.on('error', () => resolve(1));
    child.on('exit', (code) => resolve(code ?? 1));
  });

/** A program of node_modules that passes or fails as a whole. */
async function step(name, list) {
  const passed = (await show(process.execPath, list)) === 0;
  count(name, passed ? 1 : 0, passed ? 0 : 1);
}

async function typeChecks() {
  const { types } = await import('./types.mjs');
  try {
    count('type checks', await types(), 0);
  } catch (e) {
    console.error(e.message);
    count('type checks', 0, 1);
  }
}

async function unit() {
  // threads of the server run what was built, and a server that is asked for its page has to have one
  await (await import('./build.mjs')).build({ quiet: true });
  const out = join(DATA, 'jest.json');
  await show(process.execPath, [
    'node_modules/jest/bin/jest.js',
    '--json',
    `--outputFile=${out}`,
    '--silent=false',
    '--maxWorkers=2',
    ...words,
  ]);
  try {
    const r = JSON.parse(readFileSync(out, 'utf8'));
    count('unit, reference and API tests', r.numPassedTests, r.numFailedTests + r.numRuntimeErrorTestSuites);
  } catch {
    count('unit, reference and API tests', 0, 1);
  }
}

/** A browser test file once: what it counted, and whether Chromium ended a page of it. */
async function browserFile(file, base) {
  const tap = join(DATA, `${file}.tap`);
  const list = [
    '--test',
    '--test-reporter=spec',
    '--test-reporter-destination=stdout',
    '--test-reporter=tap',
    `--test-reporter-destination=${tap}`,
    join('tests/browser', file),
  ];
  await show(process.execPath, list, { BASE: base });
  const text = readFileSync(tap, 'utf8');
  const n = (word) => Number(new RegExp(`^# ${word} (\\d+)`, 'm').exec(text)?.[1] ?? 0);
  const [passed, failed] = [n('pass'), n('fail') + n('cancelled')];
  return { passed, failed: passed + failed === 0 ? 1 : failed, isEnded: text.includes('tab crashed') };
}

/**
 * All browser test files. Chromium ends one of some hundred pages by a check of its own on its audio thread: such a file
 * is run a second time, and what it says then counts.
 */
async function browserFiles(base) {
  const files = readdirSync(join(ROOT, 'tests/browser')).filter(
    (f) => f.endsWith('.browser.mjs') && words.every((w) => f.includes(w)),
  );
  for (const file of files) {
    let result = await browserFile(file, base);
    if (result.isEnded) {
      console.log(`— ${file}: Chromium ended a page of it; once more from the start`);
      result = await browserFile(file, base);
    }
    count(`browser tests, ${file}`, result.passed, result.failed);
  }
}

async function browser() {
  const { build } = await import('./build.mjs');
  await build();
  await run(
    process.execPath,
    ['node_modules/@swc/cli/bin/swc.js', 'tests/support', '-d', 'dist/node', '--quiet'],
    { quiet: true },
  );
  const { serve } = await import('./start.mjs');
  const port = await freePort(4700);
  const child = await serve(port);
  try {
    await browserFiles(`http://127.0.0.1:${port}`);
  } finally {
    const gone = new Promise((r) => child.once('exit', r));
    child.kill('SIGTERM');
    await Promise.race([gone, new Promise((r) => setTimeout(r, 5000))]);
  }
}

async function main() {
  await ensureNpm();
  await ensureDebian([
    ['mariadbd', 'mariadb-server'],
    ['chromium', 'chromium'],
    ['chromedriver', 'chromium-driver'],
    ['pulseaudio', 'pulseaudio'],
    ['pactl', 'pulseaudio-utils'],
    ['ffprobe', 'ffmpeg'],
    ['pdftotext', 'poppler-utils'],
    ['sox', 'sox'],
    ['zip', 'zip'],
    ['openssl', 'openssl'],
    ['unzip', 'unzip'],
  ]);
  await (await import('./kernels.mjs')).kernels();
  try {
    if (wanted.includes('format')) {
      await step('format', [
        'node_modules/prettier/bin/prettier.cjs',
        '--check',
        '**/*.{ts,vue,mjs}',
        '--log-level',
        'warn',
      ]);
    }
    if (wanted.includes('types')) await typeChecks();
    if (wanted.includes('lint')) await step('lint', ['node_modules/eslint/bin/eslint.js', '.']);
    if (wanted.includes('unit') || wanted.includes('browser')) await startDatabase({ quiet: true });
    if (wanted.includes('unit')) await unit();
    if (wanted.includes('browser')) await browser();
  } finally {
    await stopDatabase().catch(() => undefined);
    endStarted();
    rmSync(DATA, { recursive: true, force: true, maxRetries: 5 });
  }
  console.log(`${total.passed} passed, ${total.failed} failed`);
  process.exit(total.failed || !total.passed ? 1 : 0);
}

for (const s of ['SIGINT', 'SIGTERM']) {
  process.on(s, () => {
    endStarted();
    void stopDatabase().finally(() => process.exit(130));
  });
}
main().catch(fail);
