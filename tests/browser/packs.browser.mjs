// The shelf for years: packs out and in, the trash, many at once, backups, as a person would.
import assert from 'node:assert/strict';
import { execFileSync } from 'node:child_process';
import { readFileSync, readdirSync, writeFileSync } from 'node:fs';
import { after, before, test } from 'node:test';
import { readPack } from '../../dist/node/core/index.js';
import { api } from './api.mjs';
import { Key, openBrowser } from './driver.mjs';

const base = process.env.BASE;
let p;
before(async () => {
  p = await openBrowser(base);
});
after(async () => {
  // a file that is no pack is refused on purpose
  assert.deepEqual(
    (await p.errors()).filter((e) => !e.includes('/api/packs/look')),
    [],
  );
  await p.quit();
});

/** A preset of the demo under another name. */
async function preset(name) {
  const [{ id: of }] = (await api('GET', '/presets?limit=1&kind=strip')).items;
  const { preset: like } = await api('GET', `/presets/${of}`);
  const { id } = await api('POST', '/presets', {
    preset: {
      ...like,
      id: name.toLowerCase().replaceAll(' ', '-'),
      name,
      category: 'Packed',
      tags: ['mine'],
    },
  });
  return id;
}
/** Files from a folder let go over the page. */
const letGo = (name, bytes) =>
  p.js(
    `const data = new DataTransfer();
     data.items.add(new File([Uint8Array.from(atob(arguments[1]), (c) => c.charCodeAt(0))], arguments[0]));
     for (const type of ['dragover', 'drop']) {
       document.body.dispatchEvent(new DragEvent(type, { dataTransfer: data, bubbles: true, cancelable: true }));
     }`,
    name,
    bytes.toString('base64'),
  );
async function mark(...names) {
  await p.driver.actions().keyDown(Key.CONTROL).perform();
  for (const name of names) await p.click(name);
  await p.driver.actions().keyUp(Key.CONTROL).perform();
}
const menu = async (button, entry) => {
  await p.click(button);
  await p.click(entry);
};

test('marked presets go out as a pack; it is let go elsewhere, looked at, taken in, taken back', async () => {
  for (const name of ['Out and in', 'Gone astray']) await preset(name);
  await p.go('/shelf');
  await p.type('Search the shelf', 'packed');
  await p.until('both of them', async () => (await p.has('button', 'Gone astray')) !== null);
  await p.click('Gone astray');
  await mark('Gone astray', 'Out and in');
  await menu('What to do with the', 'Save them as a pack');
  const file = await p.download(/^Pack .*\.ropeshelf\.zip$/);
  const bytes = readFileSync(file);
  const names = readPack(bytes).presets.map((x) => x.name);
  assert.ok(names.includes('Out and in'), names.join());

  await api('DELETE', '/presets/out-and-in');
  await p.go('/sessions');
  await p.find('button', 'New session');
  await letGo('from a friend.ropeshelf.zip', bytes);
  const d = await p.find('dialog', 'What is in “from a friend.ropeshelf.zip”');
  await p.see('in the trash here: it is brought back');
  assert.deepEqual(await p.axe(), []);
  await p.click('Take in 1', d);
  await p.see('1 preset came from “from a friend.ropeshelf.zip”');
  assert.equal((await api('GET', '/presets/out-and-in')).name, 'Out and in');
  await p.click('Take it back');
  await p.see('What came is in the trash');
  await p.go('/trash');
  await p.find('button', 'Bring back Out and in');
});

test('the trash: one thing is brought back, another goes for good after a question', async () => {
  await api('DELETE', '/presets/gone-astray');
  await p.go('/trash');
  await p.click('Bring back Out and in');
  await p.see('The preset “Out and in” is back');
  assert.equal((await api('GET', '/presets/out-and-in')).name, 'Out and in');
  await p.find('button', 'Delete for good …: Gone astray');
  assert.deepEqual(await p.axe(), []);
  await p.click('Delete for good …: Gone astray');
  const d = await p.find('dialog', 'Delete for good?');
  assert.deepEqual(await p.axe(), []);
  await p.click('Delete for good', d);
  await p.until('it to be gone', async () => (await p.has('button', 'Bring back Gone astray')) === null);
  const { items } = await api('GET', '/trash');
  assert.ok(!items.some((x) => x.id === 'gone-astray'));
});

