// One complete path: lay out, build, hear, save, drop, prove, hand over. Against a real server and database,
// in Debian's Chromium.
import assert from 'node:assert/strict';
import { readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { after, before, test } from 'node:test';
import { Key, openBrowser } from './driver.mjs';
import { canonicalXml, readDawproject, readWav, readZip, writeWav } from '../../dist/node/core/index.js';
import { handFile } from '../../dist/node/tests/support/dawproject.js';
import { sine } from '../../dist/node/tests/support/build.js';

let p;
before(async () => {
  p = await openBrowser(process.env.BASE);
});
after(async () => {
  await p?.quit();
});

const undo = () => p.click('Undo');
const peak = (name) =>
  p.js('return document.querySelector(`[data-testid="peak-${arguments[0]}"]`)?.innerText', name);
const number = (t) => Number(t.replace('−', '-').replace(/[^\d.-]/g, ''));
const tileOn = async (line, name) => p.find('button', name, await p.line(line));

test('the demo session plays: the clock runs, the meters of every line move', async () => {
  await p.go('/sessions');
  await p.click('Kelp and Copper');
  await p.see('Deck drums');
  assert.deepEqual(await p.lines().then((l) => l.slice(0, 5)), [
    'Lead voice',
    'Choir',
    'Concertina',
    'Bass',
    'Deck drums',
  ]);
  await p.click('Play');
  await p.until('the clock to run', async () => (await p.position()) > 1);
  for (const line of ['Lead voice', 'Choir', 'Deck drums', 'Voice bus']) {
    await p.until(`${line} to show a level`, async () => number(await peak(line)) > -60);
  }
});

test('lines: added, renamed, coloured, moved, duplicated, deleted; everything undone and redone while it plays', async () => {
  const begin = await p.lines();
  await p.click('Add a line');
  await p.click('Audio track');
  // a new line waits for its name
  await p.find('field', 'New name for Audio');
  await p.keys('Viol', Key.ENTER);
  const row = await p.line('Viol');
  await p.driver
    .actions()
    .doubleClick(await p.find('button', 'Line Viol', row))
    .perform();
  await p.type('New name for Viol', 'Fiddle' + Key.ENTER);
  await p.line('Fiddle');
  await p.click('More for Fiddle');
  await p.click('Rosehip');
  await p.click('Line Fiddle', await p.line('Fiddle'));
  await p.find('button', 'Colour of Fiddle: Rosehip');
  await p.choose('Width', 'mono');
  // drag by the handle above the choir
  await p.drag(await p.find('[draggable="true"]', 'Move Fiddle'), await p.line('Choir'), 0.2, 0.2);
  await p.until('the new order', async () => {
    const l = await p.lines();
    return l.indexOf('Fiddle') === l.indexOf('Choir') - 1;
  });
  await p.click('More for Fiddle');
  await p.click('Duplicate');
  await p.line('Fiddle 2');
  await p.click('More for Fiddle 2');
  await p.click('Delete');
  await p.until('it to be gone', async () => !(await p.lines()).includes('Fiddle 2'));
  for (let i = 0; i < 8; i++) await undo();
  await p.until('the beginning', async () => JSON.stringify(await p.lines()) === JSON.stringify(begin));
  assert.equal(await p.js('return document.querySelector(\'[aria-label="Undo"]\').disabled'), true);
  for (let i = 0; i < 8; i++) await p.click('Redo');
  await p.line('Fiddle');
  for (let i = 0; i < 8; i++) await undo();
  await p.saved();
  assert.ok((await p.position()) > 0);
});

test('devices: by menu, by drag, by key; values by typing, keys and sliders; on, bypassed, inactive', async () => {
  await p.click('Add a device to Deck drums');
  await p.click('Reverb');
  await p.until('the reverb', async () => (await p.tiles('Deck drums')).some((t) => t.startsWith('Reverb')));
  await p.see('Pre-delay');
  // typed with a unit: the decay in seconds, the cut as "2k"
  await p.click('Decay: 1.60 s, type a value');
  await p.keys('0.8s', Key.ENTER);
  await p.see('0.80 s');
  await p.click('High cut: 12.0 kHz, type a value');
  await p.keys('4k', Key.ENTER);
  await p.see('4.00 kHz');
  // nonsense is refused in words and changes nothing
  await p.click('Mix: 100 %, type a value');
  await p.keys('loud', Key.ENTER);
  await p.see('“loud” is not a value');
  await p.keys(Key.ESCAPE);
  const mix = await p.find('input[type=range]', 'Mix');
  await mix.sendKeys(Key.ARROW_LEFT, Key.ARROW_LEFT);
  await p.see('98 %');
  await mix.sendKeys(Key.BACK_SPACE);
  await p.see('100 %');
  await p.click('bypassed', await p.find('[role="radiogroup"]', 'State of Reverb'));
  await p.until('bypassed', async () => (await p.tiles('Deck drums')).at(-1) === 'Reverb, bypassed');
  await p.click('inactive', await p.find('[role="radiogroup"]', 'State of Reverb'));
  await p.until('inactive', async () => (await p.tiles('Deck drums')).at(-1) === 'Reverb, inactive');
  // a device from the row of devices, dragged between two others
  await p.drag(
    await p.find('.chip[draggable="true"]', 'Add Trim'),
    await tileOn('Deck drums', 'Bounce'),
    0.1,
    0.5,
  );
  await p.until('the trim between', async () => (await p.tiles('Deck drums'))[1]?.startsWith('Trim'));
  // a point of the EQ's curve, dragged
  await (await tileOn('Deck drums', 'Boards')).click();
  const point = await p.find('button', 'Band 4, 400 Hz');
  await p.driver
    .actions({ async: true })
    .move({ origin: point })
    .press()
    .move({ origin: point, x: 40, y: -30, duration: 100 })
    .release()
    .perform();
  await p.until('the band to follow', async () => {
    const t = await p.js('return arguments[0].getAttribute("aria-label")', point);
    const [, f, g] = /Band 4, (\d+) Hz, ([-\d.]+) dB/.exec(t);
    return Number(f) > 500 && Number(g) > -1;
  });
  await (await p.find('button', 'Clean up', await p.line('Lead voice'))).click();
  await p.keys('b');
  await p.until('bypassed by key', async () => (await p.tiles('Lead voice'))[1] === 'Clean up, bypassed');
  for (
    let i = 0;
    i < 10 && !(await p.js('return document.querySelector(\'[aria-label="Undo"]\').disabled'));
    i++
  ) {
    await undo();
  }
  await p.saved();
});

test('routing: a send, its level, pre and post, pan; output; mute and solo heard on the meters', async () => {
  await p.click('Line Bass', await p.line('Bass'));
  await p.click('Add a send');
  await p.click('Slap');
  const group = await p.find('group', 'Send to Slap');
  await p.click('Send to Slap: −18.0 dB', group);
  await p.keys('-6', Key.ENTER);
  await p.choose('Tap of the send to Slap', 'pre');
  await p.see('−6.0 dB pre');
  await p.click('Output of Bass');
  await p.click('Voice bus');
  await p.until('the output', async () => (await p.text(await p.line('Bass'))).includes('Voice bus'));
  await p.click('Solo Bass');
  await p.until('the choir to fall silent', async () => (await peak('Choir')) === '−∞');
  await p.until('the voice bus to sound', async () => number(await peak('Voice bus')) > -60);
  await p.click('Solo Bass');
  // a loop is refused by name: the slap return into the voice bus, which sends back to it
  await p.click('Line Voice bus', await p.line('Voice bus'));
  await p.click('Add a send');
  await p.click('Slap');
  await p.click('Line Slap', await p.line('Slap'));
  assert.ok(
    !(await p.text(await p.find('section', 'Line Slap'))).includes('Voice bus'),
    'what would loop is not offered',
  );
  for (let i = 0; i < 8; i++) {
    if (!(await p.js('return document.querySelector(\'[aria-label="Undo"]\').disabled'))) await undo();
  }
  await p.saved();
});

test('with and without at equal loudness, measured, switched while it plays', async () => {
  await (await p.find('button', 'Close and warm', await p.line('Lead voice'))).click();
  await p.keys('w');
  await p.see('matched by', 30000);
  await p.see('Without');
  const text = (await p.text(await p.find('section', 'Close and warm'))).replace(/\s+/g, ' ');
  const [, a, b, gain] = /(−[\d.]+) ⇄ (−[\d.]+) LUFS, matched by ([+−][\d.]+) dB/.exec(text);
  assert.ok(Math.abs(number(a) - number(b) - number(gain)) < 0.11, text);
  await p.keys('w');
  await p.until('With', async () =>
    /\bWith\b(?! \/)/.test(await p.text(await p.find('section', 'Close and warm'))),
  );
  await p.click('End the comparison', await p.find('section', 'Close and warm'));
  const t = await p.position();
  await p.until('the sound to go on', async () => (await p.position()) !== t);
});

test('a WAV of one’s own on a line, resampled and heard; a broken one is refused by name', async () => {
  const good = join(p.downloads, 'gull.wav');
  const bad = join(p.downloads, 'torn.wav');
  writeFileSync(good, writeWav([sine(500, 0.5, 4, 32000)], 32000, 16));
  writeFileSync(bad, writeWav([sine(500, 0.5, 1, 32000)], 32000, 16).slice(0, 5000));
  await p.click('Add a line');
  await p.click('Audio track');
  await p.line('Audio');
  await p.keys(Key.ENTER);
  // the file dialog is the browser's own: the chosen file is dropped on the field, as by drag from a folder
  const give = async (path) => {
    const zone = await p.find('div', 'No sound yet').catch(() => p.find('div', 'Choose a WAV file'));
    await p.js(
      `const bytes = Uint8Array.from(atob(arguments[1]), (c) => c.charCodeAt(0)); const d = new DataTransfer(); d.items.add(new File([bytes], arguments[2], { type: 'audio/wav' }));
      const el = [...document.querySelectorAll('.border-dashed')].pop(); el.dispatchEvent(new DragEvent('drop', { bubbles: true, cancelable: true, dataTransfer: d }));`,
      zone,
      readFileSync(path).toString('base64'),
      path.split('/').pop(),
    );
  };
  await give(bad);
  await p.see('“torn.wav”: the sound is cut short');
  await give(good);
  await p.see('resampled from 32 kHz');
  await p.gone('the sound is cut short');
  await p.until('it to be heard', async () => Math.abs(number(await peak('Audio')) + 6) < 0.3, 20000);
  await p.saved();
});

test('the line is saved to the shelf: parts, name, category, tags, note; found, looked at, listened to', async () => {
  await p.click('Line Audio', await p.line('Audio'));
  await p.click('Add a device to Audio');
  await p.click('EQ');
  await p.click('Band 5 on');
  await p.click('Band 5 gain: 0.0 dB');
  await p.keys('5.5', Key.ENTER);
  await p.click('Add a device to Audio');
  await p.click('Compressor');
  await p.click('Line Audio', await p.line('Audio'));
  await p.click('Add a send');
  await p.click('Plate');
  await p.click('Save to the shelf');
  const d = await p.find('dialog', 'Save “Audio”');
  await p.type('Name', 'Gull, far out', d);
  await p.type('Category', 'Voice/Effect', d);
  await p.type('Tags', 'gull, far', d);
  await p.type('What to touch first', 'The 2 kHz bell first.', d);
  await p.see('Send to Plate return', 5000, d);
  await p.click('Save to the shelf', d);
  await p.see('“Gull, far out” is on the shelf');
  await p.go('/shelf');
  await p.type('Search the shelf', 'gull fa');
  await p.until(
    'one hit',
    async () =>
      (await p.js('return document.querySelectorAll(\'ul[aria-label="Presets"] button\').length')) === 1,
  );
  await p.click('Gull, far out');
  await p.see('The 2 kHz bell first.');
  await p.see('Band 5 gain +5.5 dB');
  await p.choose('Sound to listen on', 'lead voice');
  await p.click('Listen');
  await p.until('it to sound', async () => number(await peak('Gull, far out')) > -60, 20000);
  await p.click('With / without');
  await p.see('matched by', 30000);
  await p.click('Stop');
});

test('dropped into an unlike session by drag onto a gap, while it plays: the sheet, the ties, the proof, one undo', async () => {
  await p.go('/session/ninth-wave-out');
  await p.see('Crew choir');
  const begin = await p.lines();
  await p.click('Play');
  await p.until('sound', async () => number(await peak('Crew choir')) > -60, 20000);
  await p.drag(await p.find('li', 'Lead, close and warm'), await p.line('Crew choir'), 0.3, 0.05);
  const d = await p.find('dialog', 'Drop “Lead, close and warm”');
  for (const t of [
    'Tie to “Hall plate, dark”',
    'similar name and the same role',
    'Bring “Slap” along',
    '156 ms → 114 ms',
    'it was a 1/16 note at 96 bpm',
    '“Lead voice” → “Lead voice 2”',
    'Saved at 48 kHz, dropped at 44.1 kHz',
  ]) {
    await p.see(t, 5000, d);
  }
  await p.choose('Output to Voice bus: tie to', 'Singers bus', d);
  await p.see('your choice', 5000, d);
  await p.click('Drop', d);
  await p.see('nothing lost', 15000);
  const report = (await p.text(await p.find('dialog', 'Intact report'))).replace(/\s+/g, ' ');
  assert.match(report, /(\d+) of (\d+) values intact, 3 tied, 2 adapted, nothing lost/);
  await p.see('Null test: −∞ dB', 30000);
  const t = await p.position();
  await p.until('the sound to have gone on', async () => (await p.position()) !== t);
  await p.click('Done');
  const now = await p.lines();
  assert.equal(now.indexOf('Lead voice 2'), now.indexOf('Crew choir') - 1);
  assert.deepEqual(await p.tiles('Lead voice 2'), [
    'Level in, on',
    'Clean up, on',
    'Close and warm, on',
    'Presence, on',
    'Catch peaks, bypassed',
    'Line-end echo, inactive',
  ]);
  await undo();
  await p.until(
    'everything as before',
    async () => JSON.stringify(await p.lines()) === JSON.stringify(begin),
  );
  await p.saved();
});

test('dropped onto a line by the palette, chosen parts only; cancelled, nothing happens', async () => {
  await p.click('Line Crew choir', await p.line('Crew choir'));
  await p.chord(Key.CONTROL, 'k');
  await p.type('Find or do', 'shanty onto crew');
  await p.see('Drop “Shanty choir, wide and behind” onto Crew choir');
  await p.keys(Key.ENTER);
  const d = await p.find('dialog', 'Drop “Shanty choir');
  await p.check('Sends', d);
  await p.check('Level', d);
  await p.click('Drop', d);
  await p.see('left out', 15000);
  await p.click('Done');
  assert.deepEqual(await p.tiles('Crew choir'), ['Make room, on', 'Even out, on', 'Crush, on']);
  await p.see('−7.0 dB');
  await p.saved();
  await p.click('What to do with Double, tucked under');
  await p.click('Drop as a new line');
  const n = (await p.lines()).length;
  await p.click('Cancel', await p.find('dialog', 'Drop “Double'));
  assert.equal((await p.lines()).length, n);
});

test('saved again as version 2: what differs is shown, version 1 and the session that uses it are untouched', async () => {
  await (await p.find('button', 'Even out', await p.line('Crew choir'))).click();
  await p.click('Threshold: −26.0 dB');
  await p.keys('-31', Key.ENTER);
  await p.click('Line Crew choir', await p.line('Crew choir'));
  await p.see('Shanty choir, wide and behind v1 · changed here (1)');
  await p.click('Save to the shelf');
  const d = await p.find('dialog', 'Save “Crew choir”');
  // from what came with the program comes a variant, unless it is said otherwise
  await p.check('As version 2', d);
  await p.see('Even out · Threshold', 5000, d);
  await p.see('−26.0 dB → −31.0 dB', 5000, d);
  await p.click('Save version 2', d);
  await p.see('as version 2; the earlier versions are untouched');
  await p.saved();
  await p.click('Shelf');
  await p.click('Shanty choir, wide and behind');
  await p.see('version 2');
  await p.click('Compare with version 1');
  await p.see('What differs from version 1');
  await p.see('−26.0 dB → −31.0 dB');
  await p.click('1 ', await p.find('aside', 'Versions'));
  await p.see('Threshold −26.0 dB');
  await p.see('Ninth Wave Out');
});

test('handed over as DAWproject; a file of another program comes in, gives and takes a strip, and goes out with all else as it was', async () => {
  const file = join(p.downloads, 'lantern.dawproject');
  writeFileSync(file, handFile());
  await p.go('/sessions');
  await p.click('Export Kelp and Copper as DAWproject');
  await p.see('another program shows them as unknown devices');
  await p.click('Close', await p.find('dialog', '“Kelp and Copper”'));
  const read = readDawproject(readFileSync(await p.download('Kelp and Copper.dawproject')));
  assert.deepEqual(read.session.tracks.map((t) => t.name).slice(0, 5), [
    'Lead voice',
    'Choir',
    'Concertina',
    'Bass',
    'Deck drums',
  ]);
  assert.equal(read.session.tracks[0].chain[2].params.threshold, -24);
  for (const wav of read.media.values()) assert.ok(readWav(wav).channels[0].length > 1000);

  await (await p.find('input[type=file]', 'Import a DAWproject file')).sendKeys(file);
  await p.see('“lantern.dawproject” is imported');
  await p.click('Open it');
  await p.see('Pump organ');
  await (await p.find('button', 'Tape Thing', await p.line('Lead & first'))).click();
  await p.see('This device belongs to another program');
  await p.see('0123456789ABCDEF');
  // a strip out of it …
  await p.click('Line Lead & first', await p.line('Lead & first'));
  await p.click('Save to the shelf');
  await p.click('Save to the shelf', await p.find('dialog', 'Save “Lead & first”'));
  await p.see('is on the shelf');
  // … and one into it
  await p.click('What to do with Double, tucked under');
  await p.click('Drop as a new line');
  await p.click('Drop', await p.find('dialog', 'Drop “Double'));
  await p.see('nothing lost', 15000);
  await p.click('Done');
  await p.saved();
  await p.go('/sessions');
  await p.click('Export Lantern Room as DAWproject');
  await p.see('as DAWproject');
  const written = readFileSync(await p.download('Lantern Room.dawproject'));
  const [was, is] = [readZip(handFile(), 'in'), readZip(written, 'out')];
  for (const k of Object.keys(was)) {
    if (k !== 'project.xml') assert.deepEqual(Buffer.from(is[k]), Buffer.from(was[k]), k);
  }
  const ids = (bytes) => {
    const r = readDawproject(bytes);
    return new Map([...r.source.elements].map(([id, e]) => [id, canonicalXml(e)]));
  };
  const [a, b] = [ids(handFile()), ids(written)];
  for (const id of ['lead', 'keys', 'plate', 'eq1', 'plug1', 'cmp1', 'lim1', 'folder1', 's1']) {
    assert.equal(b.get(id), a.get(id), id);
  }
  assert.ok(readDawproject(written).session.tracks.some((t) => t.name === 'Double'));

  writeFileSync(file, handFile().slice(0, 4000));
  await (await p.find('input[type=file]', 'Import a DAWproject file')).sendKeys(file);
  await p.see('“lantern.dawproject”: ');
  assert.deepEqual(
    (await p.errors()).filter((e) => !/422|favicon/.test(e)),
    [],
  );
});
