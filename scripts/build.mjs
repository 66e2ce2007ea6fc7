// Builds what `npm start`, the bench and the screenshots run: the server and the core by swc, the interface
// by Vite. Skips a part whose sources did not change.
import { createHash } from 'node:crypto';
import { existsSync, mkdirSync, readFileSync, readdirSync, rmSync, statSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { kernels } from './kernels.mjs';
import { ROOT, fail, run } from './lib.mjs';

const SOURCES = {
  node: ['core', 'contract', 'server', 'demo', '.swcrc', 'package-lock.json'],
  client: ['core', 'contract', 'web', 'docs/guide.md', 'index.html', 'vite.config.ts', 'package-lock.json'],
};

function stamp(paths) {
  const h = createHash('sha256');
  const walk = (p) => {
    const s = statSync(p);
    if (s.isDirectory()) for (const f of readdirSync(p).sort()) walk(join(p, f));
    else if (!p.endsWith('.test.ts')) h.update(p.slice(ROOT.length)).update(readFileSync(p));
  };
  for (const p of paths) if (existsSync(join(ROOT, p))) walk(join(ROOT, p));
  return h.digest('hex');
}

/** @returns true when something was built */
export async function build({ force = false, parts = ['node', 'client'], quiet = false } = {}) {
  await kernels();
  let built = false;
  for (const part of parts) {
    const out = join(ROOT, 'dist', part);
    const mark = join(ROOT, 'dist', `${part}.stamp`);
    const now = stamp(SOURCES[part]);
    if (!force && existsSync(out) && existsSync(mark) && readFileSync(mark, 'utf8') === now) continue;
    if (!quiet) console.log(part === 'node' ? 'Building the server …' : 'Building the interface …');
    rmSync(out, { recursive: true, force: true });
    mkdirSync(join(ROOT, 'dist'), { recursive: true });
    if (part === 'node') {
      await run(
        process.execPath,
        [
          'node_modules/@swc/cli/bin/swc.js',
          'core',
          'contract',
          'server',
          'demo',
          '-d',
          'dist/node',
          '--quiet',
        ],
        { quiet: true },
      );
    } else {
      await run(process.execPath, ['node_modules/vite/bin/vite.js', 'build', '--logLevel', 'warn'], {
        quiet: true,
      });
    }
    writeFileSync(mark, now);
    built = true;
  }
  return built;
}

if (process.argv[1] === import.meta.filename) build({ force: process.argv.includes('--force') }).catch(fail);
