// The screens in use: sessions made, copied, deleted and brought back; the shelf searched and kept in order;
// the drop sheet's choices; folders; many lines; the look.
import assert from 'node:assert/strict';
import { after, before, test } from 'node:test';
import { fileURLToPath } from 'node:url';
import { build } from 'vite';
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
const copy = async (name, of = 'ninth-wave-out') => (await api('POST', '/sessions', { name, copyOf: of })).id;
const document = async (id) => (await api('GET', `/sessions/${id}`)).document;
const row = (name) => p.find('item', name);

test('a new session: its name is asked for, tempo and rate are kept, an empty one says what to do first', async () => {
  await p.go('/sessions');
  await p.click('New session');
  const d = await p.find('dialog', 'New session');
  await p.click('Make it', d);
  await p.see('Give the session a name', 5000, d);
  await p.type('Name', 'Fog signal', d);
  await p.type('Tempo (bpm)', '74', d);
  await p.choose('Sample rate', '44.1 kHz', d);
  await p.click('Make it', d);
  await p.see('This session has no lines yet');
  await p.see('44.1 kHz');
  assert.deepEqual(await p.lines(), ['Master']);
  await p.click('Add a line');
  await p.click('Return');
  await p.line('Return');
  await p.gone('This session has no lines yet');
  await p.saved();
});

test('whoever leaves the shelf before its list has come is not taken back by it', async () => {
  await p.go('/sessions');
  await row('Fog signal');
  const line = { offline: false, download_throughput: -1, upload_throughput: -1 };
  try {
    for (const latency of [300, 1500]) {
      await p.driver.setNetworkConditions({ ...line, latency });
      await p.click('Shelf');
      await p.until('the shelf', () => p.js('return location.pathname.startsWith("/shelf")'));
      await p.click('Sessions');
      await p.until('the sessions', () => p.js('return location.pathname === "/sessions"'));
      // longer than the list takes
      await new Promise((r) => setTimeout(r, 3 * latency));
      assert.equal(await p.js('return location.pathname'), '/sessions');
    }
  } finally {
    await p.driver.deleteNetworkConditions();
  }
});

test('while a session is long in coming a sheet opens; what comes after the lines comes with them', async () => {
  const id = await copy('Slow tide', 'kelp-and-copper');
  const tempo = [{ op: 'replace', path: '/tempo', value: 97 }];
  await api('PATCH', `/sessions/${id}`, tempo, { 'If-Match': '"1"' });
  const inTime = await p.answerLate(`/api/sessions/${id}`, 8000);
  await p.go(`/session/${id}`);
  await p.click('Guide');
  const guide = await p.find('dialog', 'Guide');
  await p.see('Opening the session …');
  await p.click('Close', guide);
  await inTime();
  await p.line('Slap');
  await p.find('section', 'Line Lead voice');
  await p.find('item', 'Ceiling at −1 dBTP', await p.find('group', 'Shelf'));
  await p.until('the step before to be known', async () => (await p.find('button', 'Undo')).isEnabled());
});

test('copied, renamed, deleted and brought back', async () => {
  await p.go('/sessions');
  await p.click('Copy Fog signal');
  await p.click('Fog signal, copy');
  // its own screen, before anything is pressed in it
  await p.line('Return');
  await p.click('Fog signal, copy', await p.find('main', ''), 'main button');
  await p.type('Session name', 'Fog signal, night' + Key.ENTER);
  await p.saved();
  await p.click('Sessions');
  await p.click('Delete Fog signal, night');
  await p.see('“Fog signal, night” was deleted');
  assert.equal(await p.has('item', 'Fog signal, night'), null);
  await p.click('Bring it back');
  await row('Fog signal, night');
});

