// Kits in the real interface: laid out by a table, tried part by part, broken in five ways and mended by the
// check, dropped where its channel is taken, printed and restored; notes in and out as a MIDI file.
import assert from 'node:assert/strict';
import { readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { after, before, test } from 'node:test';
import { parseMidi, writeMidi } from 'midi-file';
import { api, copy } from './api.mjs';
import { Key, openBrowser } from './driver.mjs';

const base = process.env.BASE;
let p;
let id;
before(async () => {
  p = await openBrowser(base, { height: 1500 });
});
after(async () => {
  assert.deepEqual(await p.errors(), []);
  await p.quit();
});

const doc = async () => {
  await p.saved();
  return (await api('GET', `/sessions/${id}`)).document;
};
const line = (s, name) => s.tracks.find((t) => t.name === name);
const takers = (s) => s.tracks.filter((t) => t.input.kind === 'deviceOutput');
const open = async (name, device) => {
  await (await p.find('button', device ? `${device}, ` : `Line ${name}`, await p.line(name))).click();
};
const choose = (label, value, within) => p.choose(label, value, within);
/** Every test begins on the session's lines. */
const home = async () => {
  await p.go(`/session/${id}`);
  await p.line('Kit');
};
/** Goes to the check, waits for the finding, mends it there and comes back. */
async function mended(title, fix) {
  await p.js('document.activeElement.blur()');
  await p.click('Line check: ');
  const card = await p.find('article', title);
  await p.click(fix, card);
  await p.until(`“${title}” gone`, async () => !(await p.text()).includes(title));
  await p.click('Lines');
  await p.line('Kit');
}

test('a kit is laid out in one step: looked at as a table, changed there, carried out; run again, it adds what is new and touches nothing else', async () => {
  id = await copy('Kit evening', 'ninth-wave-out');
  await p.go(`/session/${id}`);
  await p.line('Lead voice');
  await p.click('Add a line');
  await p.click('Kit with a pattern');
  await p.click('rename');
  await p.type('New device name', 'Deck kit');
  await p.keys(Key.ENTER);
  await p.click('Lay out the outputs');
  const sheet = await p.find('dialog', 'Lay out');
  const table = await p.text(await p.find('table', 'Layout', sheet));
  assert.match(table, /Kick\s*1 left/);
  assert.match(table, /Main → 8 stereo, new line “Crash”/);
  assert.deepEqual(await p.axe(), []);
  await p.type('Name of the bus', 'Deck kit bus');
  await choose('Clap becomes', 'with Snare', sheet);
  await p.type('Outputs that stay empty', '2');
  await p.until('the second output stays empty', async () =>
    /Snare\s*3 left/.test(await p.text(await p.find('table', 'Layout', sheet))),
  );
  await p.click('Lay it out', sheet);
  await p.see('is laid out on 11 outputs');
  let s = await doc();
  assert.deepEqual(
    takers(s).map((t) => `${t.name} ${t.input.output} ${t.input.take}`),
    [
      'Kick 1 left',
      'Snare 3 left',
      'Hats 4 left',
      'Low tom 5 left',
      'Mid tom 6 left',
      'High tom 7 left',
      'Crash 8 stereo',
      'Ride 9 left',
      'Percussion 10 stereo',
      'Overheads 11 stereo',
      'Room 12 stereo',
    ],
  );
  assert.ok(
    takers(s).every((t) => [line(s, 'Deck kit bus').id, line(s, 'Toms').id].includes(t.output.track)),
  );
  const kit = s.tracks.find((t) => t.role === 'instrument').chain[0].params;
  assert.ok(Object.entries(kit).every(([k, v]) => !k.endsWith('.out') || v !== 'main'));
  // again: the side stick gets a line, and every other line is as it was
  await p.click('Lay out the outputs');
  const again = await p.find('dialog', 'Lay out');
  await p.see('Everything is as it should be');
  await choose('Side stick becomes', 'a line of its own', again);
  await p.see('new line “Side stick”');
  await p.click('Lay it out', again);
  await p.see('on 12 outputs');
  const before2 = s;
  s = await doc();
  assert.equal(takers(s).length, 12);
  for (const t of takers(before2)) assert.deepEqual(line(s, t.name), t);
});

test('every part is struck and lands where its name says; the picture can be heard', async () => {
  await home();
  await p.click('Play');
  for (const name of ['Kick', 'Hats', 'Overheads', 'Deck kit bus']) await p.heard(name);
  await p.click('Stop');
  await open('Kit', 'Deck kit');
  await p.click('Tap test');
  await p.see('Hit every part again', 60000);
  const rows = await p.text(await p.find('table', 'Where every part lands'));
  assert.equal((rows.match(/✓ in its place/g) ?? []).length + (rows.match(/! low/g) ?? []).length, 16);
  await p.click('Hear Kick');
  assert.deepEqual(await p.axe(), []);
  await p.click('Lines');
});

test('broken in five ways, found each time, and mended from the check', async () => {
  await home();
  await open('Kit', 'Deck kit');
  await choose('Output of Kick', 'Main');
  await p.saved();
  await p.click('Tap test');
  await p.see('leaks to the main output', 60000);
  await p.click('Lines');
  await mended('Left on the main output', 'Bring it back to “Kick”');
  let s = await doc();
  assert.equal(line(s, 'Kit').chain[0].params['p1.out'], '1L');

  await open('Snare');
  await choose('Output of the instrument', '4');
  await mended('Parts on the wrong lines', 'Put “Snare” onto its part’s output');
  s = await doc();
  assert.equal(line(s, 'Snare').input.output, 3);

  await open('Crash');
  await choose('Side of the output', 'left');
  await mended('Half of a stereo output', 'Take both sides');
  s = await doc();
  assert.equal(line(s, 'Crash').input.take, 'stereo');

  await open('Kit pattern');
  await choose('MIDI port out', 'port C');
  await mended('Port of source and part differ', 'Send to port A');

  await p.click('Add a line');
  await p.click('Keys with a pattern');
  await open('Keys');
  await choose('MIDI channel in', 'ch 10');
  await mended('Two parts on one MIDI channel', 'Move “Keys” to port A, channel 1');
  s = await doc();
  assert.equal(line(s, 'Keys').input.channel, 1);
});

test('outputs come to a working level, and back', async () => {
  await home();
  await open('Kit', 'Deck kit');
  await p.click('Output levels');
  const sheet = await p.find('dialog', 'Output levels');
  await p.click('Set the trims', sheet);
  const kit = async () => line(await doc(), 'Kit').chain[0].params;
  await p.until('trims', async () => (await kit()).t8 !== 0);
  await p.click('Levelling off');
  await p.until('no trims', async () =>
    Object.entries(await kit()).every(([k, v]) => !/^t\d+$/.test(k) || v === 0),
  );
});

test('printed to audio with progress: the lines carry sound, the instrument sleeps, what is heard stays; restored in one step', async () => {
  await home();
  await open('Kit', 'Deck kit');
  const before3 = await doc();
  await p.click('Print to audio');
  const sheet = await p.find('dialog', 'Print');
  await p.see('Nothing found on what is to be printed');
  await p.click('Print', sheet);
  await p.see('lines are printed', 90000);
  const s = await doc();
  const printed = s.tracks.filter((t) => t.printed);
  assert.equal(printed.length, 12);
  assert.equal(line(s, 'Kit').chain[0].state, 'inactive');
  for (const t of printed) assert.equal(t.input.kind, 'none');
  for (const m of s.media.slice(-2)) assert.ok((await fetch(`${base}/api/media/${m.id}`)).ok);
  await p.click('Play');
  await p.heard('Kick');
  await p.click('Stop');
  await p.click('Restore the instrument');
  await p.see('The instrument plays again');
  assert.deepEqual((await doc()).tracks, before3.tracks);
});

test('a kit rig where its channel is taken: the sheet says so, kit and pattern move together, and both play', async () => {
  await home();
  await p.chord(Key.CONTROL, 'k');
  await p.keys('Drop “Deck kit on twelve');
  await p.see('Drop “Deck kit on twelve outputs” as new lines');
  await p.keys(Key.ENTER);
  const sheet = await p.find('dialog', 'Drop');
  const text = (await p.text(sheet)).replace(/\s+/g, ' ');
  assert.match(
    text,
    /Deck kit, Deck beat · MIDI channel port A, channel 10 → port A, channel \d+ .* already listens to port A, channel 10/,
  );
  await p.click('Drop', sheet);
  await p.see('Intact report');
  await p.see('nothing lost');
  await p.see('Null test: −∞ dB', 90000);
  await p.click('Done');
  const s = await doc();
  const [beat, kit] = [line(s, 'Deck beat'), line(s, 'Deck kit')];
  assert.equal(beat.output.channel, kit.input.channel);
  assert.notEqual(kit.input.channel, 10);
  await p.click('Line check: ');
  await p.see('Line check of');
  assert.ok(!(await p.text()).includes('Two parts on one MIDI channel'));
  await p.click('Lines');
});

test('more parts than a player has go on a second one; notes come from a MIDI file and go out as one', async () => {
  id = await copy('Parts evening', 'ninth-wave-out');
  await p.go(`/session/${id}`);
  await p.line('Lead voice');
  await p.click('Add a line');
  await p.click('Parts player');
  const sheet = await p.find('dialog', 'A parts player');
  await p.type('Name of the player', 'Shanty parts');
  for (let i = 0; i < 15; i++) await p.click('Add a part', sheet);
  await p.see('a further player on port');
  await p.click('Lay it out', sheet);
  await p.see('17 parts on 2 players');
  const s = await doc();
  assert.deepEqual(
    s.tracks
      .filter((t) => /^Shanty parts/.test(t.name) && t.role === 'instrument')
      .map((t) => t.chain.length),
    [1, 1],
  );
  const file = join(p.downloads, 'strings.mid');
  writeFileSync(
    file,
    Buffer.from(
      writeMidi({
        header: { format: 0, numTracks: 1, ticksPerBeat: 96 },
        tracks: [
          [
            { deltaTime: 0, type: 'noteOn', channel: 4, noteNumber: 62, velocity: 90 },
            { deltaTime: 192, type: 'noteOff', channel: 4, noteNumber: 62, velocity: 0 },
            { deltaTime: 0, meta: true, type: 'endOfTrack' },
          ],
        ],
      }),
    ),
  );
  await open('Strings notes');
  await (await p.find('input[type=file]', 'Choose a MIDI file')).sendKeys(file);
  await p.see('1 notes on channel 5');
  await p.click('Save as MIDI');
  const back = parseMidi(readFileSync(await p.download(/^Strings notes.*\.mid$/)));
  assert.deepEqual(
    back.tracks[1].filter((e) => e.type === 'noteOn').map((e) => [e.channel, e.noteNumber, e.velocity]),
    [[4, 62, 90]],
  );
});

test('what a line hears is chosen on the line; ports that the studio does not have are told', async () => {
  id = await copy('Studio', 'ninth-wave-out');
  await p.go(`/session/${id}`);
  await open('Lead voice');
  await choose('Input', 'hardware');
  await p.type('Hardware input', 'Booth 3');
  await p.keys(Key.TAB);
  await p.click('Session menu');
  await p.click('Hardware of this session');
  const sheet = await p.find('dialog', 'Hardware of this session');
  assert.deepEqual(await p.axe(), []);
  await p.choose('Move this session to', 'Harbour Hall', sheet);
  // it has an input that sounds alike, but the booth is meant
  await p.see('similar name', 10000, sheet);
  await p.choose('Input from Booth 3: there', 'Booth 3', sheet);
  await p.click('Move to Harbour Hall', sheet);
  await p.see('Line check: 1');
  await p.click('Line check: 1 found');
  await p.see('“Lead voice” uses the input “Booth 3”, which “Harbour Hall” does not have.');
  await p.click('Lines');
  await open('Lead voice');
  await choose('Input', 'nothing');
  await p.see('Line check: 0');
  // an instrument hears only the keys that its line lets in
  await p.click('Add a line');
  await p.click('Keys with a pattern');
  await open('Keys');
  await p.type('Lowest key let in', '60');
  await p.keys(Key.TAB);
  await p.check('controllers too');
  const s = await doc();
  assert.deepEqual(line(s, 'Keys').input.filter, { low: 60, high: 127, controllers: false });
  assert.equal(s.setup.studio.ports.filter((x) => x.side === 'in').length, 16);
  await open('Keys pattern', 'Pattern source');
  await p.click('Layer 1, step 2: silent');
  await p.find('button', 'Layer 1, step 2: soft');
  await choose('Channel of layer 1', '7');
  assert.match(line(await doc(), 'Keys pattern').chain[0].params['l1.steps'], /^Xo/);
});
