// The line check in the real interface: found as it happens, told on the line and on its own screen, mended,
// silenced, measured.
import assert from 'node:assert/strict';
import { after, before, test } from 'node:test';
import { copy, document } from './api.mjs';
import { openBrowser } from './driver.mjs';

const base = process.env.BASE;
let p;
before(async () => {
  p = await openBrowser(base);
});
after(async () => {
  assert.deepEqual(await p.errors(), []);
  await p.quit();
});

const card = (title) => p.find('article', title);

test('a fault shows on its line a moment after it happens, leads to what it is about, and is gone when it is mended', async () => {
  const id = await copy('Checked', 'lantern-room');
  await p.go(`/session/${id}`);
  await p.line('Plate');
  await p.see('Line check: 0');
  await (await p.find('button', 'Plate, on', await p.line('Plate'))).click();
  await p.click('Mix: 100 %, type a value');
  await p.keys('60', '\uE007');
  await p.see('Line check: 1');
  await p.click('Line check of Plate: 1 found');
  await p.see('“Plate” on the return “Plate” is 60 % wet.');
  await p.see('dry sound in it makes the line louder');
  await p.click('Go to Plate', await card('Return with dry sound'));
  await p.find('section', 'Plate');
  await p.click('Line check: 1 found');
  await p.click('Make it fully wet', await card('Return with dry sound'));
  await p.see('Nothing found');
  await p.saved();
  assert.equal((await document(id)).tracks.find((t) => t.name === 'Plate').chain[1].params.mix, 100);
});

test('the session that was left in a hurry: faults first, all that is safe mended as one step, one silenced with a reason', async () => {
  const id = await copy('Left in a hurry', 'lantern-room-first-try');
  await p.go(`/session/${id}/check`);
  await p.see('No way out');
  const text = (await p.text()).replace(/\s+/g, ' ');
  for (const t of [
    'Ducking without a key',
    'Silent key',
    'Key after a fader that is down',
    'Return with dry sound',
    'Two ways to the same place',
    'Send wide open',
    'Not solo safe',
    'Two of one name',
    'Hidden, but heard',
  ]) {
    assert.ok(text.includes(t), t);
  }
  assert.ok(
    text.indexOf('faults') < text.indexOf('warnings') && text.indexOf('warnings') < text.indexOf('of advice'),
  );
  assert.deepEqual(await p.axe(), []);
  const before = await document(id);
  await p.click('Mend all that is safe');
  await p.see('are mended');
  await p.see('Mend all that is safe (0)');
  await p.saved();
  const after = await document(id);
  assert.equal(after.tracks.find((t) => t.name === 'All but the drums').soloSafe, true);
  assert.equal(
    after.tracks.find((t) => t.name === 'Lead voice').sends[0].level,
    0,
    'what needs a decision stays',
  );
  await p.click('Undo');
  await p.saved();
  assert.deepEqual((await document(id)).tracks, before.tracks);
  await p.click('Silence', await card('Send wide open'));
  await p.type('Why it is meant so', 'The plate is an effect here');
  await p.click('Silence it');
  await p.see('Silenced: “The plate is an effect here”');
  await p.saved();
  assert.equal((await document(id)).silenced[0].reason, 'The plate is an effect here');
  await p.click('Let it speak');
  await p.until('it to speak again', async () => !(await document(id)).silenced);
});

test('levels are measured on request, with progress, and a line over full scale is told', async () => {
  const id = await copy('Measured', 'kelp-and-copper');
  await p.go(`/session/${id}/check`);
  await p.see('Levels are not measured yet');
  await p.click('Measure the levels too');
  await p.see('Levels are measured.', 60000);
  assert.ok(!(await p.text()).includes('No headroom'));
  await p.click('Lines');
  await p.click('Level of Bass: −4.0 dB');
  await p.keys('12', '\uE007');
  await p.click('Level of Deck drums: −5.0 dB');
  await p.keys('12', '\uE007');
  await p.saved();
  await p.click('Line check:');
  await p.see('The levels are those of before the last change');
  await p.click('Measure the levels again');
  await p.see('Over full scale', 60000);
});
