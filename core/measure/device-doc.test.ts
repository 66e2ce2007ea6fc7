import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { ADDABLE } from '../devices/index.ts';
import { deviceDoc } from '../devices/doc.ts';
import { figuresDoc } from './device-figures.ts';

test('docs/devices.md is what the tables say and what is measured; `npm run docs` writes it', () => {
  const text = `${deviceDoc()}\n${figuresDoc()}`;
  expect(readFileSync(join(__dirname, '../../docs/devices.md'), 'utf8')).toBe(text);
  for (const d of ADDABLE) expect(text).toContain(`## ${d.label}\n`);
});
