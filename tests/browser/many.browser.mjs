// Many lines at once, as a person would: the clicks and keys of each job are counted, and stand in its name.
import assert from 'node:assert/strict';
import { after, before, test } from 'node:test';
import { createDevice, createTrack } from '../../dist/node/core/index.js';
import { copy, document, withTracks } from './api.mjs';
import { Key, openBrowser } from './driver.mjs';

const base = process.env.BASE;
let p;
before(async () => {
  p = await openBrowser(base, { height: 1000 });
});
after(async () => {
  // the one that is broken on purpose
  const said = (await p.errors()).filter((e) => !e.includes('broken.wav'));
  assert.deepEqual(said, []);
  await p.quit();
});

/** What a person does, counted: each click, key and field that is filled in is one. */
function counted() {
  let count = 0;
  const one =
    (f) =>
    (...args) => {
      count++;
      return f(...args);
    };
  return {
    click: one((name, within, kind) => p.click(name, within, kind)),
    check: one((name, within) => p.check(name, within)),
    type: one((name, text, within) => p.type(name, text, within)),
    key: one((...keys) => p.keys(...keys)),
    chord: one((...keys) => p.chord(...keys)),
    shiftClick: one(async (name) => {
      const e = await p.find('button', name);
      await p.driver.actions().keyDown(Key.SHIFT).click(e).keyUp(Key.SHIFT).perform();
    }),
    /** Files from a folder let go over the list of lines. */
    files: one((files) => p.js(LET_GO, files)),
    most: (n) => assert.ok(count <= n, `${count} instead of ${n}`),
  };
}
const LET_GO = `
  const data = new DataTransfer();
  for (const [name, bytes] of arguments[0]) data.items.add(new File([new Uint8Array(bytes)], name));
  const over = document.querySelector('[aria-label="Lines"]');
  for (const type of ['dragover', 'drop']) {
    over.dispatchEvent(new DragEvent(type, { dataTransfer: data, bubbles: true, cancelable: true }));
  }`;
const doc = async (id) => {
  await p.saved();
  return document(id);
};
/** A session with lines of some names above its master, opened. */
async function sessionOf(title, names) {
  const id = await copy(title, 'kelp-and-copper');
  await withTracks(id, (tracks) => {
    const master = tracks.find((t) => t.role === 'master');
    const output = { kind: 'track', track: master.id };
    return [
      ...names.map((name) => createTrack('audio', { name, output, channels: 1 })),
      { ...master, chain: [] },
    ];
  });
  await p.go(`/session/${id}`);
  await p.line(names[0]);
  return id;
}
const sixteen = Array.from({ length: 16 }, (_, i) => `Crew ${i + 1}`);
const names = (s) => s.tracks.map((t) => t.name);

test('15 voice lines with gate, compressor, six sends and inputs counted up: 8 clicks and fields', async () => {
  const id = await copy('Harbour choir', 'lantern-room');
  await p.go(`/session/${id}`);
  const hand = counted();
  await hand.click('Add a line');
  await hand.click('Several lines …');
  await hand.type('Names', 'Voice 1–15');
  await hand.type('First input, counted up', 'Mic 1');
  await hand.check('Gate');
  await hand.check('Compressor');
  await hand.click('Every one');
  assert.deepEqual(await p.axe(), []);
  await hand.click('Add 15 lines');
  hand.most(8);
  const { tracks } = await doc(id);
  const voices = tracks.filter((t) => t.name.startsWith('Voice'));
  assert.deepEqual(
    voices.map((t) => [t.name, t.input.port, t.channels]),
    Array.from({ length: 15 }, (_, i) => [`Voice ${i + 1}`, `Mic ${i + 1}`, 1]),
  );
  assert.ok(
    voices.every((t) => t.chain.map((x) => x.type).join() === 'gate,compressor' && t.sends.length === 6),
  );
  await p.see('15 lines');
  await p.click('Undo');
  await p.until('the lines to go', async () => !(await p.has('[role="group"]', 'Line Voice 15')));
});

test('12 WAVs onto 12 lines by their names: 2 gestures; another joins as a take, what is no sound is told', async () => {
  const voices = Array.from({ length: 12 }, (_, i) => `Voice ${i + 1}`);
  const id = await sessionOf('Twelve takes', voices);
  const hand = counted();
  await hand.files(voices.map((name, i) => [`${name}.wav`, wav(i)]));
  assert.deepEqual(await p.axe(), []);
  await hand.click('Put them there');
  hand.most(3);
  await p.see('12 files on 12 lines');
  const { tracks } = await doc(id);
  assert.deepEqual(names({ tracks }), [...voices, 'Master']);
  assert.ok(tracks.slice(0, 12).every((t) => t.clips.length === 1));
  await p.js(LET_GO, [
    ['Voice 3_02.wav', wav(20)],
    ['Fiddle.wav', wav(21)],
    ['cover.png', [1, 2, 3]],
  ]);
  await p.see('1 file is neither WAV nor MIDI');
  await p.type('Name of the line for Fiddle.wav', 'Fiddle, close');
  await p.click('Put them there');
  await p.see('2 files on 2 lines');
  const later = (await doc(id)).tracks;
  assert.deepEqual(
    later.find((t) => t.name === 'Voice 3').clips.map((c) => c.off ?? false),
    [true, false],
  );
  assert.equal(later.find((t) => t.name === 'Fiddle, close').clips.length, 1);
  await p.js(LET_GO, [['broken.wav', [82, 73, 70, 70]]]);
  await p.click('Put them there');
  await p.see('could not be read');
  await p.click('Close');
});