test('many at once: category and tags of those that are marked, and back in one press', async () => {
  await preset('Second of two');
  await p.go('/shelf');
  await p.type('Search the shelf', 'packed');
  await p.find('button', 'Second of two');
  await p.click('Mark all that fit');
  await menu('What to do with the 2 that are marked', 'Category, colour, tags …');
  const d = await p.find('dialog', 'Change 2 presets');
  assert.deepEqual(await p.axe(), []);
  await p.type('Category', 'Packed away', d);
  await p.type('Tags to add', 'tour', d);
  await p.click('Change them', d);
  await p.see('2 presets changed');
  const of = async () =>
    (await api('GET', '/presets?category=Packed%20away')).items.map((x) => x.summary.tags);
  assert.deepEqual(await of(), [
    ['mine', 'tour'],
    ['mine', 'tour'],
  ]);
  await p.click('Take it back');
  await p.until('them back', async () => (await of()).length === 0);
  await menu('What to do with the 2 that are marked', 'Take them off the shelf');
  await p.see('2 presets taken off the shelf, into the trash');
  await p.click('Bring them back');
  await p.until('them on the shelf', async () => (await api('GET', '/presets?q=packed')).items.length === 2);
});

test('clearing out: what stands about unused is ticked and goes to the trash, with a way back', async () => {
  const { preset: like } = await api('GET', '/presets/out-and-in');
  await api('POST', '/presets', { preset: { ...like, id: 'the-same', name: 'The very same' } });
  await p.go('/shelf');
  await menu('Packs, clearing out', 'Clear out …');
  const d = await p.find('dialog', 'Clear out');
  await p.check('Take off The very same', d);
  assert.deepEqual(await p.axe(), []);
  await p.click('Take 1 off the shelf', d);
  await p.see('1 preset taken off the shelf');
  assert.ok((await api('GET', '/trash')).items.some((x) => x.id === 'the-same'));
});

test('a backup is made in the settings, saved elsewhere and taken in again; a file that is none is told', async () => {
  await p.go('/settings');
  await p.click('Make a backup now');
  await p.find('ul', 'Backups');
  await p.click('Save elsewhere', await p.find('ul', 'Backups'));
  const file = await p.download(/^Rope Shelf .*\.ropeshelf\.zip$/);
  assert.ok(readPack(readFileSync(file)).sessions.length >= 3);
  assert.deepEqual(await p.axe(), []);
  await letGo('mine.ropeshelf.zip', Buffer.from('no pack at all, and longer than twenty-two bytes'));
  await p.see('“mine.ropeshelf.zip” is not a ZIP archive');
});

test('the settings of a preset go out as a table; changed there, they come in as its next version', async () => {
  const id = await preset('Ledger');
  await p.go(`/shelf/${id}`);
  await menu('Save it as a file', 'Its settings as a table');
  const file = await p.download(/^Ledger, version 1.*\.csv$/);
  const rows = readFileSync(file, 'utf8').split('\r\n');
  const at = rows.findIndex((row) => row.includes(',threshold,'));
  const cells = rows[at].split(',');
  cells[5] = cells[5] === '-33' ? '-32' : '-33';
  rows[at] = cells.join(',');
  writeFileSync(file, rows.join('\r\n'));
  // the browser's own dialog cannot be driven: the field behind it can
  await p.js(
    `HTMLInputElement.prototype.click = function () { this.id = 'file'; document.body.append(this); };`,
  );
  await menu('Save it as a file', 'Settings from a table');
  await p.driver.findElement({ css: '#file' }).sendKeys(file);
  await p.see('Version 2 of “Ledger” has the settings of');
  await p.see('Threshold');
  const { version, preset: now } = await api('GET', `/presets/${id}`);
  assert.equal(version, 2);
  const set = now.content.tracks[0].chain.find((d) => d.id === cells[2]).params.threshold;
  assert.equal(String(set), cells[5]);
});

test('a studio goes out as a pack', async () => {
  const before = readdirSync(p.downloads);
  await p.go('/hardware');
  await p.click('Save Harbour Hall as a pack');
  const pack = await p.download(/^Pack .*\.zip$/, before);
  const listed = execFileSync('unzip', ['-l', pack], { encoding: 'utf8' });
  assert.match(listed, /setups\/.+\.json/);
  assert.doesNotMatch(listed, /presets\/|sessions\//);
});
