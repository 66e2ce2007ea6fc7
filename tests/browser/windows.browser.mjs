// Two windows on one session, a server that goes away, the keyboard alone, axe-core, and the browser's own
// filters as a reference.
import assert from 'node:assert/strict';
import { after, before, test } from 'node:test';
import { Key, openBrowser } from './driver.mjs';
import { cookbook, sectionAt } from '../../dist/node/core/devices/biquad.js';

let a;
let b;
const base = process.env.BASE;
before(async () => {
  [a, b] = [await openBrowser(base), await openBrowser(base)];
});
after(async () => {
  await Promise.all([a?.quit(), b?.quit()]);
});

const api = async (method, path, body, headers = {}) => {
  const r = await fetch(`${base}/api${path}`, {
    method,
    headers: { 'Content-Type': 'application/json', ...headers },
    body: body && JSON.stringify(body),
  });
  return r.status === 204 ? null : r.json();
};
const fresh = async (name) => (await api('POST', '/sessions', { name, copyOf: 'kelp-and-copper' })).id;
const level = async (p, line, text) => {
  const row = await p.line(line);
  await p.click(`Level of ${line}:`, row);
  await p.keys(text, Key.ENTER);
};

test('a change in one window arrives in the other; different values from both are both kept', async () => {
  const id = await fresh('Two windows');
  await Promise.all(
    [a, b].map(async (p) => {
      await p.go(`/session/${id}`);
      await p.line('Choir');
    }),
  );
  await level(a, 'Choir', '-11');
  await b.until('the new level', async () => (await b.text(await b.line('Choir'))).includes('−11.0 dB'));
  await Promise.all([level(a, 'Bass', '-15'), level(b, 'Concertina', '-16')]);
  for (const p of [a, b]) {
    await p.until(
      'both changes',
      async () =>
        (await p.text(await p.line('Bass'))).includes('−15.0 dB') &&
        (await p.text(await p.line('Concertina'))).includes('−16.0 dB'),
    );
    await p.saved();
  }
});

test('history: every step of both windows with its words; undo goes on after a reload; back to any step, as a new one', async () => {
  const id = await fresh('Log of the night');
  await Promise.all([a.go(`/session/${id}`), b.go(`/session/${id}`)]);
  await level(a, 'Choir', '-11');
  await level(a, 'Bass', '-15');
  await a.saved();
  await b.until('the new level', async () => (await b.text(await b.line('Bass'))).includes('−15.0 dB'));
  await level(b, 'Concertina', '-16');
  await b.saved();
  await a.go(`/session/${id}`);
  await a.line('Choir');
  await a.until('a step to undo', () =>
    a.js('return !document.querySelector(\'button[title^="Undo: "]\').disabled'),
  );
  await a.chord(Key.CONTROL, 'z');
  await a.see('Undone:');
  await a.chord(Key.CONTROL, 'z');
  await a.until('Bass as it was', async () => !(await a.text(await a.line('Bass'))).includes('−15.0 dB'));
  assert.ok((await a.text(await a.line('Choir'))).includes('−11.0 dB'));
  await a.saved();
  await a.click('Session menu');
  await a.click('History …');
  const d = await a.find('dialog', 'History');
  await a.see('Undone:', 5000, d);
  assert.deepEqual(await a.axe(), []);
  const steps = (await api('GET', `/sessions/${id}/history`)).map((e) => [e.kind, e.label.includes('level')]);
  assert.equal(steps.length, 5);
  assert.equal(steps.filter(([kind]) => kind === 'undo').length, 2);
  await a.click('Go back to after: Level of Concertina', d);
  await a.until('Bass again', async () => (await a.text(await a.line('Bass'))).includes('−15.0 dB'));
  await b.until('the other window too', async () =>
    (await b.text(await b.line('Bass'))).includes('−15.0 dB'),
  );
  assert.equal((await api('GET', `/sessions/${id}/history`)).length, 6);
});

