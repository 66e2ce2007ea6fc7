// A preset meets another voice: remembered when it is saved, fitted on the drop and later; takes are evened out.
import assert from 'node:assert/strict';
import { after, before, test } from 'node:test';
import { writeWav } from '../../dist/node/core/index.js';
import { api, changed, copy, document, withTracks } from './api.mjs';
import { Key, openBrowser } from './driver.mjs';

const base = process.env.BASE;
let p;
let id;
before(async () => {
  p = await openBrowser(base);
  id = await copy('Another voice', 'kelp-and-copper');
});
after(async () => {
  assert.deepEqual(await p.errors(), []);
  await p.quit();
});
const lead = async () => {
  await p.saved();
  return (await document(id)).tracks.find((t) => t.name === 'Lead voice');
};
/** The lead's chain is left alone, and its sound made softer by its clip's gain. */
async function softer(db) {
  await withTracks(id, (tracks) =>
    tracks.map((t) =>
      t.name === 'Lead voice' ? { ...t, clips: t.clips.map((c) => ({ ...c, gain: db })) } : t,
    ),
  );
  await p.go(`/session/${id}`);
  await p.line('Lead voice');
}

test('a line is saved with what it sounded like; 9 dB softer, it is fitted in one press, and fits then', async () => {
  await p.go(`/session/${id}`);
  await p.click('Line Lead voice', await p.line('Lead voice'));
  await p.keys('k');
  const d = await p.find('dialog', 'Save “Lead voice” to the shelf');
  const radio = await p.has('box', 'As a new preset', d);
  if (radio) await p.check('As a new preset', d);
  await p.type('Name', 'Lead, as it was sung', d);
  await p.click('Save to the shelf', d);
  await p.see('is on the shelf', 60000);
  const { origin } = await lead();
  const { reference } = await api('GET', `/presets/${origin.preset}/versions/${origin.version}`);
  const [line] = Object.values(reference.lines);
  assert.ok(line.loudness > -40 && line.loudness < -10, `${line.loudness} LUFS`);
  await softer(-9);
  await p.click('More for Lead voice');
  await p.click('Fit to this sound …');
  const sheet = await p.find('dialog', 'Fit “Lead voice” to its sound');
  await p.see('Level in', 60000, sheet);
  assert.deepEqual(await p.axe(), []);
  // heard before it is done, at equal loudness, by its keys
  await p.keys('2');
  const fitted = await p.find('button', '2 Fitted', sheet);
  const isHeard = (button) => p.js('return arguments[0].getAttribute("aria-pressed") === "true"', button);
  await p.until('the fitted one to be heard', () => isHeard(fitted), 60000);
  await p.until('sound', async () => (await p.position()) > 0.3);
  await p.keys('1');
  const saved = await p.find('button', '1 As saved', sheet);
  await p.until('the saved one to be heard', () => isHeard(saved));
  const before = (await lead()).chain[0].params.gain;
  await p.click('Fit 1 value', sheet);
  assert.ok(Math.abs((await lead()).chain[0].params.gain - before - 9) < 0.15);
  await p.click('More for Lead voice');
  await p.click('Fit to this sound …');
  await p.see('Everything fits', 60000);
  await p.click('Close');
  // what was fitted is listed beside what was saved, and goes back
  await p.click('· as on the shelf');
  await p.see('saved as');
  await p.click('As saved: Level in · Gain');
  await p.until('the saved value', async () => (await lead()).chain[0].params.gain === before);
  await p.click('Close');
});

test('on the drop sheet what fits stands with its reason, and is made where it is ticked', async () => {
  await softer(-6);
  await p.click('More for Lead voice');
  await p.click('Drop a preset onto this line');
  await p.keys('Lead, as it was sung');
  await p.find('[role="option"]', 'Lead, as it was sung');
  await p.keys(Key.ENTER);
  const sheet = await p.find('dialog', 'Drop “Lead, as it was sung”');
  await p.see('Would fit the sound on this line', 60000, sheet);
  await p.see('It comes in at', 5000, sheet);
  const fits = await p.find('section', 'What fits its sound', sheet);
  const box = await p.js('return arguments[0].querySelector("input")', fits);
  assert.equal(await box.isSelected(), false);
  // heard before it is decided
  await p.click('3 Fitted', sheet);
  const fitted = await p.find('button', '3 Fitted', sheet);
  await p.until('it to be heard', async () => (await fitted.getAttribute('aria-pressed')) === 'true');
  await p.see('at equal loudness', 20000, await p.find('[role="group"]', 'Hear it at equal loudness', sheet));
  await p.click('1 As it is', sheet);
  await box.click();
  await p.click('Drop', sheet);
  await p.see('adapted', 15000);
  await p.click('Done');
  const { gain } = (await lead()).chain[0].params;
  assert.ok(Math.abs(gain - 8) < 0.2, `${gain} dB`);
});

test('clips: seen, split at silences, evened out; one step takes it back', async () => {
  await withBursts();
  await p.click('Line Lead voice', await p.line('Lead voice'));
  await p.click('Clips (1)');
  await p.click('Split clip 1');
  await p.until('two pieces', async () => (await lead()).clips.length === 2);
  await p.type('Gain of clip 1', '-12\n');
  await p.click('Even out …');
  const sheet = await p.find('dialog', 'Even out takes');
  await p.see('LUFS', 60000, sheet);
  assert.deepEqual(await p.axe(), []);
  await p.click('Even them out', sheet);
  await p.see('evened out');
  // the second piece is half as loud in the file
  assert.deepEqual(
    (await lead()).clips.map((c) => Math.round(c.gain)),
    [-12, -6],
  );
  await p.click('Undo');
  await p.until('the gains as they were', async () => (await lead()).clips[1].gain === 0);
});

/** The lead's sound becomes two tones of a second with a second between them, the second half as loud. */
async function withBursts() {
  const sound = Float32Array.from({ length: 3 * 48000 }, (_, i) => {
    const loud = [0.2, 0, 0.1][Math.floor(i / 48000)];
    return loud * Math.sin(i * 0.05);
  });
  const r = await fetch(`${base}/api/media?name=two%20tones.wav`, {
    method: 'POST',
    headers: { 'Content-Type': 'audio/wav' },
    body: writeWav([sound], 48000, 24),
  });
  const media = await r.json();
  const clip = { id: 'clip-tones', media: media.id, start: 0, offset: 0, length: 3, gain: 0 };
  await changed(id, ({ tracks }) => [
    {
      op: 'replace',
      path: '/tracks',
      value: tracks.map((t) => (t.name === 'Lead voice' ? { ...t, clips: [clip] } : t)),
    },
    { op: 'add', path: '/media/-', value: media },
  ]);
  await p.go(`/session/${id}`);
  await p.line('Lead voice');
}
