import { existsSync } from 'node:fs';
import { join } from 'node:path';

/** The built file of that name beside this one, or in dist when it runs from its source. */
export function builtFile(...path: string[]): string {
  const own = join(import.meta.dirname ?? '', '..', ...path);
  return existsSync(own) ? own : join(process.cwd(), 'dist/node/server', ...path);
}
