// What is chosen once on the way: sends that start silent, a borrowed master, a session from a rig, a variant by its
// name, a misspelt search, and messages that can be read again.
import assert from 'node:assert/strict';
import { after, before, test } from 'node:test';
import { api, copy, document } from './api.mjs';
import { Key, openBrowser } from './driver.mjs';

let p;
before(async () => {
  p = await openBrowser(process.env.BASE);
});
after(async () => {
  assert.deepEqual(await p.errors(), []);
  await p.quit();
});
const doc = async (id) => {
  await p.saved();
  return document(id);
};

test('a strip is dropped with its sends at −∞: they are there, silent, and the report says why', async () => {
  const id = await copy('Silent', 'kelp-and-copper');
  await p.go(`/session/${id}`);
  await p.click('Line Lead voice', await p.line('Lead voice'));
  await p.keys('k');
  let d = await p.find('dialog', 'Save “Lead voice”');
  await p.check('Harbour', d);
  await p.type('Name', 'Voice with sends', d);
  await p.click('Save to the shelf', d);
  await p.see('“Voice with sends” is on the shelf');
  const found = (await api('GET', '/presets?q=voice%20sends')).items;
  const saved = found.find((x) => x.name === 'Voice with sends');
  assert.equal(saved.colour, 'harbour');
  await p.go(`/shelf/${saved.id}`);
  await p.click('Drop into a session');
  await p.click('Silent', await p.find('[role="menu"]', ''));
  d = await p.find('dialog', 'Drop “Voice with sends”');
  await p.check('Sends start at −∞', d);
  await p.see('−∞ dB', 5000, d);
  await p.click('Drop', d);
  await p.see('sends start silent');
  const line = await p.until('the new line', async () =>
    (await doc(id)).tracks.find((t) => t.name === 'Lead voice 2'),
  );
  assert.deepEqual(
    line.sends.map((s) => s.level),
    line.sends.map(() => -144),
  );
  assert.ok(line.sends.length > 0);
});

test('what was taken off the shelf is brought back from its line', async () => {
  const [{ id }] = (await api('GET', '/sessions')).items.filter((s) => s.name === 'Silent');
  const { origin } = (await document(id)).tracks.find((t) => t.name === 'Lead voice 2');
  await api('DELETE', `/presets/${origin.preset}`);
  await p.go(`/session/${id}`);
  await p.click('Line Lead voice 2', await p.line('Lead voice 2'));
  await p.click('taken off the shelf: bring it back');
  await p.see('“Voice with sends” is on the shelf again');
  await p.see('as on the shelf');
  assert.equal((await api('GET', `/presets/${origin.preset}`)).name, 'Voice with sends');
});

test('a changed name means a variant, unless it is said otherwise', async () => {
  const id = await copy('Varied', 'kelp-and-copper');
  await p.go(`/session/${id}`);
  await p.click('Line Lead voice', await p.line('Lead voice'));
  await p.keys('k');
  let d = await p.find('dialog', 'Save “Lead voice”');
  await p.type('Name', 'First of its kind', d);
  await p.click('Save to the shelf', d);
  await p.see('“First of its kind” is on the shelf');
  await p.keys('k');
  d = await p.find('dialog', 'Save “Lead voice”');
  const isChecked = async (label) => p.js('return arguments[0].checked', await p.find('box', label, d));
  await p.until('the next version', () => isChecked('As version 2'));
  await p.type('Name', 'Second of its kind', d);
  await p.until('a variant', () => isChecked('As a new preset'));
  await p.check('As version 2', d);
  await p.type('Name', 'Third of its kind', d);
  assert.equal(await isChecked('As version 2'), true);
  await p.keys(Key.ESCAPE);
});

test('the master of another session is borrowed onto the one here; a session begins from a rig', async () => {
  const id = await copy('Borrower', 'kelp-and-copper');
  await copy('Lender', 'lantern-room');
  await p.go(`/session/${id}`);
  await p.line('Choir');
  await p.click('Session menu');
  await p.click('Borrow lines from another session');
  const d = await p.find('dialog', 'Borrow lines');
  await p.choose('Session to borrow from', 'Lender', d);
  await p.check('Master', d);
  await p.click('Borrow one line', d);
  await p.click('Drop', await p.find('dialog', 'Borrow Master'));
  const master = (s) => s.tracks.find((t) => t.role === 'master').chain.map((x) => x.name);
  const wanted = master(await document('lantern-room'));
  await p.until(
    'the chain of the other master',
    async () => String(master(await doc(id))) === String(wanted),
  );
  await p.go('/sessions');
  await p.click('New session');
  const form = await p.find('dialog', 'New session');
  const rig = (await api('GET', '/presets?kind=rig&limit=200')).items[0];
  await p.type('Name', 'From a rig', form);
  await p.choose(
    'Begins with',
    `${rig.name} (${rig.category.replace('/', ', ')}, ${rig.summary.tracks} lines)`,
    form,
  );
  await p.click('Make it', form);
  await p.until('the session', () => p.js('return location.pathname.startsWith("/session/")'));
  const made = await p.js('return location.pathname.split("/")[2]');
  assert.ok((await document(made)).tracks.length > rig.summary.tracks);
});

test('a misspelt search finds, and says so; what was said can be read again', async () => {
  await p.go('/shelf');
  await p.type('Search the shelf', 'concretina');
  await p.see('Nothing says “concretina”; shown: concertina');
  await p.see('Concertina, reeds tamed');
  // all of a category at once
  await p.click('Show everything');
  const [category] = (await api('GET', '/presets/facets')).categories;
  await p.click(category.name.replace('/', ' › '));
  await p.click('Mark all that fit');
  const count = (await api('GET', `/presets?limit=200&category=${encodeURIComponent(category.name)}`)).items
    .length;
  await p.find('button', `Drop ${count} into …`);
  await p.click('Unmark');
  await p.go('/settings');
  await p.choose('Gate', 'as it came');
  await p.check('Night');
  await p.check('Day');
  await p.click('Messages');
  await p.find('section', 'Messages so far');
  assert.deepEqual(await p.axe(), []);
  await p.click('Messages');
});

test('a message goes when its matter is over: the offer to undo with the next step', async () => {
  const id = await copy('Said', 'kelp-and-copper');
  await p.go(`/session/${id}`);
  await p.click('Line Choir', await p.line('Choir'));
  await p.keys('h');
  const strip = await p.find('footer', '');
  await p.see('Choir: hidden', 5000, strip);
  await p.find('button', 'Undo', strip);
  await p.click('Mute Bass');
  await p.until('no offer to undo', async () => !(await p.has('button', 'Undo', strip)));
  await p.see('Choir: hidden', 5000, strip);
  // what a step did is told to who does not see it
  await p.see('Mute Bass', 5000, await p.find('[role="status"].sr-only', ''));
  const { tracks } = await doc(id);
  assert.equal(tracks.find((t) => t.name === 'Bass').mute, true);
});
