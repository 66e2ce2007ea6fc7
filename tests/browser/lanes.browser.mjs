// Automation and measuring in the real interface: lanes are added, drawn, typed and heard; they survive what
// they moved, and travel with a line that is saved with them.
import assert from 'node:assert/strict';
import { after, before, test } from 'node:test';
import { api } from './api.mjs';
import { Key, openBrowser } from './driver.mjs';

const base = process.env.BASE;
let p;
let id;
before(async () => {
  p = await openBrowser(base, { height: 1200 });
});
after(async () => {
  assert.deepEqual(await p.errors(), []);
  await p.quit();
});

const lanes = async (name) => {
  await p.saved();
  return (await api('GET', `/sessions/${id}`)).document.tracks.find((t) => t.name === name).automation ?? [];
};
const peak = async (name) =>
  parseFloat(
    (await p.text(await p.find(`[data-testid="peak-${name}"]`, ''))).replace('−∞', '-999').replace('−', '-'),
  );
const levelOf = async (name) =>
  p.js(
    'return arguments[0].querySelector("[aria-label^=\\"Level of\\"][type=range]").getAttribute("aria-valuetext")',
    await p.line(name),
  );
const points = () =>
  p.js(
    'return [...document.querySelectorAll("[data-point]")].map((e) => e.getAttribute("aria-label").split(";")[0])',
  );
/** A press on the open curve, at shares of its width and height. */
async function press(x, y) {
  const box = await p.find('[data-curve]', '');
  const r = await box.getRect();
  await p.driver
    .actions({ async: true })
    .move({ origin: box, x: Math.round(r.width * (x - 0.5)), y: Math.round(r.height * (y - 0.5)) })
    .press()
    .pause(60)
    .release()
    .perform();
}

test('a ride that is there is heard and seen: the level moves with the song and is not moved by hand until its lane is off', async () => {
  id = (await api('POST', '/sessions', { name: 'Rides', copyOf: 'ninth-wave-out' })).id;
  // tests before this one may have moved its fader
  const set = (await api('GET', `/sessions/${id}`)).document.tracks.find(
    (t) => t.name === 'Crew choir',
  ).level;
  await p.go(`/session/${id}`);
  assert.equal(await levelOf('Crew choir'), '−14.0 dB');
  await p.click('Play');
  await p.until(
    'the level to rise',
    async () => parseFloat((await levelOf('Crew choir')).replace('−', '-')) > -11,
  );
  await p.click('Stop');
  assert.equal(
    await p.js('return arguments[0].querySelector("[type=range]").disabled', await p.line('Crew choir')),
    true,
  );
  await p.click('Automation of Crew choir');
  await p.until('its curve', async () => (await points()).length === 4);
  await p.click('Level follows its lane', null, 'box');
  await p.until('the lane to be off', () =>
    p.js('return document.querySelector(\'[aria-label="Level follows its lane"]\').checked === false'),
  );
  await p.until(
    'the level as it was set',
    async () => (await levelOf('Crew choir')) === `${set.toFixed(1).replace('-', '−')} dB`,
  );
  assert.equal(
    await p.js('return arguments[0].querySelector("[type=range]").disabled', await p.line('Crew choir')),
    false,
  );
  assert.deepEqual(await p.axe(), []);
});

test('a new lane begins as the value stands; points are pressed, dragged, typed, moved by keys and taken away', async () => {
  await p.click('Line Concertina');
  await p.choose('Add a lane', 'Level');
  await p.until('its lane', async () => (await points()).length === 1);
  assert.deepEqual(
    (await lanes('Concertina')).map((l) => l.points),
    [[{ at: 0, value: -10 }]],
  );
  await press(0.5, 0.2);
  await press(0.8, 0.9);
  assert.equal((await points()).length, 3);
  await p.click('Time of the point:');
  await p.type('Time of the point, type a value', '6');
  await p.keys(Key.ENTER);
  await p.click('Value of the point:');
  await p.type('Value of the point, type a value', '-30');
  await p.keys(Key.ENTER);
  assert.deepEqual((await lanes('Concertina'))[0].points.at(-1), { at: 6, value: -30 });
  await p.check('Hold');
  await p.driver.executeScript('document.querySelectorAll("[data-point]")[1].focus()');
  const before = (await lanes('Concertina'))[0].points[1];
  await p.keys(Key.ARROW_RIGHT, Key.ARROW_DOWN);
  assert.deepEqual(await p.lines().then((l) => l.includes('Concertina')), true);
  const [, moved, last] = (await lanes('Concertina'))[0].points;
  assert.ok(
    Math.abs(moved.at - before.at - 0.1) < 0.002 && moved.value < before.value,
    JSON.stringify([before, moved]),
  );
  assert.equal(last.hold, true);
  const [, knob] = await p.driver.findElements({ css: '[data-point]' });
  await p.drag(knob, await p.find('[data-curve]', ''), 0.25, 0.5);
  const dragged = (await lanes('Concertina'))[0].points[1];
  assert.ok(dragged.at < moved.at - 0.5, JSON.stringify([moved, dragged]));
  await p.driver.executeScript('document.querySelectorAll("[data-point]")[1].focus()');
  await p.keys(Key.DELETE);
  await p.until('the point gone', async () => (await points()).length === 2);
  // the last points go, and one Delete too many takes nothing else away
  for (let i = 1; i >= 0; i--) {
    await p.keys(Key.DELETE);
    await p.until('one less', async () => (await points()).length === i);
  }
  await p.keys(Key.DELETE);
  assert.ok((await p.lines()).includes('Concertina'));
  for (let i = 1; i <= 2; i++) {
    await p.click('Undo');
    await p.until('one more', async () => (await points()).length === i);
  }
  await p.click('Undo');
  await p.until('the point back', async () => (await points()).length === 3);
  assert.deepEqual((await lanes('Concertina'))[0].points[1], dragged);
});