test('five devices of a master chain asleep and awake again: 2 and 1', async () => {
  const id = await sessionOf('Five on the master', ['Voice']);
  await withTracks(id, (tracks) =>
    tracks.map((t) => {
      const types = ['eq', 'compressor', 'width', 'limiter', 'meter'];
      return t.role === 'master' ? { ...t, chain: types.map((type) => createDevice(type)) } : t;
    }),
  );
  await p.see('Limiter');
  const states = async () => [...new Set((await doc(id)).tracks.at(-1).chain.map((x) => x.state))];
  const there = counted();
  await there.click('Line Master', await p.line('Master'));
  await there.key('i');
  there.most(2);
  await p.until('all to sleep', async () => (await states()).join() === 'inactive');
  const back = counted();
  await back.key('i');
  back.most(2);
  await p.until('all awake', async () => (await states()).join() === 'on');
});

test('16 lines into a folder: 3; blue and green in turn: 4; closed, shown, drawn out, deleted with what is in it', async () => {
  const id = await sessionOf('Sixteen at sea', [...sixteen, 'Fiddle']);
  const hand = counted();
  await hand.click('Line Crew 1', await p.line('Crew 1'));
  await hand.shiftClick('Line Crew 16');
  await hand.key('f');
  hand.most(3);
  // the folder waits for its name
  await p.keys('Crew', Key.ENTER);
  await p.until('the folder', async () => {
    const { tracks } = await doc(id);
    const folder = tracks.find((t) => t.name === 'Crew');
    return folder && tracks.filter((t) => t.folder === folder.id).length === 16;
  });
  const colours = counted();
  await colours.click('Line Crew', await p.line('Crew'));
  await colours.key('c');
  await colours.click('Brine');
  await colours.click('Kelp');
  colours.most(4);
  await p.click('Done');
  const inTurn = (await doc(id)).tracks.filter((t) => /^Crew \d/.test(t.name)).map((t) => t.colour);
  assert.deepEqual(
    inTurn,
    sixteen.map((_, i) => (i % 2 ? 'kelp' : 'brine')),
  );
  await p.click('Close Crew');
  await p.see('(16)');
  assert.deepEqual(await p.lines(), ['Crew', 'Fiddle', 'Master']);
  await p.driver.navigate().refresh();
  await p.see('(16)');
  await p.click('Open Crew');
  // a line dragged out of the folder, and another one in
  await p.drag(await p.find('[role="img"]', 'Move Crew 2'), await p.line('Crew'), 0.3, 0.1);
  await p.until(
    'a line outside',
    async () => (await doc(id)).tracks.find((t) => t.name === 'Crew 2').folder === null,
  );
  assert.equal(names(await doc(id))[0], 'Crew 2');
  await p.drag(await p.find('[role="img"]', 'Move Crew 2'), await p.line('Crew'), 0.3, 0.9);
  await p.until('a line inside', async () => (await doc(id)).tracks[1].folder !== null);
  assert.deepEqual(names(await doc(id)).slice(0, 2), ['Crew', 'Crew 2']);
  await p.click('Line Crew', await p.line('Crew'));
  await p.keys('m');
  await p.until('all muted', async () => (await doc(id)).tracks.filter((t) => t.mute).length === 17);
  await p.keys(Key.DELETE);
  await p.see('Crew deleted, with 16 lines inside');
  assert.deepEqual(names(await doc(id)), ['Fiddle', 'Master']);
});