test('more sessions than a page: all are reached, by their names and in their folders', async () => {
  const made = [];
  for (let i = 1; i <= 230; i++) {
    made.push((await api('POST', '/sessions', { name: `Evening ${i}` })).id);
  }
  await p.go('/sessions');
  await row('Evening 230');
  // the last of them comes as it is scrolled to
  const list = await p.find('main', '');
  await p.until('the first of them', async () => {
    await p.js('arguments[0].scrollTop += 500', list);
    return p.has('item', 'Evening 1 ');
  });
  const drawn = await p.js('return document.querySelectorAll("tbody tr").length');
  assert.ok(drawn < 100, `${drawn} rows are drawn`);
  await p.type('Find a session', 'evening 17');
  await p.until('those alone', async () => !(await p.has('item', 'Evening 230')));
  await p.click('Folder of Evening 170');
  const d = await p.find('dialog', 'Folder of “Evening 170”');
  await p.type('Folder', `Harbour tour${Key.ENTER}`, d);
  await p.click('Harbour tour', await p.find('[role="group"]', 'Folders'));
  await p.until(
    'the one in it',
    async () => (await p.js('return document.querySelectorAll("tbody tr").length')) === 1,
  );
  await p.type('Find a session', 'no such evening');
  await p.see('No session fits this search');
  await p.click('Show everything');
  // opened, it stands first
  await p.go(`/session/${made[2]}`);
  await p.line('Master');
  await p.until(
    'it to be first',
    async () => (await api('GET', '/sessions?limit=1')).items[0].id === made[2],
  );
  await p.go('/sessions');
  await row('Evening 3');
  for (const id of made) await api('DELETE', `/sessions/${id}`);
});

test('the shelf: filters, order, pins, names, tags, off the shelf and back', async () => {
  await p.go('/shelf');
  const names = () =>
    p.js(
      'return [...document.querySelectorAll(\'ul[aria-label="Presets"] li .font-semibold\')].map((e) => e.innerText)',
    );
  await p.until('eight strips or more', async () => (await names()).length >= 8);
  await p.click('Voice › Effect');
  await p.until('the effects', async () => {
    const n = await names();
    return (
      n.includes('Quiet whisper, forward') &&
      n.includes('Ship-to-shore telephone') &&
      !n.includes('Upright bass, steady')
    );
  });
  await p.click('telephone', await p.find('nav', 'Filters'));
  await p.until('one', async () => JSON.stringify(await names()) === '["Ship-to-shore telephone"]');
  await p.click('Show everything');
  await p.until('all', async () => (await names()).length >= 8);
  await p.click('Upright bass, steady');
  await p.until(
    'its page',
    async () =>
      (await p.js('return document.querySelector("article")?.getAttribute("aria-label")')) ===
      'Upright bass, steady',
  );
  await p.click('Pin');
  await p.find('button', 'Unpin');
  await p.check('Pinned only');
  await p.until('the pinned one', async () => JSON.stringify(await names()) === '["Upright bass, steady"]');
  await p.check('Pinned only');
  await p.type('Tags', 'bass, wooden' + Key.TAB);
  await p.until('the new tag', () => p.has('button', 'wooden'));
  await p.type('Name of the preset', 'Upright bass, walking' + Key.ENTER);
  await p.until('the new name in the list', async () => (await names()).includes('Upright bass, walking'));
  await p.click('Take off the shelf');
  await p.see('was taken off the shelf, into the trash. Sessions that use it keep their lines');
  await p.until('it to be gone', async () => !(await names()).includes('Upright bass, walking'));
  await p.click('Bring it back');
  await p.until('it to be back', async () => (await names()).includes('Upright bass, walking'));
  await p.type('Search the shelf', 'zzzz');
  await p.see('Nothing on the shelf fits this search');
});

