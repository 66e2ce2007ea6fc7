// Studios, patch lists, units with their panels and sessions that move, in the real interface. Found by label,
// clicked, drawn, typed.
import assert from 'node:assert/strict';
import { after, before, test } from 'node:test';
import { api, copy, document } from './api.mjs';
import { openBrowser } from './driver.mjs';

const base = process.env.BASE;
let p;
before(async () => {
  p = await openBrowser(base);
  await p.driver.manage().window().setRect({ width: 1280, height: 800 });
});
after(async () => {
  assert.deepEqual(await p.errors(), []);
  await p.quit();
});

const studio = async (id) => (await api('GET', `/setups/${id}`)).studio;
const loopIn = (doc, line) =>
  doc.tracks.find((t) => t.name === line).chain.find((d) => d.type === 'outboard' && d.hardware);
const dialog = (title) => p.find('dialog', title);

test('a studio is made: ports, a bay, a unit; a cable is drawn from point to point, followed, undone and kept', async () => {
  await p.go('/hardware');
  await p.see('Lightship cabin');
  await p.click('New studio');
  const d = await dialog('New studio');
  await p.type('Name', 'Back room', d);
  await p.click('Make it', d);
  await p.see('version 1');
  await p.click('Add a pair of outputs');
  await p.click('Add a pair of inputs');
  await p.choose('Level of Out 1', '−10 dBV');
  await p.click('Add a bay');
  await p.click('Add it, simulated');
  const u = await dialog('Unit Compressor');
  await p.type('Name', 'Oak', u);
  await p.click('Keep it', u);
  await p.find('group', 'Unit Oak');
  assert.deepEqual(await p.axe(), []);
  await p.click('Wiring behind the bays');
  await p.choose('Behind Bay 1 1 upper', 'Out 1');
  await p.choose('Behind Bay 1 3 lower', 'Oak in');
  await p.click('Close the wiring');
  const [from, to] = [
    await p.find('[role=button]', 'Bay 1 1 upper, Out 1'),
    await p.find('[role=button]', 'Bay 1 3 lower, Oak in'),
  ];
  await p.js('arguments[0].scrollIntoView({ block: "center" })', from);
  await p.driver.actions().dragAndDrop(from, to).perform();
  await p.find('[role=button]', 'Cable from Bay 1 1 upper, Out 1 to Bay 1 3 lower, Oak in');
  await p.choose('Follow the signal from', 'Out 1');
  await p.see('It comes to: Oak in');
  await p.click('Undo');
  await p.see('It comes to: nothing');
  await p.choose('Cable from', 'Bay 1 1 upper');
  await p.choose('Cable to', 'Bay 1 3 lower');
  await p.click('Plug it');
  await p.see('It comes to: Oak in');
  await p.click('Keep it');
  await p.see('is kept as version 2');
  const id = (await p.driver.getCurrentUrl()).split('/').at(-1);
  const made = await studio(id);
  assert.equal(made.ports.find((x) => x.name === 'Out 1').nominal, 'minus10');
  assert.equal(made.cables.length, 1);
  await p.go('/hardware');
  await p.click('Delete Back room');
  await p.click('Bring it back');
  await p.see('Back room');
});

test('a patch is dropped: its unit stands with its panel, the panel sounds, the list is ticked off, the loop is recalled', async () => {
  const id = await copy('Out of the computer', 'kelp-and-copper');
  await p.go(`/session/${id}`);
  await p.line('Lead voice');
  await p.click('Line Lead voice', await p.line('Lead voice'));
  await p.go(`/session/${id}`);
  await p.line('Lead voice');
  await p.go('/shelf');
  await p.click('Voice out to the Gull');
  await p.see('Gull, compressor');
  await p.click('Drop into a session');
  await p.click('Out of the computer');
  const d = await dialog('Drop “Voice out to the Gull”');
  await p.see('the same unit', 5000, d);
  await p.click('Drop', d);
  await p.see('nothing lost');
  await p.click('Done');
  await p.saved();
  const doc = await document(id);
  const line = doc.tracks.find((t) => t.chain.some((x) => x.hardware)).name;
  await p.choose('Gull Ratio', '10:1');
  await p.saved();
  assert.equal(loopIn(await document(id), line).hardware.units[0].positions.ratio, 10);
  await p.click('Measure the loop');
  await p.see('311.0 samples at 48 kHz');
  await p.saved();
  await p.click('Session menu');
  await p.click('Patch list');
  await p.see('Everything that the session needs is patched already');
  assert.deepEqual(await p.axe(), []);
  await p.check('Gull Ratio at 10:1');
  await p.see('6 of 7 to set');
  await p.click('All of Gull is set');
  await p.see('all set');
  await p.click('Measure what I patched');
  await p.see('Recalled within 0.', 60000);
});

test('a session moves to another studio in one step, is patched there, and moves back byte for byte', async () => {
  const [from] = (await api('GET', '/sessions')).items.filter((s) => s.name === 'Out of the computer');
  await p.go(`/session/${from.id}/patch`);
  await p.see('all set');
  await p.saved();
  const before = await document(from.id);
  await p.click('Studio of this session');
  const d = await dialog('Hardware of this session');
  await p.choose('Move this session to', 'Harbour Hall', d);
  await p.see('a compressor too, stereo where it was mono', 10000, d);
  await p.see('Attack 12.0 ms → 10.0 ms', 5000, d);
  assert.deepEqual(await p.axe(), []);
  await p.click('Move to Harbour Hall', d);
  await p.see('Patch list of Out of the computer, Harbour Hall');
  const moves = await p.js('return document.querySelectorAll("ol li").length');
  assert.ok(moves > 0);
  for (let i = 0; i < moves; i++) {
    await p.js('document.querySelectorAll("ol input[type=checkbox]")[arguments[0]].click()', i);
  }
  await p.click('All of it is plugged');
  await p.see('Nothing to plug');
  await p.saved();
  const there = await document(from.id);
  assert.equal(there.setup.name, 'Harbour Hall');
  await p.click('Studio of this session');
  const back = await dialog('Hardware of this session');
  await p.choose('Move this session to', 'Lightship cabin', back);
  await p.see('everything is as it was there', 10000, back);
  await p.click('Move to Lightship cabin', back);
  await p.see('Patch list of Out of the computer, Lightship cabin');
  await p.saved();
  assert.deepEqual(await document(from.id), before);
});