test('names one after the other with Tab; headings over lines; hidden lines are said and shown', async () => {
  const id = await sessionOf('Names', ['One', 'Two', 'Three', 'Four']);
  await p.click('Line One', await p.line('One'));
  await p.keys(Key.F2);
  await p.keys('Lead', Key.TAB);
  await p.keys('Choir', Key.TAB);
  await p.keys('Fiddle', Key.ENTER);
  await p.until('the names', async () => names(await doc(id)).join() === 'Lead,Choir,Fiddle,Four,Master');
  await p.click('More for Fiddle');
  await p.click('A heading above it');
  await p.keys('Strings', Key.ENTER);
  await p.find('[role="group"]', 'Heading Strings');
  await p.click('Close Strings');
  await p.see('2 lines');
  assert.deepEqual(await p.lines(), ['Lead', 'Choir', 'Master']);
  assert.deepEqual(await p.axe(), []);
  await p.click('Open Strings');
  // a heading is dragged above another line, and moved back by its menu
  const above = async () => {
    const { headings, tracks } = await doc(id);
    return tracks.find((t) => t.id === headings[0].before).name;
  };
  await p.drag(
    await p.find('[draggable="true"]', 'Move the heading Strings'),
    await p.line('Choir'),
    0.2,
    0.2,
  );
  await p.until('the heading above the choir', async () => (await above()) === 'Choir');
  await p.click('More for the heading Strings');
  await p.click('Move down');
  await p.until('the heading where it was', async () => (await above()) === 'Fiddle');
  await p.click('Line Choir', await p.line('Choir'));
  await p.keys('h');
  await p.see('1 hidden');
  assert.deepEqual(await p.lines(), ['Lead', 'Fiddle', 'Four', 'Master']);
  await p.click('1 hidden');
  await p.line('Choir');
  await p.chord(Key.CONTROL, 'a');
  await p.see('4 lines');
  await p.chord(Key.ALT, Key.ARROW_DOWN);
  await p.type('First input, counted up', `Deck 3${Key.ENTER}`);
  const { tracks } = await doc(id);
  assert.deepEqual(
    tracks.slice(0, 4).map((t) => t.input.port),
    ['Deck 3', 'Deck 4', 'Deck 5', 'Deck 6'],
  );
  await p.click('More for Lead');
  await p.click('Duplicate');
  await p.until('copies', async () => names(await doc(id)).length === 9);
});

test('sends: for all at once, in another order, one always first', async () => {
  const id = await copy('Sent', 'lantern-room');
  await p.go(`/session/${id}`);
  const sends = async (name) => {
    const { tracks } = await doc(id);
    const nameOf = (to) => tracks.find((t) => t.id === to).name;
    return tracks.find((t) => t.name === name).sends.map((s) => `${nameOf(s.to)} ${s.tap}`);
  };
  await p.click('Line Lead voice', await p.line('Lead voice'));
  const before = await sends('Lead voice');
  assert.equal(before.length, 4);
  const second = before[1].replace(/ \w+$/, '');
  await p.click('Always as send 1');
  const grip = await p.find('button', `Move the send to ${second}`);
  await grip.sendKeys(Key.ARROW_DOWN);
  await p.until('another order', async () => (await sends('Lead voice'))[2] === before[1]);
  assert.equal((await sends('Lead voice'))[0], before[0]);
  const drums = await p.find('button', 'Line Deck drums');
  await p.driver.actions().keyDown(Key.SHIFT).click(drums).keyUp(Key.SHIFT).perform();
  await p.choose('Tap of the sends to Plate', 'pre');
  assert.ok((await sends('Deck drums')).includes('Plate pre'));
  assert.ok((await sends('Lead voice')).includes('Plate pre'));
});

test('two hundred lines fly past as sketches, and work as soon as they stand', async () => {
  const names = Array.from({ length: 200 }, (_, i) => `Voice ${i + 1}`);
  await sessionOf('Two hundred', names);
  const sketches = await p.driver.executeAsyncScript(FLY);
  assert.ok(sketches > 0, 'none was sketched');
  const bare = `
    const rows = [...document.querySelectorAll('[aria-label="Lines"] [data-row]')];
    return rows.length > 4 && rows.every((row) => row.querySelector('[aria-label^="More for"]'))`;
  await p.until('all lines to be whole', () => p.js(bare), 5000);
  const [, name] = await p.lines();
  await p.click(`Line ${name}`);
  const line = await p.find('button', `Line ${name}`);
  await p.until('it to be chosen', async () => (await line.getAttribute('aria-pressed')) === 'true');
});
/** Down the list at 5,000 px a second for a second; how many rows were sketched at most. */
const FLY = `
  const done = arguments[0];
  const list = document.querySelector('[aria-label="Lines"]');
  const begun = performance.now();
  let last = begun;
  let most = 0;
  const step = (now) => {
    list.scrollTop += 5 * (now - last);
    last = now;
    const rows = [...list.querySelectorAll('[data-row]')];
    most = Math.max(most, rows.filter((row) => !row.querySelector('[aria-label^="More for"]')).length);
    if (now - begun < 1000) requestAnimationFrame(step);
    else done(most);
  };
  requestAnimationFrame(step);`;

/** A short mono WAV; no two numbers sound alike. */
function wav(n) {
  const frames = 480;
  const bytes = new DataView(new ArrayBuffer(44 + 2 * frames));
  const words = (at, text) => [...text].forEach((c, i) => bytes.setUint8(at + i, c.charCodeAt(0)));
  words(0, 'RIFF');
  bytes.setUint32(4, 36 + 2 * frames, true);
  words(8, 'WAVEfmt ');
  [16, 0x10001, 48000, 96000, 0x100002].forEach((v, i) => bytes.setUint32(16 + 4 * i, v, true));
  words(36, 'data');
  bytes.setUint32(40, 2 * frames, true);
  for (let i = 0; i < frames; i++) {
    bytes.setInt16(44 + 2 * i, 8000 * Math.sin(i * (0.01 + 0.001 * n)), true);
  }
  return [...new Uint8Array(bytes.buffer)];
}
