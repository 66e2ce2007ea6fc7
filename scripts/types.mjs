// Type checks: the core without DOM and Node, server, interface, worklet, workers and tests, two at a time.
import { kernels } from './kernels.mjs';
import { ROOT, fail, run } from './lib.mjs';
import { existsSync } from 'node:fs';
import { join } from 'node:path';

const CHECKS = [
  ['typescript/bin/tsc', 'core'],
  ['vue-tsc/bin/vue-tsc.js', 'web'],
  ['typescript/bin/tsc', 'server'],
  ['typescript/bin/tsc', 'worklet'],
  ['typescript/bin/tsc', 'worker'],
  ['typescript/bin/tsc', 'test'],
];

export async function types() {
  await kernels();
  const queue = [...CHECKS];
  const errors = [];
  const work = async () => {
    for (let c = queue.shift(); c; c = queue.shift()) {
      if (!existsSync(join(ROOT, `tsconfig.${c[1]}.json`))) continue;
      await run(process.execPath, [`node_modules/${c[0]}`, '-p', `tsconfig.${c[1]}.json`], {
        quiet: true,
      }).catch((e) => errors.push(`${c[1]}: ${e.message}`));
    }
  };
  await Promise.all([work(), work()]);
  if (errors.length) throw new Error(errors.join('\n'));
  return CHECKS.length;
}

if (process.argv[1] === import.meta.filename) {
  types().then((n) => console.log(`${n} type checks passed`), fail);
}
