// Rigs, starters, borrowed lines and life with the shelf, in the real interface. Found by label, clicked,
// dragged, typed.
import assert from 'node:assert/strict';
import { writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { after, before, test } from 'node:test';
import { Key } from 'selenium-webdriver';
import { api, copy, document } from './api.mjs';
import { openBrowser } from './driver.mjs';

const base = process.env.BASE;
let p;
before(async () => {
  p = await openBrowser(base);
  await p.driver.manage().window().setRect({ width: 1440, height: 900 });
});
after(async () => {
  assert.deepEqual(await p.errors(), []);
  await p.quit();
});

const open = async (id, line) => {
  await p.go(`/session/${id}`);
  await p.line(line);
};
/** Puts a lane on a line's level, as another window would. */
const withLevelLane = async (id, line) => {
  const { tracks } = await document(id);
  const at = tracks.findIndex((t) => t.name === line);
  const points = [
    { at: 0, value: 0 },
    { at: 2, value: -9 },
  ];
  const lane = { id: 'lan-lent', of: tracks[at].id, param: 'level', on: true, points };
  const op = { op: 'add', path: `/tracks/${at}/automation`, value: [lane] };
  await api('PATCH', `/sessions/${id}`, [op], { 'If-Match': '"1"' });
};
const track = (s, name) => s.tracks.find((t) => t.name === name);
const dialog = (title) => p.find('dialog', title);
/** Chooses lines as a person does: a click, then clicks with Ctrl held. */
const chooseLines = async (first, ...more) => {
  await p.click(`Line ${first}`, await p.line(first));
  for (const n of more) {
    await p.driver
      .actions()
      .keyDown(Key.CONTROL)
      .click(await p.find('button', `Line ${n}`, await p.line(n)))
      .keyUp(Key.CONTROL)
      .perform();
  }
};

test('several lines are saved as a rig: what leaves is kept, taken along or cut; it drops elsewhere with everything between its lines', async () => {
  const id = await copy('Rig home', 'lantern-room');
  await open(id, 'Concertina');
  await chooseLines('Concertina', 'Bass', 'Trigger', 'All but the drums');
  await p.click('Save as a rig');
  const d = await dialog('Save 4 lines');
  await p.see('Output to Master', 5000, d);
  await p.type('Name', 'Bed with its trigger', d);
  await p.type('Category', 'Buses/Ducking', d);
  await p.click('Line by line', d);
  await p.check('Note of Bass', d);
  await p.click('Save to the shelf', d);
  await p.see('is on the shelf');
  await p.saved();
  const saved = (await api('GET', '/presets?q=trigger bed&kind=rig')).items.find(
    (x) => x.name === 'Bed with its trigger',
  );
  assert.equal(saved.summary.tracks, 4);
  // as it was just saved, it stands as on the shelf
  await p.click('Line Bass', await p.line('Bass'));
  await p.see('Bed with its trigger v1 · as on the shelf');

  const other = await copy('Rig away', 'ninth-wave-out');
  await open(other, 'Lead voice');
  await p.drag(await p.find('li', 'Bed with its trigger'), await p.line('Deck drums'), 0.3, 0.96);
  const s = await dialog('Drop “Bed with its trigger”');
  await p.see('a line “Concertina 2”', 5000, s);
  await p.click('Drop', s);
  await p.see('nothing lost');
  await p.see('Null test:', 60000);
  await p.click('Done');
  await p.saved();
  const doc = await document(other);
  const bed = track(doc, 'All but the drums');
  assert.equal(bed.chain[0].key.track, track(doc, 'Trigger').id);
  assert.equal(track(doc, 'Concertina 2').output.track, bed.id);
  await p.click('Undo');
  await p.until('all four to go', async () => !(await p.lines()).includes('Trigger'));
  await p.saved();
  assert.deepEqual(
    (await document(other)).tracks.map((t) => t.name),
    [
      'Lead voice',
      'Crew choir',
      'Concertina',
      'Bass',
      'Deck drums',
      'Singers bus',
      'Hall plate, dark',
      'Master',
    ],
  );
});

test('the same name everywhere, and the return that is there twice: nothing is guessed silently', async () => {
  const id = await copy('Twice', 'kelp-and-copper');
  const { revision, document: s } = await api('GET', `/sessions/${id}`);
  const plate = track(s, 'Plate');
  const twin = { ...plate, id: 'twin', chain: [], level: -20 };
  await api('PATCH', `/sessions/${id}`, [{ op: 'add', path: '/tracks/7', value: twin }], {
    'If-Match': `"${revision}"`,
  });
  await open(id, 'Lead voice');
  // the plate with the same sound is found among two of that name; the drop still shows nothing to decide and
  // is one gesture
  const row = await p.find('li', 'Concertina, reeds tamed');
  await p.drag(row, await p.line('Bass'), 0.3, 0.96);
  await p.see('“Concertina, reeds tamed” is in');
  await p.saved();
  assert.equal(track(await document(id), 'Concertina 2').sends[0].to, plate.id);
  await p.click('What happened');
  await p.see('tied: has exactly the same devices and values');
  await p.click('Done');
  // with both of them changed only the names are left, and the sheet asks
  const now = await api('GET', `/sessions/${id}`);
  const at = now.document.tracks.findIndex((t) => t.id === plate.id);
  await api('PATCH', `/sessions/${id}`, [{ op: 'remove', path: `/tracks/${at}/chain/1` }], {
    'If-Match': `"${now.revision}"`,
  });
  await p.see('Changes from another window');
  await p.drag(await p.find('li', 'Double, tucked under'), await p.line('Bass'), 0.3, 0.96);
  const d = await dialog('Drop “Double');
  const options = await p.js(
    'return [...arguments[0].options].map((o) => o.text)',
    await p.find('field', 'Send to Plate: tie to', d),
  );
  assert.equal(options.filter((o) => o === 'Tie to “Plate”').length, 2);
  await p.click('Cancel', d);
  // a preset that was dropped before is tied as last time, without a question
  await p.drag(await p.find('li', 'Concertina, reeds tamed'), await p.line('Bass'), 0.3, 0.96);
  await p.line('Concertina 3');
});

test('a drop while it plays: the sound goes on without a gap', async () => {
  const id = await copy('Playing', 'kelp-and-copper');
  await open(id, 'Lead voice');
  await p.click('Play');
  await p.until('sound', async () => (await p.position()) > 0.4);
  await p.drag(await p.find('li', 'Concertina, reeds tamed'), await p.line('Bass'), 0.3, 0.96);
  await p.see('is in: ');
  await p.line('Concertina 2');
  const t0 = await p.position();
  await p.until('it to go on', async () => (await p.position()) > t0 + 0.3 || (await p.position()) < t0);
  assert.ok(await p.find('button', 'Stop'), 'it still plays');
  await p.click('Stop');
  await p.saved();
});

test('by typing in the palette; onto many lines; several presets at once; a refused drop says why', async () => {
  const id = await copy('Ways in', 'ninth-wave-out');
  await open(id, 'Crew choir');
  await p.chord(Key.CONTROL, 'k');
  await p.keys('double new', Key.ENTER);
  const sheet = await dialog('Drop “Double');
  await p.click('Drop', sheet);
  await p.see('nothing lost');
  await p.click('Done');
  await chooseLines('Concertina', 'Bass', 'Deck drums');
  await p.click('Drop onto all');
  await p.click('Clean and crushed');
  const many = await dialog('Drop “Clean and crushed”');
  await p.see('to 3 lines', 5000, many);
  await p.click('Drop', many);
  await p.see('nothing lost');
  await p.choose('Report of', 'Deck drums', await dialog('Intact report'));
  await p.click('Done');
  for (const n of ['Concertina', 'Bass', 'Deck drums']) {
    assert.ok((await p.text(await p.line(n))).includes('Clean and crushed'), n);
  }
  // two marked on the panel
  for (const n of ['Upright bass', 'Spoken word']) {
    const b = await p.find('button', n, await p.find('li', n));
    await p.js('arguments[0].scrollIntoView({ block: "nearest" })', b);
    await p.driver.actions().keyDown(Key.CONTROL).click(b).keyUp(Key.CONTROL).perform();
  }
  await p.click('Drop 2 presets');
  const both = await dialog('Drop 2 presets');
  await p.click('Drop all', both);
  await p.see('2 presets are in');
  await p.line('Spoken word');
  await p.saved();
  const doc = await document(id);
  assert.ok(track(doc, 'Bass 2') && track(doc, 'Spoken word'));
  // the plate is led into the bus that is to send to it: a loop, refused with its names, and nothing happens
  const now = await api('GET', `/sessions/${id}`);
  const at = (n) => now.document.tracks.findIndex((t) => t.name === n);
  await api(
    'PATCH',
    `/sessions/${id}`,
    [
      {
        op: 'replace',
        path: `/tracks/${at('Hall plate, dark')}/output`,
        value: { kind: 'track', track: track(now.document, 'Singers bus').id },
      },
    ],
    { 'If-Match': `"${now.revision}"` },
  );
  await p.see('Changes from another window');
  await p.click('What to do with Lead, close and warm');
  await p.click('Look before dropping');
  const lead = await dialog('Drop “Lead');
  await p.choose('Where to drop', 'Onto Singers bus', lead);
  await p.choose('Send to Plate: tie to', 'Hall plate, dark', lead);
  await p.see('This drop would make a loop', 5000, lead);
  assert.ok((await p.text(lead)).includes('“Singers bus”'));
  assert.ok(
    await p.js(
      'return [...arguments[0].querySelectorAll("button")].find((b) => b.innerText.trim() === "Drop").disabled',
      lead,
    ),
  );
  await p.click('Cancel', lead);
});

test('a stale session: another window changes it while the sheet is open, and the plan follows', async () => {
  const id = await copy('Stale', 'ninth-wave-out');
  await open(id, 'Lead voice');
  await p.click('What to do with Lead, close and warm');
  await p.click('Look before dropping');
  const d = await dialog('Drop “Lead');
  await p.see('Tie to “Hall plate, dark”', 5000, d);
  const { revision, document: s } = await api('GET', `/sessions/${id}`);
  await api(
    'PATCH',
    `/sessions/${id}`,
    [
      {
        op: 'replace',
        path: `/tracks/${s.tracks.findIndex((t) => t.name === 'Hall plate, dark')}/name`,
        value: 'Cellar plate',
      },
      { op: 'replace', path: '/tracks/4/name', value: 'Barrels' },
    ],
    { 'If-Match': `"${revision}"` },
  );
  await p.until('the sheet to follow', async () => (await p.text(d)).includes('Cellar plate'));
  await p.click('Drop', d);
  await p.see('nothing lost');
  await p.click('Done');
  await p.saved();
  const doc = await document(id);
  assert.ok(track(doc, 'Barrels'), 'the other window’s change is kept');
  assert.equal(track(doc, 'Lead voice 2').sends[0].to, 'nw-verb');
});

test('a starter: saved from a session, the default for new ones, changed back in one step; work in the session leaves it alone', async () => {
  const id = await copy('Starter home', 'ninth-wave-out');
  await open(id, 'Lead voice');
  await p.click('Session menu');
  await p.click('Save as a starter');
  const d = await dialog('as a starter');
  await p.type('Name', 'Hall, empty chairs', d);
  await p.type('Purpose and style', 'Tracking/Evening', d);
  await p.check('New sessions begin with it', d);
  await p.click('Save to the shelf', d);
  await p.see('New sessions begin with “Hall, empty chairs”');
  await p.go('/sessions');
  await p.click('New session');
  const n = await dialog('New session');
  await p.see('Begin empty from now on', 8000, n);
  await p.type('Name', 'Wednesday', n);
  await p.click('Make it', n);
  await p.line('Crew choir');
  assert.equal((await p.lines()).length, 8);
  await p.click('Mute Crew choir');
  await p.saved();
  const starter = (await api('GET', '/presets?q=chairs')).items[0];
  assert.equal((await api('GET', `/presets/${starter.id}`)).versions.length, 1);
  await p.go('/sessions');
  await p.click('New session');
  await p.click('Begin empty from now on', await dialog('New session'));
  await p.see('New sessions begin empty');
  await p.click('Cancel', await dialog('New session'));
});

test('lines are borrowed from another session, and from an imported file', async () => {
  // an imported session has the same name by now: a name of its own is told apart
  const lender = await copy('Lender', 'lantern-room');
  await withLevelLane(lender, 'Deck drums');
  const id = await copy('Borrower', 'ninth-wave-out');
  await open(id, 'Lead voice');
  await p.click('Session menu');
  await p.click('Borrow lines');
  const b = await dialog('Borrow lines');
  await p.choose('Session to borrow from', 'Lender', b);
  await p.check('Deck drums', b);
  await p.check('Drum crush', b);
  await p.click('Borrow 2 lines', b);
  const d = await dialog('Borrow Deck drums and Drum crush');
  // what belongs to the other song is offered, and comes only when it is asked for
  assert.equal(await (await p.find('box', 'Automation', d)).isSelected(), false);
  assert.equal(await (await p.find('box', 'Chain', d)).isSelected(), true);
  await p.check('Automation', d);
  await p.click('Drop', d);
  await p.see('nothing lost');
  await p.click('Done');
  await p.saved();
  const doc = await document(id);
  assert.equal(track(doc, 'Deck drums 2').sends[0].to, track(doc, 'Drum crush').id);
  assert.equal(track(doc, 'Deck drums 2').origin, undefined);
  assert.equal(track(doc, 'Deck drums 2').automation[0].points[1].value, -9);
  // from a file of another program
  const { handFile } = await import('../../dist/node/tests/support/dawproject.js');
  const file = join(tmpdir(), `borrow-${process.pid}.dawproject`);
  writeFileSync(file, handFile());
  await p.click('Session menu');
  await p.click('Borrow lines');
  const again = await dialog('Borrow lines');
  await (await p.find('input[type=file]', 'Import a DAWproject file to borrow from', again)).sendKeys(file);
  await p.see('Pump organ', 15000, again);
  await p.check('Pump organ', again);
  await p.click('Borrow one line', again);
  await p.click('Drop', await dialog('Borrow Pump organ'));
  await p.see('nothing lost');
  await p.click('Done');
  await p.line('Pump organ');
});

test('into an imported file and out again: a built-in device in place of one that cannot run here, everything else byte for byte', async () => {
  const { handFile } = await import('../../dist/node/tests/support/dawproject.js');
  const { readZip } = await import('../../dist/node/core/index.js');
  const bytes = handFile();
  const r = await fetch(`${base}/api/sessions/import?name=ours.dawproject`, {
    method: 'POST',
    headers: { 'Content-Type': 'application/octet-stream' },
    body: bytes,
  });
  const { id } = await r.json();
  await open(id, 'Lead & first');
  await p.click('Line Lead & first', await p.line('Lead & first'));
  await p.click('Save to the shelf');
  const s = await dialog('Save “Lead');
  await p.type('Name', 'Lead with a strange device', s);
  await p.click('Save to the shelf', s);
  await p.see('is on the shelf');
  await p.saved();
  await p.click('What to do with Lead with a strange device');
  await p.click('Look before dropping');
  const d = await dialog('Drop “Lead with a strange');
  await p.see('Devices that this program cannot run', 5000, d);
  await p.check('Tape Thing', d);
  await p.see('Saturator takes its place', 5000, d);
  await p.click('Drop', d);
  await p.see('nothing lost');
  await p.click('Done');
  await p.saved();
  const out = readZip(new Uint8Array(await (await fetch(`${base}/api/sessions/${id}/export`)).arrayBuffer()));
  const was = readZip(bytes);
  for (const name of Object.keys(was)) {
    if (name !== 'project.xml') assert.ok(Buffer.from(out[name]).equals(Buffer.from(was[name])), name);
  }
  const xml = Buffer.from(out['project.xml']).toString();
  for (const kept of [
    '<UnknownElement answer="42"><Inner>text stays</Inner></UnknownElement>',
    '<!-- written by hand -->',
    '<Note time="0.0" duration="1.0" channel="0" key="62" vel="0.8" rel="0.5"/>',
  ]) {
    assert.ok(xml.includes(kept), kept);
  }
});

test('living with the shelf: changed here, newer there; conflicts side by side; put back one; updated everywhere after a list', async () => {
  const preset = (await api('GET', '/presets/demo-rig-3')).preset;
  const id = await copy('Life', 'kelp-and-copper');
  const second = await copy('Life, second', 'kelp-and-copper');
  for (const s of [second, id]) {
    await open(s, 'Lead voice');
    await p.drag(await p.find('li', 'Concertina and fiddle'), await p.line('Bass'), 0.3, 0.96);
    await p.until('the bed', async () => {
      if (await p.js('return !!document.querySelector("[role=dialog]")')) {
        await p.click('Drop', await dialog('Drop “Concertina and'));
      }
      return (await p.lines()).includes('Bed under the voice');
    });
    if (await p.js('return !!document.querySelector("[role=dialog]")')) await p.click('Done');
    await p.saved();
  }
  await p.click('Give way, on', await p.line('Bed under the voice'));
  await p.click('Threshold: −32.0 dB');
  await p.keys('-28', Key.ENTER);
  await p.click('Ratio: 2.0:1');
  await p.keys('3', Key.ENTER);
  await p.saved();
  preset.content.tracks[2].chain[0].params.threshold = -36;
  preset.content.tracks[2].chain[0].params.attack = 25;
  const { hashOf } = await import('../../dist/node/core/index.js');
  preset.hash = hashOf(preset.content);
  await api('POST', '/presets/demo-rig-3/versions', { preset }, { 'If-Match': '"1"' });
  await open(id, 'Bed under the voice');
  await p.click('Line Bed under the voice', await p.line('Bed under the voice'));
  await p.click('v1 · changed here (2), version 2 on the shelf');
  const d = await dialog('“Bed under the voice” and the shelf');
  await p.see('whose value?', 10000, d);
  await p.click('Put back Give way · Ratio', d);
  await p.until('one change less', async () => !(await p.text(d)).includes('Give way · Ratio'));
  await p.click('shelf: −36.0 dB', d, 'label');
  await p.click('Update to version 2', d);
  await p.see('v2 · as on the shelf');
  await p.saved();
  let bed = track(await document(id), 'Bed under the voice');
  assert.deepEqual(
    [bed.chain[0].params.threshold, bed.chain[0].params.ratio, bed.chain[0].params.attack],
    [-36, 2, 25],
  );
  assert.equal(bed.chain[0].key.track, track(await document(id), 'Lead voice').id, 'its tie stays');
  // all sessions that use it: a list first, then the update
  await p.go('/shelf/demo-rig-3');
  await p.click('All sessions that use this');
  const u = await dialog('Sessions that use');
  await p.see('2 values would change', 15000, u);
  await p.click('to version 2', u);
  await p.until('all up to date', async () => !(await p.text(u)).includes('would change'));
  await p.click('Close', u);
  bed = track(await document(second), 'Bed under the voice');
  assert.deepEqual([bed.chain[0].params.threshold, bed.chain[0].params.attack], [-36, 25]);
  // letting go
  await open(id, 'Fiddle');
  await p.click('Line Fiddle', await p.line('Fiddle'));
  await p.click('v2 · as on the shelf');
  await p.click('Let go of the tie');
  await p.saved();
  assert.equal(track(await document(id), 'Fiddle').origin, undefined);
});

test('side by side: a variant and its parent, seen and heard; a copy of a line with chosen parts', async () => {
  await p.go('/shelf/demo-strip-2');
  await p.click('what differs');
  const d = await dialog('Side by side');
  await p.see('differences', 10000, d);
  await p.see('−12.0 dB', 5000, d);
  await p.click('Hear both', d);
  await p.see('at equal loudness', 60000, d);
  await p.click('Double, tucked under, v1', d);
  assert.deepEqual(await p.axe(), []);
  await p.click('Close', d);
  const id = await copy('Parts', 'kelp-and-copper');
  await open(id, 'Concertina');
  await p.click('More for Concertina');
  await p.click('Duplicate, choosing parts');
  const c = await dialog('Duplicate “Concertina”');
  await p.check('Level', c);
  await p.check('Sends', c);
  await p.click('Duplicate', c);
  await p.line('Concertina 2');
  await p.saved();
  const t = track(await document(id), 'Concertina 2');
  assert.deepEqual([t.level, t.pan, t.sends.length, t.chain.length, t.clips.length], [-9, 0, 0, 2, 0]);
  await p.click('More for Concertina');
  await p.click('Duplicate, choosing parts');
  const more = await dialog('Duplicate “Concertina”');
  await p.type('How many copies', '12\n', more);
  await p.click('Make 12 copies', more);
  await p.saved();
  const names = (await document(id)).tracks.map((x) => x.name).filter((name) => /^Concertina/.test(name));
  assert.deepEqual(names, ['Concertina', ...Array.from({ length: 13 }, (_, i) => `Concertina ${i + 2}`)]);
});

test('the sheets and marks meet WCAG 2.2 AA', async () => {
  const id = (await api('GET', '/sessions')).items.find((s) => s.name === 'Rig home').id;
  await open(id, 'Bass');
  await chooseLines('Concertina', 'Bass');
  assert.deepEqual(await p.axe(), []);
  await p.click('Save as a rig');
  await dialog('Save 2 lines');
  await p.click('Line by line');
  assert.deepEqual(await p.axe(), []);
  await p.click('Cancel');
  await p.click('Session menu');
  await p.click('What is newer');
  await dialog('This session and the shelf');
  assert.deepEqual(await p.axe(), []);
  await p.click('Close', await dialog('This session'));
});
