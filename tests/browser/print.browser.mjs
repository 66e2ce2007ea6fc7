// From an open session to its files: stems that add up, a plan that is kept, lines printed and restored.
import assert from 'node:assert/strict';
import { after, before, test } from 'node:test';
import { readFileSync } from 'node:fs';
import { readBroadcastExtension, readWav, readZip } from '../../dist/node/core/index.js';
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

/** The zip that was saved, once it is whole. */
const zipped = async (name) => readZip(new Uint8Array(readFileSync(await p.download(name))), name);

test('three clicks from the open session to a zip: stems that add up, loudness in each file', async () => {
  const id = await copy('Kelp to hand over', 'kelp-and-copper');
  await p.go(`/session/${id}`);
  await p.line('Lead voice');
  await p.click('Print');
  await p.see('The stems add up to what comes into the master.');
  assert.deepEqual(await p.axe(), []);
  await p.click('Print it');
  await p.see('All as a zip', 120000);
  // other tests may have put something on the session that cannot be divided: then it is told how much is left
  const proof = (await p.text()).replace(/\s+/g, ' ');
  assert.match(
    proof,
    /The stems add up to what comes into the master exactly|the stems leave −?[\d.∞]+ dBFS/,
  );
  assert.deepEqual(await p.axe(), []);
  assert.doesNotMatch(await p.text(), /The session was changed since/);
  await p.click('All as a zip');
  const files = await zipped('Kelp to hand over.zip');
  const names = Object.keys(files).sort();
  names.forEach((name, i) =>
    assert.match(name, new RegExp(`^${String(i + 1).padStart(2, '0')} Kelp to hand over .+\\.wav$`)),
  );
  assert.equal(names[0], '01 Kelp to hand over Mix.wav');
  assert.ok(names.some((name) => name.endsWith('Voice bus.wav')) && names.length >= 4, names.join());
  const sounds = Object.values(files).map((bytes) => readWav(bytes));
  assert.equal(new Set(sounds.map((s) => s.channels[0].length)).size, 1);
  const { loudness, truePeak } = readBroadcastExtension(files['01 Kelp to hand over Mix.wav']);
  assert.ok(loudness > -40 && loudness < -10 && truePeak < 0, `${loudness} LUFS, ${truePeak} dBTP`);
  // the same again in this window, bit for bit
  await p.click('Print in this window');
  await p.see('Printed in this window', 120000);
  await p.click('All as a zip');
  const here = await zipped('Kelp to hand over (1).zip');
  for (const name of names) {
    const [there, same] = [files[name], here[name]].map((bytes) => readWav(bytes).channels);
    assert.equal(same.length, there.length, name);
    there.forEach((side, c) => {
      const differs = side.findIndex((v, k) => v !== same[c][k]);
      assert.equal(differs, -1, `${name} differs from sample ${differs}`);
    });
  }
  await p.click('Markdown');
  const sheet = readFileSync(await p.download('Kelp to hand over, recall sheet.md'), 'utf8');
  assert.match(sheet, /## Lead voice/);
  assert.match(sheet, /\| Send to Plate \| −[\d.]+ dB, post-fader \|/);
  await p.click('PDF');
  const pdf = readFileSync(await p.download('Kelp to hand over, recall sheet.pdf'));
  assert.equal(pdf.subarray(0, 5).toString(), '%PDF-');
  await p.click('Compare with …');
  const d = await p.find('dialog', 'What changed in Kelp to hand over');
  await p.see('Nothing: both sheets say the same', 5000, d);
  await p.choose('Compared with', 'Ninth Wave Out', d);
  await p.see('not there', 5000, d);
  assert.deepEqual(await p.axe(), []);
  await p.click('Close', d);
  // the plan is only kept when it is changed
  assert.equal((await document(id)).print, undefined);
});

test('a plan is changed, kept with the session and undone; through the master the stems add up to the mix', async () => {
  const id = await copy('Kelp by line', 'kelp-and-copper');
  await p.go(`/session/${id}/print`);
  await p.click('a stem a line');
  await p.choose('How far all stems go', 'through the master too');
  await p.see('The stems add up to the mix');
  await p.choose('Level of the print', 'to a loudness');
  await p.type('Loudness (LUFS)', '-20\n');
  await p.click('Measure the mix');
  await p.see('−20.0 LUFS', 60000);
  await p.choose('What of the song', 'a part of it');
  await p.type('To (s)', '4\n');
  await p.click('Lines of Bass: Bass');
  const d = await p.find('dialog', 'Lines of Bass');
  await p.check('Deck drums', d);
  await p.click('Keep', d);
  await p.see('In more than one stem: Deck drums');
  await p.click('Remove the stem Deck drums');
  await p.saved();
  const { print } = await document(id);
  assert.deepEqual(print.level, { kind: 'loudness', target: -20, ceiling: -1 });
  assert.deepEqual(print.range, { from: 0, to: 4 });
  await p.click('Print it');
  await p.see('The stems add up to the mix exactly', 120000);
  await p.see('−20.0');
  assert.doesNotMatch(await p.text(), /The session was changed since/);
  await p.click('A first plan again');
  await p.see('The session was changed since');
  await p.saved();
  assert.equal((await document(id)).print, undefined);
});

test('marks, a range between two of them, FLAC: the files say so, on the server and in this window', async () => {
  const id = await copy('Kelp in parts', 'kelp-and-copper');
  await p.go(`/session/${id}/print`);
  for (const [n, name, at] of [
    [1, 'Verse', 2],
    [2, 'Refrain', 4.5],
  ]) {
    await p.click('Mark where the song stands');
    await p.type(`Name of the mark Mark ${n}`, `${name}\n`);
    await p.type(`Place of ${name} (s)`, `${at}\n`);
  }
  await p.choose('What of the song', 'between two marks');
  await p.type('Longest tail (s)', '0\n');
  await p.choose('Format of the files', 'FLAC, 24 bit');
  await p.saved();
  const { print } = await document(id);
  assert.deepEqual(print.marks, [
    { at: 2, name: 'Verse' },
    { at: 4.5, name: 'Refrain' },
  ]);
  assert.deepEqual(print.range, { from: 2, to: 4.5 });
  assert.deepEqual(await p.axe(), []);
  await p.click('Print it');
  await p.see('01 Kelp in parts Mix.flac', 60000);
  await p.click('Listen to Mix');
  await p.find('button', 'Stop Mix');
  await p.click('Stop Mix');
  await p.click('All as a zip');
  const there = await zipped('Kelp in parts.zip');
  await p.click('Print in this window');
  await p.see('Printed in this window', 60000);
  await p.click('All as a zip');
  const here = await zipped('Kelp in parts (1).zip');
  assert.deepEqual(Object.keys(here).sort(), Object.keys(there).sort());
  for (const [name, bytes] of Object.entries(there)) {
    // beginning and number of samples (RFC 9639, 8.2)
    for (const file of [bytes, here[name]]) {
      assert.equal(String.fromCharCode(...file.subarray(0, 4)), 'fLaC');
      assert.equal(new DataView(file.buffer, file.byteOffset).getUint32(22), 2.5 * 48000, name);
    }
  }
});

test('several sessions in a row to one loudness, as one zip; taken away again', async () => {
  for (const name of ['Low tide', 'High tide']) await copy(name, 'kelp-and-copper');
  await p.go('/prints');
  await p.click('Print several sessions …');
  const d = await p.find('dialog', 'Print several sessions');
  await p.check('Low tide', d);
  await p.check('High tide', d);
  await p.check('All to one loudness', d);
  assert.deepEqual(await p.axe(), []);
  await p.click('Print 2 sessions', d);
  const title = await p.until('the print of both', async () => {
    const [found] = /(Low|High) tide and 1 more/.exec(await p.text()) ?? [];
    return found;
  });
  const page = () => p.js('return document.querySelector("main").innerHTML');
  await p.until('both songs printed', async () => (await page()).includes(`${title} as a zip`), 120000);
  await p.click(title);
  await p.see('All songs at −23.0 LUFS');
  assert.deepEqual(await p.axe(), []);
  await p.click(`${title} as a zip`);
  const names = Object.keys(await zipped('Prints.zip'));
  assert.ok(
    names.includes('Low tide/01 Low tide Mix.wav') && names.includes('High tide/01 High tide Mix.wav'),
  );
  await p.click(`Remove the print of ${title}`);
  await p.until('the print gone', async () => !(await p.text()).includes(title));
});

test('a line is printed with its chain, sounds on as a sound, and is restored', async () => {
  const id = await copy('Kelp in print', 'kelp-and-copper');
  await p.go(`/session/${id}`);
  await p.line('Concertina');
  const lineNow = async () => (await document(id)).tracks.find((t) => t.name === 'Concertina');
  const before = await lineNow();
  await p.click('More for Concertina');
  await p.click('Print with the chain …');
  await p.click('Print', await p.find('dialog', 'Print “Concertina” to audio'));
  await p.see('The line is printed; the chain sleeps', 60000);
  const printed = await p.until('the printed line', async () => {
    const line = await lineNow();
    return line.printed && line;
  });
  assert.ok(printed.chain.every((x) => x.state === 'inactive'));
  assert.notEqual(printed.clips[0].media, before.clips[0].media);
  await p.click('More for Concertina');
  await p.click('Restore from the print');
  await p.until('the line as it was', async () => !(await lineNow()).printed);
  assert.deepEqual(await lineNow(), before);
});