test('the same value changed in both while one was offline: shown side by side, one is chosen, nothing is silently lost', async () => {
  const id = await fresh('Conflict');
  await Promise.all(
    [a, b].map(async (p) => {
      await p.go(`/session/${id}`);
      await p.line('Choir');
    }),
  );
  await a.driver.setNetworkConditions({
    offline: true,
    latency: 0,
    download_throughput: 0,
    upload_throughput: 0,
  });
  await level(a, 'Choir', '-20');
  await a.see('kept here until the server is back', 20000);
  await level(b, 'Choir', '-5');
  await b.saved();
  await a.driver.setNetworkConditions({
    offline: false,
    latency: 0,
    download_throughput: 1e8,
    upload_throughput: 1e8,
  });
  const d = await a.find('dialog', 'Changed in two windows', undefined, 30000);
  await a.see('−20', 5000, d);
  await a.see('−5', 5000, d);
  await a.click('Take the other window’s', d);
  await a.until('theirs', async () => (await a.text(await a.line('Choir'))).includes('−5.0 dB'));
  await a.click('Undo');
  await a.until('mine again', async () => (await a.text(await a.line('Choir'))).includes('−20.0 dB'));
  await a.saved();
  await b.until('it in the other window', async () =>
    (await b.text(await b.line('Choir'))).includes('−20.0 dB'),
  );
});

test('work that could not be sent survives closing the window', async () => {
  const id = await fresh('Closed too early');
  await a.go(`/session/${id}`);
  await a.line('Bass');
  await a.driver.setNetworkConditions({
    offline: true,
    latency: 0,
    download_throughput: 0,
    upload_throughput: 0,
  });
  await level(a, 'Bass', '-33');
  await a.see('kept here until the server is back', 20000);
  await a.driver.setNetworkConditions({
    offline: false,
    latency: 0,
    download_throughput: 1e8,
    upload_throughput: 1e8,
  });
  // the page as it is never gets through again
  await a.js('window.fetch = () => Promise.reject(new Error("gone"))');
  await a.go(`/session/${id}`);
  await a.see('kept in this browser and are in place again');
  await a.until('the level', async () => (await a.text(await a.line('Bass'))).includes('−33.0 dB'));
  await a.saved();
});

test('a window that closes 30 ms after a change, and two that could not send: all of it comes back', async () => {
  const id = await fresh('Closed at once');
  for (const p of [a, b]) {
    await p.go(`/session/${id}`);
    await p.line('Bass');
    await p.js('window.fetch = () => Promise.reject(new Error("gone"))');
  }
  const closeAfter = async (p, line, text) => {
    await p.click(`Level of ${line}:`, await p.line(line));
    await p.keys(text);
    await p.js(
      'document.activeElement.dispatchEvent(new KeyboardEvent("keydown", { key: "Enter", bubbles: true }));' +
        'setTimeout(() => { location.href = "/sessions"; }, 30);',
    );
    await p.see('New session');
  };
  await closeAfter(b, 'Concertina', '-29');
  await closeAfter(a, 'Bass', '-27');
  await a.go(`/session/${id}`);
  await a.see('kept in this browser and are in place again');
  await a.until('the level', async () => (await a.text(await a.line('Bass'))).includes('−27.0 dB'));
  // the other browser keeps its own
  await b.go(`/session/${id}`);
  await b.see('kept in this browser and are in place again');
  for (const p of [a, b]) {
    await p.until('the concertina', async () =>
      (await p.text(await p.line('Concertina'))).includes('−29.0 dB'),
    );
    await p.saved();
  }
});

test('a preset that is gone and a session that is gone: said plainly, with a way on', async () => {
  await a.go('/shelf/no-such-preset');
  await a.see('This preset is not there');
  await a.go('/session/no-such-session');
  await a.see('This session is not there');
  await a.click('To the sessions');
  await a.see('New session');
});

