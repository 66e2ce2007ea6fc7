/** Every question mark opens a chapter that is there. */
import { readFileSync, readdirSync } from 'node:fs';
import { join } from 'node:path';

const WEB = join(__dirname, '../..');
const files = readdirSync(WEB, { recursive: true, encoding: 'utf8' }).filter((f) => /\.vue$/.test(f));
const chapters = [...readFileSync(join(WEB, '../docs/guide.md'), 'utf8').matchAll(/^## (.+)$/gm)].map(
  (m) => m[1],
);

test('what the question marks and the first steps speak of is a chapter of the guide', () => {
  const named = files.flatMap((file) => {
    const text = readFileSync(join(WEB, file), 'utf8');
    const found = [...text.matchAll(/<HelpMark about="([^"]+)"|chapter: '([^']+)'/g)];
    return found.map((m) => m[1] ?? m[2]);
  });
  expect(named.length).toBeGreaterThan(10);
  expect(named.filter((name) => !chapters.includes(name))).toEqual([]);
});
