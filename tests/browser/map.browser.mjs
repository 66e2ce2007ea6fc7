// The signal map in the real interface: a session as a graph, traced, folded, searched, followed, saved.
import assert from 'node:assert/strict';
import { readFileSync } from 'node:fs';
import { after, before, test } from 'node:test';
import { Key } from 'selenium-webdriver';
import { api } from './api.mjs';
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

const node = (name) => p.find('[data-node]', name);
const opacity = async (e) => Number(await p.js('return getComputedStyle(arguments[0]).opacity', e));
const flows = (kind) =>
  p.js('return document.querySelectorAll(`[data-flow="${arguments[0]}"]`).length', kind);
/** where every box is seen */
const places = () =>
  p.js(
    'return Object.fromEntries([...document.querySelectorAll("[data-node]")].map((e) => { const r = e.getBoundingClientRect(); return [e.getAttribute("aria-label").split(/ (audio|bus|return|master|speakers)/)[0], [Math.round(r.x), Math.round(r.y)]]; }))',
  );

test('from the lines to the map: every line, kind of connection and the key stand on it; hovering lights the path; a click goes to the line', async () => {
  const id = (await api('POST', '/sessions', { name: 'Mapped', copyOf: 'lantern-room' })).id;
  await p.go(`/session/${id}`);
  await p.line('Lead voice');
  await p.click('Map');
  await node('Trigger');
  assert.deepEqual([await flows('output'), await flows('send'), await flows('key')], [11, 6, 1]);
  const trigger = await node('Trigger');
  assert.match(
    await p.js('return arguments[0].getAttribute("aria-label")', trigger),
    /Trigger audio; is the key of All but the drums/,
  );
  await p.driver.actions().move({ origin: trigger }).perform();
  const border = async (name) =>
    p.js('return Number(arguments[0].querySelector("rect").getAttribute("stroke-width"))', await node(name));
  await p.until('the path to be lit', async () => (await border('All but the drums')) > 2);
  assert.ok((await border('Master')) > 2);
  assert.ok((await border('Bass')) < 2);
  assert.equal(await opacity(await node('Bass')), 1);
  // with Shift held only the path is seen
  await p.driver.actions().keyDown(Key.SHIFT).perform();
  await p.until('the rest to dim', async () => (await opacity(await node('Bass'))) < 0.5);
  assert.equal(await opacity(await node('Master')), 1);
  await p.driver.actions().keyUp(Key.SHIFT).perform();
  await p.until('all of it again', async () => (await opacity(await node('Bass'))) === 1);
  await p.driver.actions().move({ x: 5, y: 5 }).perform();
  await p.until('nothing lit', async () => (await border('Master')) < 2);
  assert.deepEqual(await p.axe(), []);
  await (await node('Concertina')).click();
  await p.until('the line', () => p.js('return location.pathname.endsWith(arguments[0])', `/session/${id}`));
  await p.find('section', 'Line Concertina');
});

test('what is connected anew appears; what stood stays put in order; a double path stands out, in words too', async () => {
  const id = (await api('POST', '/sessions', { name: 'Mapped twice', copyOf: 'kelp-and-copper' })).id;
  await p.go(`/session/${id}/map`);
  await node('Choir');
  assert.ok(!(await p.text()).includes('double paths'));
  await p.until('the map to be in place', async () => Object.keys(await places()).length >= 10);
  const before = await places();
  const { revision, document: s } = await api('GET', `/sessions/${id}`);
  const bass = s.tracks.findIndex((t) => t.name === 'Bass');
  const bus = s.tracks.find((t) => t.name === 'Voice bus');
  // a send beside the output, both dry: it sounds twice
  await api(
    'PATCH',
    `/sessions/${id}`,
    [
      {
        op: 'add',
        path: `/tracks/${bass}/sends/-`,
        value: { id: 'again', to: bus.id, level: -6, tap: 'post', panMode: 'follow', pan: 0, on: true },
      },
    ],
    { 'If-Match': `"${revision}"` },
  );
  await p.see('on double paths');
  await p.until('the new flow', () =>
    p.js(
      'return [...document.querySelectorAll("title")].some((t) => t.textContent.includes("Bass sends to Voice bus") && t.textContent.includes("one of two ways"))',
    ),
  );
  const after = await places();
  assert.ok(
    Object.keys(before).filter(
      (k) => Math.abs(before[k][0] - after[k][0]) <= 2 && Math.abs(before[k][1] - after[k][1]) <= 2,
    ).length >= 5,
    JSON.stringify([before, after]),
  );
  // turning a knob does not move anything
  const now = await api('GET', `/sessions/${id}`);
  await api(
    'PATCH',
    `/sessions/${id}`,
    [{ op: 'replace', path: `/tracks/${bass}/sends/0/on`, value: false }],
    { 'If-Match': `"${now.revision}"` },
  );
  await p.gone('on double paths');
  assert.deepEqual(await places(), after);
});

test('two hundred lines: folders folded at first, opened by click, found by name, moved through by keyboard', async () => {
  const id = (await api('POST', '/sessions', { name: 'Two hundred' })).id;
  const { createTrack, createSend } = await import('../../dist/node/core/index.js');
  const { document: s } = await api('GET', `/sessions/${id}`);
  const master = s.tracks[0];
  const out = { kind: 'track', track: master.id };
  const plate = createTrack('return', { name: 'Plate', output: out });
  const tracks = Array.from({ length: 18 }, (_, k) => {
    const f = createTrack('folder', { name: `Crew ${k + 1}`, output: out });
    return [
      f,
      ...Array.from({ length: 10 }, (_x, i) =>
        createTrack('audio', {
          name: `Hand ${k + 1}.${i + 1}`,
          folder: f.id,
          output: out,
          sends: [createSend(plate.id, { level: -12 })],
        }),
      ),
    ];
  }).flat();
  await api(
    'PATCH',
    `/sessions/${id}`,
    [{ op: 'replace', path: '/tracks', value: [...tracks, plate, master] }],
    { 'If-Match': '"1"' },
  );
  await p.go(`/session/${id}/map`);
  await node('Crew 7');
  assert.ok(!(await p.has('[data-node]', 'Hand 7.4')));
  await p.click('Open Crew 7');
  await node('Hand 7.4');
  await p.click('Folders');
  await p.click('Crew 7', await p.find('[role="menu"]', 'Folders'));
  await p.until('folded', async () => !(await p.has('[data-node]', 'Hand 7.4')));
  await p.click('Folders');
  await p.click('Open all');
  await node('Hand 18.10');
  await p.type('Find on the map', 'hand 12.3');
  await p.see('1 found');
  await p.keys(Key.ENTER);
  await p.until('it to be in the middle, near enough to be read', async () => {
    const r = await (await node('Hand 12.3')).getRect();
    return r.width > 120 && r.x > 300 && r.x < 900 && r.y > 100 && r.y < 700;
  });
});

test('saved as SVG and as PNG, with its colours written out', async () => {
  await p.go('/session/lantern-room/map');
  await node('Trigger');
  for (const kind of ['As a drawing', 'As a picture']) {
    await p.click('Save the map');
    await p.click(kind);
  }
  const png = readFileSync(await p.download(/\.png$/));
  const svg = readFileSync(await p.download(/\.svg$/));
  assert.equal(png.subarray(1, 4).toString(), 'PNG');
  assert.ok(png.readUInt32BE(16) > 900, 'twice the size');
  const text = svg.toString();
  for (const word of ['Trigger', 'All but the drums', 'Speakers']) assert.ok(text.includes(word), word);
  assert.ok(!text.includes('var(--'));
});