test('still the same: a preset is rendered again and is equal; a device takes an earlier sound and comes back', async () => {
  await p.go('/shelf');
  await p.click('A fifth below, quiet');
  // its turn in the background may be yet to come: then the first press makes it
  await p.click('Compare now');
  await p.until('its fingerprint', async () =>
    /Fingerprint made|It sounds as it did/.test(
      await p.js('return document.querySelector("aside").innerText'),
    ),
  );
  await p.click('Compare now');
  await p.see('It sounds as it did when it was saved.');
  await p.go('/session/kelp-and-copper');
  await p.click('Plate, on');
  await p.click('More for Plate', await p.find('group', 'Plate on Plate'));
  await p.click('Revision 1, as it was');
  await p.see('Reverb revision 1, on Plate');
  await p.saved();
  await p.click('Undo');
  await p.gone('Reverb revision 1, on Plate');
  await p.saved();
});

test('a fingerprint made in this browser is equal to the one that Node makes', async () => {
  const entry = fileURLToPath(new URL('../../core/index.ts', import.meta.url));
  const lib = { entry, formats: ['es'], fileName: 'core' };
  const [{ output }] = await build({
    configFile: false,
    logLevel: 'silent',
    build: { write: false, minify: false, lib },
  });
  const core = await import('../../dist/node/core/index.js');
  const { makeDemo } = await import('../../dist/node/demo/index.js');
  const names = ['Lead, close and warm', 'Stone nave, far away', 'A fifth below, quiet'];
  const presets = makeDemo().presets.filter((x) => names.includes(x.name));
  assert.equal(presets.length, names.length);
  // a page of its own: the program's own page runs no code that did not come with it
  await p.driver.get('data:text/html,<title>sound</title>');
  await p.driver.manage().setTimeouts({ script: 120_000 });
  const there = await p.driver.executeAsyncScript(
    `const [code, presets, done] = arguments;
     import(URL.createObjectURL(new Blob([code], { type: 'text/javascript' })))
       .then(async (core) => {
         const prints = [];
         for (const preset of presets) prints.push(await core.makeFingerprint(preset));
         done(JSON.stringify(prints));
       })
       .catch((e) => done(String(e)));`,
    output[0].code,
    presets,
  );
  for (const [i, print] of JSON.parse(there).entries()) {
    const here = await core.makeFingerprint(presets[i]);
    assert.equal(core.likenessOf(here, print).verdict, 'equal', presets[i].name);
  }
});

test('from the shelf into a chosen session', async () => {
  const id = await copy('Chosen on the shelf');
  await p.go('/shelf');
  await p.click('Spoken word, even and near');
  await p.see('Set Level in so that talking');
  await p.click('Drop into a session');
  await p.click('Chosen on the shelf');
  const d = await p.find('dialog', 'Drop “Spoken word');
  await p.click('Drop', d);
  await p.see('nothing lost', 15000);
  await p.click('Done');
  await p.line('Spoken word');
  await p.saved();
  assert.ok((await document(id)).tracks.some((t) => t.name === 'Spoken word' && t.origin));
  await p.click('Shelf');
  await p.click('Spoken word, even and near');
  await p.see('Chosen on the shelf');
});

test('the drop sheet: an adaptation taken back, a loose end left open, an empty return made; the report says each', async () => {
  const id = await copy('Choices');
  await p.go(`/session/${id}`);
  await p.line('Crew choir');
  await p.click('What to do with Lead, close and warm');
  await p.click('Drop as a new line');
  const d = await p.find('dialog', 'Drop “Lead');
  await p.check('Slap · Slap · Time', d);
  await p.see('kept as it was saved', 5000, d);
  await p.choose('Send to Plate: tie to', 'Leave the send out', d);
  await p.see('One loose end is left open', 5000, d);
  await p.choose('Output to Voice bus: tie to', 'To the master', d);
  await p.click('Drop', d);
  await p.see('nothing lost', 15000);
  const report = (await p.text(await p.find('dialog', 'Intact report'))).replace(/\s+/g, ' ');
  assert.match(report, /left out on the drop sheet/);
  assert.match(report, /straight to the master/);
  const total = Number(/of (\d+) values intact/.exec(report)[1]);
  await p.check('Show all', await p.find('dialog', 'Intact report'));
  const rows = await p.rowsOf(await p.find('table', 'Value In the preset'));
  assert.ok(rows.some((row) => row.includes('Close and warm · Threshold')));
  assert.equal(rows.length, total);
  await p.click('Undo the drop');
  await p.until('it to be gone', async () => !(await p.lines()).includes('Lead voice 2'));
  await p.click('Redo');
  await p.line('Lead voice 2');
  await p.saved();
  const s = await document(id);
  const line = s.tracks.find((t) => t.name === 'Lead voice 2');
  assert.equal(line.sends.length, 1);
  assert.equal(s.tracks.find((t) => t.id === line.sends[0].to).chain[0].params.time, 156.25);
  // the report is kept with the session
  await p.go(`/session/${id}`);
  await p.click('Line Lead voice 2', await p.line('Lead voice 2'));
  await p.click('Lead, close and warm v1');
  await p.click('Intact report');
  await p.see('left out on the drop sheet');
  await p.see('Null test:');
  await p.click('Done');
});

