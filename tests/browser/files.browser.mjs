// Long files: seen on their way, cut off and gone on with, stopped; in and out again.
import assert from 'node:assert/strict';
import { mkdtempSync, statSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { after, before, test } from 'node:test';
import { writeWav } from '../../dist/node/core/index.js';
import { copy, document, withTracks, changed } from './api.mjs';
import { openBrowser } from './driver.mjs';

const base = process.env.BASE;
const folder = mkdtempSync(join(tmpdir(), 'rope-shelf-long-'));
const SECONDS = 120;
let p;
before(async () => {
  p = await openBrowser(base);
});
after(async () => {
  // the line is cut on purpose
  const said = (await p.errors()).filter((e) => !e.includes('/api/uploads') && !e.includes('ERR_INTERNET'));
  assert.deepEqual(said, []);
  await p.quit();
});

/** The line to the server: bytes a second, or cut. */
const network = (bytesASecond, offline = false) =>
  p.driver.setNetworkConditions({
    offline,
    latency: 5,
    download_throughput: bytesASecond,
    upload_throughput: bytesASecond,
  });
/** A session with two minutes of stereo sound, as a file of another program. */
async function longFile(name) {
  const side = Float32Array.from({ length: SECONDS * 48000 }, (_, i) => 0.3 * Math.sin(i / 9 + (i % 977)));
  const sound = await fetch(`${base}/api/media?name=watch.wav`, {
    method: 'POST',
    headers: { 'Content-Type': 'audio/wav' },
    body: writeWav([side, side], 48000, 24),
  });
  const ref = await sound.json();
  const id = await copy(name, 'kelp-and-copper');
  await changed(id, (s) => [{ op: 'replace', path: '/media', value: [...s.media, ref] }]);
  const clip = { id: 'long', media: ref.id, start: 0, offset: 0, length: SECONDS, gain: 0 };
  await withTracks(id, (tracks) => tracks.map((t) => (t.name === 'Bass' ? { ...t, clips: [clip] } : t)));
  const out = await fetch(`${base}/api/sessions/${id}/export`);
  const path = join(folder, `${name}.dawproject`);
  writeFileSync(path, Buffer.from(await out.arrayBuffer()));
  assert.ok(statSync(path).size > 34e6, 'sound is stored as it is');
  return { path, media: ref.id };
}
const give = async (path) => {
  const input = await p.driver.findElement({ css: 'main input[type="file"]' });
  await input.sendKeys(path);
};

test('a file of 35 MB over a slow line: seen on its way, cut, gone on with, and there; stopped another time', async () => {
  const { path, media } = await longFile('Long watch');
  await p.go('/sessions');
  await p.find('button', 'New session');
  await network(6e6);
  await give(path);
  await p.find('progress', 'Sending Long watch.dawproject');
  await p.see('% of');
  assert.deepEqual(await p.axe(), []);
  await network(6e6, true);
  await p.see('it goes on when it is back');
  await network(1e9);
  await p.see('“Long watch.dawproject” is imported');
  assert.equal(await p.has('progress', 'Sending Long watch.dawproject'), null);
  await p.click('Open it');
  await p.line('Bass');
  const id = (await p.driver.getCurrentUrl()).split('/').pop();
  const bass = (await document(id)).tracks.find((t) => t.name === 'Bass');
  assert.equal(bass.clips[0].media, media);

  await p.go('/sessions');
  await p.find('button', 'New session');
  await network(4e6);
  await give(path);
  await p.click('Stop sending Long watch.dawproject');
  await p.see('was not taken in: you stopped it');
  await network(1e9);
});

test('a sound on a slow line is for the session that it was put into, not for a copy that is open by then', async () => {
  const first = await copy('Slow watch', 'kelp-and-copper');
  const second = await copy('Other watch', 'kelp-and-copper');
  const before = await document(second);
  await p.go(`/session/${first}`);
  await p.click('Line Lead voice', await p.line('Lead voice'));
  await network(150e3);
  const side = Float32Array.from({ length: 4 * 48000 }, (_, i) => 0.3 * Math.sin(i / 9));
  const wav = Buffer.from(writeWav([side], 48000, 24)).toString('base64');
  await p.js(
    `const bytes = Uint8Array.from(atob(arguments[0]), (c) => c.charCodeAt(0));
     const dataTransfer = new DataTransfer();
     dataTransfer.items.add(new File([bytes], 'gull.wav', { type: 'audio/wav' }));
     const place = [...document.querySelectorAll('.border-dashed')].pop();
     place.dispatchEvent(new DragEvent('drop', { bubbles: true, cancelable: true, dataTransfer }));`,
    wav,
  );
  await p.see('Reading “gull.wav”');
  await p.click('Sessions');
  await p.click('Other watch');
  await p.until('the other session', () => p.js('return location.pathname.endsWith(arguments[0])', second));
  await p.line('Lead voice');
  await p.see('“Slow watch” is not open any more, so nothing was changed in it: Sound “gull.wav”.', 60000);
  await network(1e9);
  assert.deepEqual(await document(second), before);
});

test('a recorded space on a slow line is for the device that it was given to, not for a session that is open by then', async () => {
  const first = await copy('Slow vault', 'kelp-and-copper');
  const second = await copy('Other vault', 'kelp-and-copper');
  const before = await document(second);
  await p.answerLate('/api/media', 4000);
  await p.go(`/session/${first}`);
  await p.click('Line Lead voice', await p.line('Lead voice'));
  await p.click('Add a device to Lead voice');
  await p.click('Convolution reverb');
  const panel = await p.find('section', 'Convolution reverb on Lead voice');
  const path = join(folder, 'vault.wav');
  writeFileSync(path, writeWav([Float32Array.from({ length: 9600 }, (_, i) => (i ? 0 : 0.9))], 48000, 24));
  await (await p.find('input[type=file]', 'Your own impulse response', panel)).sendKeys(path);
  await p.see('Reading …', 0, panel);
  await p.click('Sessions');
  await p.click('Other vault');
  await p.until('the other session', () => p.js('return location.pathname.endsWith(arguments[0])', second));
  await p.see(
    '“Slow vault” is not open any more, so nothing was changed in it: Impulse response of Convolution reverb: vault.wav.',
  );
  assert.deepEqual(await document(second), before);
});