test('a mute along the song is heard', async () => {
  await p.click('Line Deck drums');
  await p.choose('Add a lane', 'Mute');
  await p.until('its lane', async () => (await points()).length === 1);
  await p.check('Mute on');
  await p.click('Back to the start');
  await p.click('Play');
  await p.until('sound', async () => (await peak('Bass')) > -60);
  assert.ok((await peak('Deck drums')) < -100);
  await p.click('Mute follows its lane', null, 'box');
  await p.until('the drums', async () => (await peak('Deck drums')) > -60);
  await p.click('Stop');
});

test('a lane outlives its device: it is told, switched off by the check, and moves again when the device is back', async () => {
  await p.click('Add a device to Bass');
  await p.click('Saturator');
  await p.find('section', 'Saturator on Bass');
  await p.click('Line Bass');
  await p.choose('Add a lane', 'Drive');
  await press(0.6, 0.2);
  await p.click('Saturator, on', await p.line('Bass'));
  await p.find('button', 'Drive: moved by its lane');
  await p.keys(Key.DELETE);
  await p.until('the device gone', async () => (await p.tiles('Bass')).length === 0);
  await p.click('Automation of Bass');
  await p.see('is not on the line any more');
  await p.js('document.activeElement.blur()');
  await p.click('Line check: ');
  await p.see('A lane of “Bass” moved a device or send that is not there any more');
  await p.click('Lines');
  await p.line('Bass');
  await p.click('Undo');
  await p.until('the device back', async () => (await p.tiles('Bass')).length === 1);
  await p.click('Automation of Bass');
  await p.until('its points', async () => (await points()).length === 2);
});

test('saved with its automation, a line lands elsewhere with every point, and the report proves it', async () => {
  await p.click('Line Bass');
  await p.click('Save to the shelf');
  const d = await p.find('dialog', 'Save “Bass”');
  await p.type('Name', 'Bass that grows', d);
  await p.check('Automation', d);
  await p.click('Save to the shelf', d);
  await p.see('“Bass that grows” is on the shelf');
  id = (await api('POST', '/sessions', { name: 'Away', copyOf: 'kelp-and-copper' })).id;
  await p.go(`/session/${id}`);
  await p.type('Search the shelf', 'that grows');
  await p.click('What to do with Bass that grows');
  await p.click('Look before dropping');
  const sheet = await p.find('dialog', 'Drop “Bass that grows”');
  await p.see('falls on other beats', 5000, sheet);
  await p.click('Drop', sheet);
  await p.see('nothing lost');
  await p.saved();
  const there = (await api('GET', `/sessions/${id}`)).document.tracks.find(
    (t) => t.name.startsWith('Bass') && t.automation,
  );
  assert.deepEqual(
    [there.automation.length, there.automation[0].of, there.automation[0].points.length],
    [1, there.chain[0].id, 2],
  );
});

test('a line is measured in words, and its tempo becomes the session’s; so is the whole mix, on the master', async () => {
  id = (await api('POST', '/sessions', { name: 'Measured', copyOf: 'ninth-wave-out' })).id;
  await p.go(`/session/${id}`);
  await p.click('Line Deck drums');
  await p.click('Measure this line');
  await p.see('dBTP');
  const told = await p.text(await p.find('[data-testid="figures"]', ''));
  const bpm = Number(/([\d.]+) bpm/.exec(told)?.[1]);
  assert.ok(
    [66, 132, 264].some((b) => Math.abs(bpm - b) < 0.5),
    told,
  );
  assert.match(told, /Noise/);
  await p.js('document.querySelector("[aria-label=\\"Line Hall plate, dark\\"]").scrollIntoView()');
  await p.click('Line Master');
  await p.click('Measure this line');
  await p.until('the key of the mix', async () =>
    /Key\s*G major/.test(await p.text(await p.find('[data-testid="figures"]', ''))),
  );
  const choices = await p.driver.findElements({ css: '[aria-label^="Set the session’s tempo"]' });
  const wanted = Number(await p.text(choices[0]));
  await choices[0].click();
  await p.saved();
  assert.equal((await api('GET', `/sessions/${id}`)).document.tempo, wanted);
  assert.deepEqual(await p.axe(), []);
});