test('dragged to a spot in a chain and onto a line', async () => {
  const id = await copy('Spots', 'kelp-and-copper');
  await p.go(`/session/${id}`);
  const bounce = await p.find('button', 'Bounce', await p.line('Deck drums'));
  await p.drag(await p.find('li', 'Spoken word'), bounce, 0.1, 0.5);
  let d = await p.find('dialog', 'Drop “Spoken word');
  await p.see('at the chosen spot', 5000, d);
  await p.click('Drop', d);
  await p.see('nothing lost', 15000);
  await p.click('Done');
  assert.deepEqual(await p.tiles('Deck drums'), [
    'Boards, on',
    'Level in, on',
    'Room out, on',
    'Slow hand, on',
    'Fast hand, on',
    'Bounce, on',
  ]);
  await p.drag(
    await p.find('li', 'Concertina, reeds'),
    await p.find('button', 'Line Bass', await p.line('Bass')),
    0.5,
    0.5,
  );
  d = await p.find('dialog', 'Drop “Concertina');
  await p.see('replaces its 2 devices', 5000, d);
  await p.check('Colour', d);
  await p.click('Drop', d);
  await p.see('nothing lost', 15000);
  await p.click('Done');
  assert.deepEqual(await p.tiles('Bass'), ['Tame the reeds, on', 'Bellows, on']);
  await p.saved();
  assert.equal((await document(id)).tracks.find((t) => t.name === 'Bass').colour, 'brine');
});

test('a folder: made, filled by the menu, its lines indented; an inactive line; devices moved by their buttons', async () => {
  const id = await copy('Folders', 'kelp-and-copper');
  await p.go(`/session/${id}`);
  await p.line('Choir');
  await p.click('Add a line');
  await p.click('Folder');
  await p.line('Folder');
  await p.click('More for Choir');
  await p.click('Into “Folder”');
  const left = async (name) =>
    (await (await p.find('button', `Line ${name}`, await p.line(name))).getRect()).x;
  await p.until('the indent', async () => (await left('Choir')) === (await left('Bass')) + 14);
  await p.click('More for Concertina');
  await p.click('Make inactive');
  await (await p.find('button', 'Make room', await p.line('Choir'))).click();
  await p.click('Move device later');
  await p.until(
    'the new order',
    async () => (await p.tiles('Choir')).join() === 'Even out, on,Make room, on,Crush, on',
  );
  await p.click('Duplicate device');
  await p.until('four', async () => (await p.tiles('Choir')).length === 4);
  await p.click('Remove device');
  await p.until('three', async () => (await p.tiles('Choir')).length === 3);
  await p.saved();
  const s = await document(id);
  assert.equal(s.tracks.find((t) => t.name === 'Choir').folder, s.tracks.find((t) => t.role === 'folder').id);
  assert.equal(s.tracks.find((t) => t.name === 'Concertina').state, 'inactive');
});