test('by keyboard alone: lines, devices, states, palette, comparison, undo', async () => {
  const id = await fresh('Keys only');
  await a.go(`/session/${id}`);
  await a.line('Lead voice');
  await a.keys(Key.ARROW_DOWN, Key.ARROW_DOWN);
  await a.find('section', 'Line Concertina');
  await a.keys(']');
  await a.find('section', 'Tame the reeds on Concertina');
  await a.keys(']', 'i');
  await a.until('inactive', async () => (await a.tiles('Concertina'))[1] === 'Bellows, inactive');
  await a.keys('m');
  await a.until(
    'muted',
    async () =>
      (await a.js(
        'return document.querySelector(\'[aria-label="Mute Concertina"]\').getAttribute("aria-pressed")',
      )) === 'true',
  );
  await a.chord(Key.CONTROL, 'z');
  await a.until(
    'unmuted',
    async () =>
      (await a.js(
        'return document.querySelector(\'[aria-label="Mute Concertina"]\').getAttribute("aria-pressed")',
      )) === 'false',
  );
  await a.keys(' ');
  await a.until('playing', async () => (await a.position()) > 0.3);
  await a.keys(' ');
  await a.chord(Key.CONTROL, 'k');
  await a.type('Find or do', 'add delay');
  await a.keys(Key.ENTER);
  await a.until('the delay', async () => (await a.tiles('Concertina')).at(-1) === 'Delay, on');
  await a.keys('?');
  await a.see('With or without, at equal loudness');
  await a.keys(Key.ESCAPE);
  await a.keys('/');
  await a.until('the search field', () => a.js('return document.activeElement.id === "shelf-search"'));
  await a.keys('telephone');
  await a.until('one hit', () => a.js('return document.querySelectorAll("[data-preset]").length === 1'));
  await a.keys(Key.TAB, Key.ENTER);
  // everything that it sends to is here under its own sound: one key is enough, and one takes it back
  await a.see('“Ship-to-shore telephone” is in');
  await a.line('Telephone');
  await a.js('document.activeElement.blur()');
  await a.chord(Key.CONTROL, 'z');
  await a.until('it to be gone', async () => !(await a.lines()).includes('Telephone'));
});

test('axe-core finds nothing, day, night and forced colours', async () => {
  const found = [];
  const look = async (where) => {
    found.push(...(await b.axe()).map((v) => `${where}: ${v}`));
  };
  await b.go('/sessions');
  await b.see('Kelp and Copper');
  await look('sessions');
  await b.go('/session/kelp-and-copper');
  await b.line('Lead voice');
  await look('session, line');
  for (const name of ['Clean up', 'Close and warm', 'Line-end echo']) {
    await (await b.find('button', name, await b.line('Lead voice'))).click();
    await b.find('section', name);
    await b.driver.actions().move({ x: 5, y: 5 }).perform();
    await b.until('no hover', () => b.js('return !document.querySelector(".line.dim")'));
    await look('session, ' + name);
  }
  await b.click('What to do with Lead, close and warm');
  await b.click('Look before dropping');
  await b.find('dialog', 'Drop “Lead');
  await look('drop sheet');
  await b.keys(Key.ESCAPE);
  await b.keys('k');
  await b.find('dialog', 'Save');
  await look('save sheet');
  await b.keys(Key.ESCAPE);
  await b.go('/shelf');
  await b.see('What to touch first');
  await look('shelf');
  assert.deepEqual(found, []);
});

test('EQ bands against the browser’s own BiquadFilterNode.getFrequencyResponse (Web Audio API)', async () => {
  // Web Audio's bells, shelves, notch and band-pass follow the same cookbook; its low- and high-pass take Q
  // in dB, its shelves a slope of 1
  const cases = [
    ['peaking', 'bell', 1000, 6, 1.3],
    ['peaking', 'bell', 90, -11, 0.4],
    ['notch', 'notch', 500, 0, 4],
    ['bandpass', 'bandPass', 2500, 0, 2],
    ['lowshelf', 'lowShelf', 200, 7, Math.SQRT1_2],
    ['highshelf', 'highShelf', 6000, -9, Math.SQRT1_2],
    ['lowpass', 'lowPass', 3000, 0, Math.SQRT1_2],
    ['highpass', 'highPass', 120, 0, 1.5],
  ];
  const freqs = [30, 100, 250, 500, 1000, 2500, 6000, 12000, 19000];
  for (const [native, ours, f, gain, q] of cases) {
    const theirs = await b.js(
      `const [type, f, gain, q, freqs] = arguments; const c = new OfflineAudioContext(1, 1, 48000); const n = new BiquadFilterNode(c, { type, frequency: f, gain, Q: type === 'lowpass' || type === 'highpass' ? 20 * Math.log10(q) : q });
      const m = new Float32Array(freqs.length); n.getFrequencyResponse(Float32Array.from(freqs), m, new Float32Array(freqs.length)); return [...m];`,
      native,
      f,
      gain,
      q,
      freqs,
    );
    freqs.forEach((x, i) => {
      const mine = Math.hypot(...sectionAt(cookbook(ours, f, gain, q, 48000), x, 48000));
      if (theirs[i] > 1e-4) {
        assert.ok(
          Math.abs(20 * Math.log10(mine / theirs[i])) < 0.02,
          `${native} at ${x} Hz: ${mine} against ${theirs[i]}`,
        );
      }
    });
  }
});
