// npm run soak [runs]: the properties of the drop engine and of all remedies over tens of thousands of generated sessions and
// presets.
import { spawnSync } from 'node:child_process';
import { ROOT, ensureNpm, fail } from './lib.mjs';

async function main() {
  await ensureNpm();
  await (await import('./kernels.mjs')).kernels();
  const runs = Number(process.argv[2] ?? 20000);
  console.log(`${runs} cases for each property; this takes a while.`);
  const r = spawnSync(
    'node',
    [
      'node_modules/jest/bin/jest.js',
      'core/drop/properties',
      'core/drop/choices',
      'core/check/remedies',
      '--testTimeout=7200000',
    ],
    { cwd: ROOT, stdio: 'inherit', env: { ...process.env, SOAK: String(runs) } },
  );
  process.exit(r.status ?? 1);
}

main().catch(fail);