test('200 lines: only those in sight are drawn, scrolling goes to the end, an edit lands at once', async () => {
  const id = await copy('Two hundred', 'kelp-and-copper');
  const { revision, document: s } = await api('GET', `/sessions/${id}`);
  const choir = s.tracks.find((t) => t.name === 'Choir');
  const ops = Array.from({ length: 195 }, (_, i) => ({
    op: 'add',
    path: '/tracks/0',
    value: {
      ...choir,
      id: `many-${i}`,
      name: `Singer ${195 - i}`,
      clips: [],
      chain: choir.chain.filter((d) => d.kind === 'device').map((d, k) => ({ ...d, id: `many-${i}-${k}` })),
      sends: choir.sends.map((x) => ({ ...x, id: `many-${i}-s` })),
    },
  }));
  await api('PATCH', `/sessions/${id}`, ops, {
    'If-Match': `"${revision}"`,
    'Content-Type': 'application/json-patch+json',
  });
  await p.go(`/session/${id}`);
  await p.line('Singer 1');
  assert.ok((await p.js('return document.querySelectorAll(".line").length')) < 40);
  const frames = await p.driver.executeAsyncScript(
    'const done = arguments[0]; const el = document.querySelector(\'[aria-label="Lines"]\'); let n = 0, y = 0; const t = performance.now(); const go = () => { el.scrollTop = y += 90; n++; if (y < el.scrollHeight - el.clientHeight) requestAnimationFrame(go); else done([n, performance.now() - t]); }; go();',
  );
  assert.ok(frames[0] > 50, String(frames));
  await p.line('Master');
  await p.click('Mute Plate');
  await p.until(
    'muted',
    async () =>
      (await p.js(
        'return document.querySelector(\'[aria-label="Mute Plate"]\').getAttribute("aria-pressed")',
      )) === 'true',
  );
  await p.saved();
});

/** Elements and texts that the page holds, shown or not, when the collector has been there. */
async function nodesHeld() {
  const ask = (command) => p.driver.sendAndGetDevToolsCommand(command, {});
  await ask('HeapProfiler.collectGarbage');
  await ask('Performance.enable');
  const { metrics } = await ask('Performance.getMetrics');
  return metrics.find((m) => m.name === 'Nodes').value;
}
test('a session that is left is let go of', async () => {
  await p.go('/sessions');
  await p.until('the list', () => p.shows('Kelp and Copper'));
  // what a browser keeps of pages before counts, too
  const before = await nodesHeld();
  // pressed from inside: the driver holds every element that it is handed
  await p.press('Kelp and Copper');
  await p.until('its lines', () => p.shows('Line Lead voice', '[role="group"]'));
  const open = await nodesHeld();
  await p.press('Sessions');
  await p.until('the list', () => p.js('return location.pathname === "/sessions"'));
  await p.until('its page to be gone', async () => (await nodesHeld()) < (before + open) / 2);
});

test('the palette finds and does; the theme, the shelf panel and its height stay as they were left', async () => {
  const id = await copy('Palette', 'kelp-and-copper');
  await p.go(`/session/${id}`);
  await p.line('Choir');
  await p.chord(Key.CONTROL, 'k');
  await p.type('Find or do', 'night theme');
  await p.keys(Key.ENTER);
  await p.until(
    'night',
    async () => (await p.js('return document.documentElement.dataset.theme')) === 'night',
  );
  await p.click('Shelf panel');
  await p.go(`/session/${id}`);
  await p.line('Choir');
  assert.equal(await p.js('return document.documentElement.dataset.theme'), 'night');
  assert.equal(await p.has('aside', 'Shelf'), null);
  await p.keys('/');
  await p.find('aside', 'Shelf');
  await p.keys(Key.ESCAPE);
  await p.chord(Key.CONTROL, 'k');
  await p.type('Find or do', 'no such thing');
  await p.see('Nothing of that name can be done here');
  await p.keys(Key.ESCAPE);
  await p.click('Day theme');
  // how a preset sounds may just have been asked for as it was taken off the shelf
  assert.deepEqual(
    (await p.errors()).filter((e) => !/favicon|likeness.*404/.test(e)),
    [],
  );
});
