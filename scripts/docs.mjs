// npm run docs: docs/devices.md from the devices' tables and from measuring them.
import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { ROOT, ensureNpm, fail } from './lib.mjs';

async function main() {
  await ensureNpm();
  await (await import('./build.mjs')).build({ parts: ['node'] });
  const { deviceDoc } = await import(join(ROOT, 'dist/node/core/devices/doc.js'));
  const { figuresDoc } = await import(join(ROOT, 'dist/node/core/measure/device-figures.js'));
  writeFileSync(join(ROOT, 'docs/devices.md'), `${deviceDoc()}\n${figuresDoc()}`);
}

main().catch(fail);
