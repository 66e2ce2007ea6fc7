import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { ADDABLE } from './index.ts';
import { deviceDoc } from './doc.ts';

test('docs/devices.md is what the tables say; `npm run docs` writes it', () => {
  const text = deviceDoc();
  expect(readFileSync(join(__dirname, '../../docs/devices.md'), 'utf8')).toBe(text);
  for (const d of ADDABLE) expect(text).toContain(`## ${d.label}\n`);
});
