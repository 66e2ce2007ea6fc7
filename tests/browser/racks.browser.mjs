// Racks, handles, keys, defaults, several lines at once, and the master's meters, as a person uses them.
import assert from 'node:assert/strict';
import { writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { after, before, test } from 'node:test';
import { writeWav } from '../../dist/node/core/index.js';
import { Key, openBrowser } from './driver.mjs';

let p;
const base = process.env.BASE;
before(async () => {
  p = await openBrowser(base);
});
after(async () => {
  await p?.quit();
});
const api = async (method, path, body, headers = {}) => {
  const r = await fetch(`${base}/api${path}`, {
    method,
    headers: { 'Content-Type': 'application/json', ...headers },
    body: body && JSON.stringify(body),
  });
  return r.status === 204 ? null : r.json();
};
/** A copy of a demo session, open. */
async function open(name, of = 'lantern-room') {
  const { id } = await api('POST', '/sessions', { name, copyOf: of });
  await p.go(`/session/${id}`);
  await p.line('Lead voice');
  return id;
}
const track = async (id, name) => {
  await p.saved();
  return (await api('GET', `/sessions/${id}`)).document.tracks.find((t) => t.name === name);
};
const select = async (line, device) => (await p.find('button', device, await p.line(line))).click();
/** Sets a slider by its keyboard: Home, End, or steps. */
async function slide(name, ...keys) {
  const e = await p.find('input[type=range]', name);
  await p.js('arguments[0].focus()', e);
  await e.sendKeys(...keys);
}
const panel = () => p.find('section', 'Soft to pushed on');

test('devices are put into a rack from the keyboard, a strand is added, a device dragged into it, the two are blended; undo takes it all back', async () => {
  const id = await open('Strands');
  // two chosen together go into one rack, in their order; taken back, one alone
  await select('Lead voice', 'Air and body');
  await p.driver
    .actions()
    .keyDown(Key.CONTROL)
    .click(await p.find('button', 'Sibilance', await p.line('Lead voice')))
    .keyUp(Key.CONTROL)
    .perform();
  await p.keys('g');
  await p.find('section', 'Rack on Lead voice');
  assert.deepEqual(
    (await track(id, 'Lead voice')).chain.map((x) => [x.name, x.strands?.[0].chain.map((d) => d.name)]),
    [
      ['Rack', ['Sibilance', 'Air and body']],
      ['Level', undefined],
    ],
  );
  await p.chord(Key.CONTROL, 'z');
  await select('Lead voice', 'Level');
  await p.keys('g');
  await p.find('section', 'Level on Lead voice');
  await p.click('Add a strand');
  await p.type('Name of strand 1', 'Dry' + Key.ENTER);
  await p.type('Name of strand 2', 'Pressed' + Key.ENTER);
  const strand = await p.find('[role="group"]', 'Strand Pressed of Level');
  await p.drag(
    await p.find('button', 'Air and body', await p.line('Lead voice')),
    await p.find('[data-chain]', '', strand),
    0.3,
    0.5,
  );
  await p.until('the device in the strand', async () =>
    (
      await p.js('return arguments[0].innerText', await p.find('[role="group"]', 'Strand Pressed of Level'))
    ).includes('Air and'),
  );
  await select('Lead voice', 'Rack Level');
  await p.choose('How the two are blended', 'equal power');
  await slide('Blend', Key.END);
  let rack = (await track(id, 'Lead voice')).chain[1];
  assert.deepEqual(
    [rack.name, rack.blend, rack.strands.map((s) => [s.name, s.chain.map((d) => d.name)])],
    [
      'Level',
      { mode: 'power', position: 100 },
      [
        ['Dry', ['Level']],
        ['Pressed', ['Air and body']],
      ],
    ],
  );
  await p.see('100 %', 5000, await p.line('Lead voice'));
  await p.click('Mute Pressed');
  await p.see('muted', 5000, await p.line('Lead voice'));
  await p.chord(Key.SHIFT, 'g');
  rack = (await track(id, 'Lead voice')).chain;
  assert.deepEqual(
    rack.map((d) => d.name),
    ['Sibilance', 'Level', 'Air and body'],
  );
  for (let i = 0; i < 9; i++) {
    await p.chord(Key.CONTROL, 'z');
    await p.until('a step back', async () => true);
  }
  assert.deepEqual(
    (await track(id, 'Lead voice')).chain.map((d) => [d.kind, d.name]),
    [
      ['device', 'Sibilance'],
      ['device', 'Level'],
      ['device', 'Air and body'],
    ],
  );
});

test('a handle in two gestures: drive up while the output goes down; the tied values say who moves them; a knob of the controller is learned and moves it while it plays', async () => {
  const id = await open('Handles');
  await select('Bass', 'Dirt, on');
  await p.click('Drive: moved by Grit of Dirt and clean');
  await p.find('section', 'Dirt and clean on Bass');
  await p.click('Remove the handle Grit');
  await p.click('Add a handle');
  await p.click('Dirt: drive up, output down by the same');
  await slide('Drive', Key.END);
  const values = async () => {
    const d = (await track(id, 'Bass')).chain[0].strands[1].chain[1].params;
    return [d.drive, d.output];
  };
  assert.deepEqual(await values(), [26, -20]);
  await p.click('Play');
  await p.until('sound', async () => (await p.position()) > 0.3);
  await p.click('learn');
  await p.see('Move the knob that is to move the handle');
  await slide('Knob 3', Key.ARROW_RIGHT);
  await p.see('CC 23 moves this handle now');
  await slide('Knob 3', Key.HOME);
  assert.deepEqual(await values(), [14, -8]);
  await p.see('Drive (Bass)');
  // the same number on another handle: said, and settled
  await p.type('Controller number of Drive', '22' + Key.ENTER);
  await p.see('CC 22 moves more than one handle');
  await p.click('A controller for each');
  await p.gone('CC 22 moves more than one handle');
  await p.click('Close the controller');
  // two handles on one value: the last that is moved wins, which is shown until one lets go
  await p.click('Add a handle');
  await p.click('Dirt: drive up, output down by the same');
  await p.see('is moved by more than one handle');
  for (let i = 0; i < 2; i++) await p.click('Only Drive 2');
  await p.gone('is moved by more than one handle');
  await p.click('Stop');
});

test('a rack is saved, dropped into a strand of another rack in one gesture, and another is tried in its place: kept or not', async () => {
  const id = await open('Pieces');
  await select('Concertina', 'Rack Swim');
  await p.keys('k');
  let d = await p.find('dialog', 'Save “Swim”');
  await p.type('Name', 'Slow swim, blended', d);
  await p.type('Category', 'Racks/Width', d);
  await p.click('Save to the shelf', d);
  await p.see('“Slow swim, blended” is on the shelf');
  // where a device is added it is offered at once
  await p.click('Add a device to Concertina');
  await p.find('[role="menuitem"]', 'Slow swim, blended');
  await p.keys(Key.ESCAPE);
  const strand = await p.find('[role="group"]', 'Strand Clean of Dirt and clean');
  await p.drag(
    await p.find('li', 'Three bands, then the ceiling'),
    await p.find('button', 'Hold the lows', strand),
    0.9,
    0.5,
  );
  await p.see('values intact');
  let rack = (await track(id, 'Bass')).chain[0];
  assert.deepEqual(
    rack.strands[0].chain.map((x) => x.name),
    ['Lows only', 'Hold the lows', 'Three bands, then the ceiling'],
  );
  assert.equal(rack.strands[0].chain[2].origin.name, 'Three bands, then the ceiling');
  // this one brings a controller number that is in use here: that is shown before anything happens
  await p.drag(
    await p.find('li', 'Slow swim, blended'),
    await p.find('button', 'No lows', await p.find('[role="group"]', 'Strand Dirt of Dirt and clean')),
    0.1,
    0.5,
  );
  d = await p.find('dialog', 'Drop “Slow swim');
  await p.see('CC 22 already moves a handle in this session', 5000, d);
  await p.click('Drop', d);
  await p.see('nothing lost', 15000);
  // the null test's result comes while the report is read: what is about to be pressed stays where it is
  const foot = async () => (await p.find('button', 'Done')).getRect();
  const before = await foot();
  await p.see('over frequency', 60000);
  assert.deepEqual(await foot(), before);
  await p.click('Done');
  await p.gone('values intact');
  rack = (await track(id, 'Bass')).chain[0];
  assert.deepEqual(
    [rack.strands[1].chain.map((x) => x.name), rack.strands[1].chain[0].handles[0].cc],
    [['Swim', 'No lows', 'Dirt', 'Speaker'], 20],
  );
  // another one in its place: heard first, then let go, then kept
  await select('Bass', 'Rack Dirt and clean');
  await p.click('Try another from the shelf');
  await p.click('Soft to pushed');
  await p.see('matched by', 60000);
  assert.equal((await track(id, 'Bass')).chain[0].name, 'Dirt and clean');
  await p.click('Go back');
  await p.gone('Trying');
  await p.click('Try another from the shelf');
  await p.click('Soft to pushed');
  await p.see('matched by', 60000);
  await p.click('Keep it');
  await p.see('“Soft to pushed” is in');
  await panel();
  assert.deepEqual(
    (await track(id, 'Bass')).chain.map((x) => x.name),
    ['Soft to pushed'],
  );
  await p
    .click('Undo', await p.find('[role="status"], [role="alert"], li', '“Soft to pushed” is in'))
    .catch(() => p.chord(Key.CONTROL, 'z'));
  await p.until('the old rack', async () => (await track(id, 'Bass')).chain[0].name === 'Dirt and clean');
});

test('a key: chosen from the tracks, drawn as a line, compared in five ways at equal loudness from the keyboard', async () => {
  const id = await open('Keys');
  await p.until('the line of the key', async () =>
    (
      await p.js(
        'return [...document.querySelectorAll("svg[role=img]")].map((e) => e.getAttribute("aria-label")).join()',
      )
    ).includes('Duck on All but the drums takes its key from Trigger, pre-fader'),
  );
  await p.js('document.querySelector(\'[aria-label="Lines"]\').scrollTop = 300');
  await select('All but the drums', 'Duck');
  await p.click('Play');
  await p.chord(Key.SHIFT, 'w');
  await p.see('Trigger alone', 90000);
  const heard = () =>
    p.js(
      'return [...document.querySelectorAll(\'[aria-label="Hearings of Duck"] button\')].filter((b) => b.getAttribute("aria-pressed") === "true").map((b) => b.innerText.replace(/\\s+/g, " ").trim())',
    );
  await p.until('key off', async () => (await heard())[0]?.endsWith('Key off'));
  for (const [key, label] of [
    ['1', 'As it is'],
    ['3', 'Trigger muted'],
    ['4', 'Trigger alone'],
    ['5', 'Chain bypassed'],
    ['2', 'Key off'],
  ]) {
    await p.keys(key);
    await p.until(label, async () => (await heard())[0]?.endsWith(label));
  }
  // nothing of this is in the session
  assert.deepEqual((await track(id, 'All but the drums')).chain[0].key, {
    kind: 'track',
    track: 'lr-trigger',
    tap: 'pre',
  });
  await p.click('End the comparison');
  await p.choose('Key input', 'Its own input');
  await p.choose('Key input', 'Deck drums');
  await p.choose('Key tap', 'post-fader');
  assert.deepEqual((await track(id, 'All but the drums')).chain[0].key, {
    kind: 'track',
    track: 'lr-drums',
    tap: 'post',
  });
  await p.click('Stop');
});

test('what new devices and lines begin with: set from one, used by the next, back to the factory', async () => {
  const id = await open('Defaults');
  await select('Deck drums', 'Room out');
  await p.click('More for Room out');
  await p.click('Begins with these settings');
  await p.see('Every new Gate begins with these settings');
  // what is added before they are known waits for them
  const inTime = await p.answerLate('/api/defaults', 1500);
  await p.go(`/session/${id}`);
  await inTime();
  await p.click('Add a device to Bass');
  await p.click('Gate');
  await p.find('section', 'Gate on Bass');
  const last = async () => (await track(id, 'Bass')).chain.at(-1).params;
  assert.deepEqual([(await last()).threshold, (await last()).range], [-46, -18]);
  await p.click('More for Gate');
  await p.click('Back to factory settings here');
  assert.equal((await last()).range, -40);
  await p.click('More for Gate');
  await p.click('Begins as it came (factory)');
  await p.see('begins as it came');
  assert.deepEqual(Object.keys(await api('GET', '/defaults')), []);
});

test('several lines at once: chosen with Ctrl and Shift, then output, a device, colour and a copied chain, each one step to undo', async () => {
  const id = await open('Several');
  await p.click('Line Lead voice', await p.line('Lead voice'), 'button');
  const pick = async (key, name) =>
    p.driver
      .actions()
      .keyDown(key)
      .click(await p.find('button', `Line ${name}`, await p.line(name)))
      .keyUp(key)
      .perform();
  await pick(Key.SHIFT, 'Bass');
  const s = await p.find('section', 'Several lines');
  await p.see('3 lines', 5000, s);
  await pick(Key.CONTROL, 'Concertina');
  await p.see('Lead voice, Bass', 5000, s);
  await p.choose('Output of all', 'Master');
  await p.click('Add a device to all');
  await p.click('Limiter', await p.find('[role="menu"]', ''));
  await p.click('Colours …');
  await p.click('Kelp', await p.find('dialog', 'Colours of 2 lines'));
  await p.click('Done');
  const both = async () => [await track(id, 'Lead voice'), await track(id, 'Bass')];
  for (const t of await both()) {
    assert.deepEqual([t.output.track, t.chain.at(-1).type, t.colour], ['lr-master', 'limiter', 'kelp']);
  }
  assert.equal((await track(id, 'Concertina')).colour, 'brine');
  await p.choose('Line to copy from', 'Deck drums');
  await p.check('Behind what they have');
  await p.click('Copy to 2 lines');
  const chains = (await both()).map((t) => t.chain.map((x) => x.name).slice(-3));
  assert.deepEqual(chains, [
    ['Room out', 'Boards', 'Round the peaks'],
    ['Room out', 'Boards', 'Round the peaks'],
  ]);
  await p.chord(Key.CONTROL, 'z');
  await p.until('the copies to go', async () => (await track(id, 'Bass')).chain.at(-1).type === 'limiter');
});

test('the master as it is heard: loudness, correlation, mono check; the engine’s load; figures of a device in words', async () => {
  await open('Meters');
  await p.js('document.querySelector(\'[aria-label="Lines"]\').scrollTop = 9999');
  await p.click('Line Master', await p.line('Master'));
  await p.click('Play');
  const figure = (name) => p.js(`return document.querySelector('[data-testid="master-${name}"]').innerText`);
  await p.until('a loudness', async () => /^−\d+\.\d LUFS$/.test(await figure('integrated')));
  assert.match(await figure('true-peak'), /^−\d+\.\d dBTP$/);
  const wide = await p.until(
    'a correlation',
    async () => Number((await figure('correlation')).replace('−', '-')) || false,
  );
  assert.ok(wide < 1 && wide > -1);
  await p.click('Mono check');
  await p.until(
    'one sound on both sides',
    async () => Number((await figure('correlation')).replace('−', '-')) > 0.99,
  );
  await p.click('Mono check is on');
  await p.until(
    'both sides again',
    async () => Number((await figure('correlation')).replace('−', '-')) < 0.999,
  );
  await p.until('the load', async () =>
    /^engine \d+ %$/.test(
      await p.js('return document.querySelector(\'[data-testid="load"]\')?.innerText ?? ""'),
    ),
  );
  await p.js('document.querySelector(\'[aria-label="Lines"]\').scrollTop = 0');
  await select('Lead voice', 'Level');
  await p.until('figures in words', async () =>
    /level −\d+\.\d dBFS · gain reduction −?\d+\.\d dB/.test(
      await p.js('return document.querySelector(\'[data-testid="readings"]\').innerText'),
    ),
  );
  await p.click('Stop');
  assert.deepEqual(await p.axe(), []);
  assert.deepEqual(await p.errors(), []);
});

test('the panels of racks, keys and several lines are reachable and readable', async () => {
  await open('Readable');
  await select('Bass', 'Rack Dirt and clean');
  await p.click('Dirt · Drive');
  await p.click('Controller');
  assert.deepEqual(await p.axe(), [], 'rack');
  await p.click('Close the controller');
  await p.js('document.querySelector(\'[aria-label="Lines"]\').scrollTop = 300');
  await select('All but the drums', 'Duck');
  assert.deepEqual(await p.axe(), [], 'key');
  await p.js('document.querySelector(\'[aria-label="Lines"]\').scrollTop = 0');
  await p.click('Line Lead voice', await p.line('Lead voice'));
  await p.driver
    .actions()
    .keyDown(Key.SHIFT)
    .click(await p.find('button', 'Line Bass', await p.line('Bass')))
    .keyUp(Key.SHIFT)
    .perform();
  assert.deepEqual(await p.axe(), [], 'several');
  await p.click('Choose one again');
});

test('a rack is folded and opened on its line; the line takes the room that it needs; keys can be hidden', async () => {
  await open('Folding');
  const height = async () => (await (await p.line('Bass')).getRect()).height;
  const tall = await height();
  await p.click('Fold Dirt and clean');
  await p.until('a low line', async () => (await height()) < tall);
  assert.deepEqual(await p.tiles('Bass'), ['Rack Dirt and clean, on']);
  await p.click('Open Dirt and clean');
  await p.until('a high line', async () => (await height()) === tall);
  const lines = () =>
    p.js('return document.querySelectorAll("svg[role=img][aria-label*=\\"takes its key\\"]").length');
  await p.until('the key', async () => (await lines()) === 1);
  await p.check('keys');
  await p.until('no key', async () => (await lines()) === 0);
  await p.check('keys');
});

test('an outboard loop: ports are named, its round trip is measured, and everything beside it waits', async () => {
  const id = await open('Hardware');
  await p.click('Add a device to Bass');
  await p.click('Outboard loop');
  await p.find('section', 'Outboard loop on Bass');
  await p.type('Send port', 'Out 5/6' + Key.ENTER);
  await p.choose('Without a unit', 'Cable (simulated)');
  await p.click('Measure the round trip');
  await p.see('Round trip of “Outboard loop”: 6.48 ms (311 samples)');
  const loop = (await track(id, 'Bass')).chain.at(-1).params;
  assert.deepEqual([loop.sendPort, loop.unit, loop.roundTrip], ['Out 5/6', 'wire', 6.479]);
  await p.click('Play');
  await p.until('the latency', async () => Number(/latency ([\d.]+) ms/.exec(await p.text())?.[1]) > 12);
  await p.click('Stop');
});

test('five handles with useful ranges, two of them switches: 8 clicks; a button of the controller mutes the line', async () => {
  const id = await open('Five handles');
  await select('Bass', 'Rack Dirt and clean');
  const was = (await track(id, 'Bass')).chain[0];
  let clicks = 0;
  const hand = (name, within, kind) => {
    clicks++;
    return p.click(name, within, kind);
  };
  await hand('Add a handle');
  await hand('Choose values and switches …');
  const d = await p.find('dialog', 'Handles for Dirt and clean');
  assert.deepEqual(await p.axe(), []);
  const values = [
    'Clean · level',
    'Clean · Lows only · Band 8 frequency',
    'Dirt and clean · blend',
    'Dirt · on',
    'This line · mute',
  ];
  for (const value of values) await hand(value, d, 'box');
  await hand('Add 5 handles', d);
  assert.equal(clicks, 8);
  const rack = (await track(id, 'Bass')).chain[0];
  assert.deepEqual([rack.strands, rack.blend], [was.strands, was.blend]);
  const made = rack.handles.slice(-5);
  assert.ok(made.every((h) => h.ties[0].from !== h.ties[0].to));
  assert.deepEqual(
    made.map((h) => h.button ?? 'knob'),
    ['knob', 'knob', 'knob', 'toggle', 'toggle'],
  );
  assert.deepEqual(await p.axe(), []);
  await p.click('down: press Dirt · on');
  await p.find('button', 'up: press Dirt · on');
  await p.click('up: press Dirt · on');
  await p.type('Controller number of This line · mute', '102' + Key.ENTER);
  await p.click('Controller');
  await p.click('press button 1, CC 102');
  await p.until('the muted line', async () => (await track(id, 'Bass')).mute);
  await p.click('press button 1, CC 102');
  await p.until('the line again', async () => !(await track(id, 'Bass')).mute);
  await p.click('Close the controller');
  // a copy asks what becomes of the controller
  await p.click('Line Bass', await p.line('Bass'));
  await p.keys('d');
  await p.see('2 handles of what is copied listen');
  await p.click('No controller', null, 'box');
  await p.click('Duplicate Bass');
  const copied = (await track(id, 'Bass 2')).chain[0].handles;
  assert.ok(copied.every((h) => h.cc === null));
});

test('a recorded space: one that ships, then a file of one’s own; it is heard, saved with the preset and there after a drop elsewhere', async () => {
  const id = await open('A vault');
  await p.click('Line Lead voice', await p.line('Lead voice'));
  await p.click('Add a device to Lead voice');
  await p.click('Convolution reverb');
  const panel = await p.find('section', 'Convolution reverb on Lead voice');
  await p.choose('Impulse response', 'Stone nave', panel);
  const device = (t) => t.chain.find((d) => d.type === 'convolution');
  const impulse = async () => device(await track(id, 'Lead voice')).params.impulse;
  assert.equal(await impulse(), 'space:stone-nave');
  await p.click('Play');
  await p.heard('Lead voice');
  const file = join(tmpdir(), `vault-${process.pid}.wav`);
  const echo = Float32Array.from({ length: 24000 }, (_, i) => (i === 9600 ? 0.9 : 0));
  writeFileSync(file, writeWav([echo], 48000, 24));
  await (await p.find('input[type=file]', 'Your own impulse response', panel)).sendKeys(file);
  await p.see('travels with presets');
  const own = await impulse();
  assert.match(own, /^[0-9a-f]{64}$/);
  await p.heard('Lead voice');
  await p.click('Stop');
  await p.click('Line Lead voice', await p.line('Lead voice'));
  await p.keys('k');
  const sheet = await p.find('dialog', 'Save “Lead voice”');
  await p.type('Name', 'A vault of one’s own', sheet);
  await p.click('Save to the shelf', sheet);
  await p.see('“A vault of one’s own” is on the shelf');
  const other = await api('POST', '/sessions', { name: 'Elsewhere', copyOf: 'kelp-and-copper' });
  const [saved] = (await api('GET', '/presets?q=vault%20own')).items;
  await p.go(`/shelf/${saved.id}`);
  await p.click('Drop into a session');
  await p.click('Elsewhere', await p.find('[role="menu"]', ''));
  await p.click('Drop', await p.find('dialog', 'Drop “A vault'));
  await p.see('nothing lost');
  const { document: s } = await p.until('the drop to be saved', async () => {
    const now = await api('GET', `/sessions/${other.id}`);
    return now.document.media.some((m) => m.id === own) && now;
  });
  assert.ok(s.tracks.some((t) => device(t)?.params.impulse === own));
  await api('DELETE', `/presets/${saved.id}`);
  assert.deepEqual(await p.errors(), []);
});
