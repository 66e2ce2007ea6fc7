// Settings: what everything new begins with, the keyboard, the theme and fit, as a person uses them.
import assert from 'node:assert/strict';
import { after, before, test } from 'node:test';
import { api, copy, document } from './api.mjs';
import { Key, openBrowser } from './driver.mjs';

let p;
before(async () => {
  p = await openBrowser(process.env.BASE);
});
after(async () => {
  for (const name of Object.keys(await api('GET', '/defaults'))) await api('DELETE', `/defaults/${name}`);
  assert.deepEqual(await p.errors(), []);
  await p.quit();
});
const doc = async (id) => {
  await p.saved();
  return document(id);
};

test('a device, a kind of line and racks begin with what is chosen here; what is said here is true of the next one', async () => {
  const id = await copy('Begins', 'kelp-and-copper');
  await p.go('/settings');
  assert.deepEqual(await p.axe(), []);
  const presets = (await api('GET', '/presets?kind=device&limit=200')).items;
  const ceiling = presets.find((x) => x.summary.devices[0].type === 'limiter');
  await p.choose('Limiter', `${ceiling.name} (${ceiling.category.replace('/', ', ')})`);
  await p.see('Every new Limiter begins with these settings');
  const strips = (await api('GET', '/presets?kind=strip&limit=200')).items;
  const strip = strips.find((x) => x.summary.tracks === 1 && x.category);
  await p.choose('Audio lines', `${strip.name} (${strip.category.replace('/', ', ')})`);
  await p.see('New audio lines begin with');
  await p.go(`/session/${id}`);
  await p.line('Choir');
  await p.click('Line Choir', await p.line('Choir'));
  await p.click('Add a device to Choir', await p.line('Choir'));
  await p.click('Limiter', await p.find('[role="menu"]', ''));
  const { preset } = await api('GET', `/presets/${ceiling.id}`);
  const limiter = await p.until('the limiter', async () => {
    const choir = (await doc(id)).tracks.find((t) => t.name === 'Choir');
    return choir.chain.find((x) => x.type === 'limiter');
  });
  assert.deepEqual(limiter.params, preset.content.tracks[0].chain[0].params);
  await p.go('/settings');
  await p.choose('Limiter', 'as it came');
  await p.see('Every new Limiter begins as it came');
  assert.equal((await api('GET', '/defaults'))['device:limiter'], undefined);
});

test('a key is changed: it does what it says, menus show it, a clash is told before; all go back', async () => {
  const id = await copy('Keys of my own', 'kelp-and-copper');
  await p.go('/settings');
  await p.click('M: Mute the chosen lines');
  await p.keys('n');
  await p.find('button', 'N: Mute the chosen lines');
  await p.click('O: Mono check');
  await p.keys('s');
  await p.see('S is “Solo the chosen lines” already');
  await p.click('Swap the two');
  await p.find('button', 'O: Solo the chosen lines');
  await p.go(`/session/${id}`);
  await p.click('Line Choir', await p.line('Choir'));
  const choir = async () => (await doc(id)).tracks.find((t) => t.name === 'Choir');
  await p.keys('m');
  await p.keys('o');
  await p.until('solo', async () => (await choir()).solo);
  assert.equal((await choir()).mute, false);
  await p.keys('n');
  await p.until('the mute', async () => (await choir()).mute);
  await p.keys('?');
  await p.see('N');
  assert.match(await p.text(await p.find('dialog', 'Keyboard')), /N\s+Mute the chosen lines/);
  await p.keys(Key.ESCAPE);
  await p.go('/settings');
  await p.click('All keys as they came');
  await p.find('button', 'M: Mute the chosen lines');
});

test('theme, fit and pick-up are chosen here', async () => {
  await p.go('/settings');
  await p.check('Night');
  assert.equal(await p.js('return document.documentElement.dataset.theme'), 'night');
  assert.deepEqual(await p.axe(), []);
  await p.check('Day');
  await p.check('What fits the line’s sound is ticked by itself');
  assert.equal(await p.js('return localStorage.getItem("rope-shelf-fit")'), 'true');
  await p.check('What fits the line’s sound is ticked by itself');
  await p.choose('Knobs of a controller', 'take a handle when they pass it');
  assert.equal(await p.js('return localStorage.getItem("rope-shelf-pick-up")'), 'pass');
  await p.choose('Knobs of a controller', 'take a handle at once');
});
