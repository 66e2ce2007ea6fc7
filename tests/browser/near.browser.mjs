// Presets by what they do: more like one, groups of nearly the same that are merged, chains that sessions build by hand.
import assert from 'node:assert/strict';
import { after, before, test } from 'node:test';
import {
  capture,
  createDevice,
  createPreset,
  createSession,
  createTrack,
  masterOf,
} from '../../dist/node/core/index.js';
import { api, changed, document } from './api.mjs';
import { Key, openBrowser } from './driver.mjs';

const base = process.env.BASE;
let p;
before(async () => {
  p = await openBrowser(base);
});
after(async () => {
  assert.deepEqual(await p.errors(), []);
  await p.quit();
});

/** A chain that no other preset is near to, under a name and a little otherwise. */
async function saved(name, compressor) {
  const chain = [
    createDevice('clipper', { drive: 9 }),
    createDevice('compressor', compressor),
    createDevice('pitchshift', { semitones: -5 }),
    createDevice('deesser'),
  ];
  const s = createSession();
  const line = createTrack('audio', {
    name: 'Pipe',
    chain,
    output: { kind: 'track', track: masterOf(s).id },
  });
  const draft = capture({ ...s, tracks: [line, ...s.tracks] }, [line.id]);
  const id = name.toLowerCase().replaceAll(' ', '-');
  await api('POST', '/presets', { preset: createPreset(draft, { id, name, category: 'Tried' }) });
}
const menu = async (button, entry) => {
  await p.click(button);
  await p.click(entry);
};

test('a preset says what does alike; nearly the same ones become versions of the one that stays', async () => {
  await saved('Bosun whistle', { threshold: -30 });
  await saved('Mate whistle', { threshold: -31 });
  await saved('Cook whistle', { threshold: -30, attack: 12 });
  await p.go('/shelf/mate-whistle');
  await p.click('Look for what does alike');
  await p.find('button', 'Cook whistle');
  await p.see('nearly the same');
  await p.click('What differs in Cook whistle');
  await p.find('dialog', 'Side by side');
  await p.keys(Key.ESCAPE);

  await menu('Packs, clearing out', 'Nearly the same');
  const d = await p.find('dialog', 'Nearly the same');
  assert.deepEqual(await p.axe(), []);
  const group = await p.find('group', 'whistle', d);
  await p.check('Keep Bosun whistle', group);
  await p.see('Threshold', undefined, group);
  await p.click('Merge 2 as versions of “Bosun whistle”', group);
  await p.see('2 presets merged into');
  await p.until('they are one', async () => (await p.has('group', 'whistle', d)) === null);
  await p.click('Close', d);
  // the page of one that is gone became the page of the one that stays
  await p.until('its page', async () => (await p.driver.getCurrentUrl()).endsWith('/shelf/bosun-whistle'));
  assert.equal((await api('GET', '/presets/bosun-whistle')).version, 4);
  // both lie in the trash, and come back from there
  await p.click('Bring them back');
  await p.until('both again', async () => (await api('GET', '/presets?q=whistle')).items.length === 3);
});

test('a chain that two sessions build by hand is offered, and saved from one of them', async () => {
  const chain = () => ['gate', 'saturator', 'width'].map((type) => createDevice(type));
  const made = [];
  for (const name of ['First by hand', 'Second by hand']) {
    const { id } = await api('POST', '/sessions', { name });
    const { tracks } = await document(id);
    const line = { ...tracks[0], id: 'hand', name: 'Windlass', role: 'audio', chain: chain() };
    await changed(id, (was) => [
      {
        op: 'add',
        path: '/tracks/0',
        value: { ...line, output: { kind: 'track', track: was.tracks.at(-1).id } },
      },
    ]);
    made.push(id);
  }
  await p.go('/shelf');
  await menu('Packs, clearing out', 'Built by hand');
  const d = await p.find('dialog', 'Built by hand');
  await p.see('Gate → Saturator → Width');
  assert.deepEqual(await p.axe(), []);
  await p.click('Save this one …: Windlass of First by hand', d);
  await p.click('Save to the shelf', await p.find('dialog', 'Save “Windlass” to the shelf'));
  await p.until('it is saved', async () => (await api('GET', '/presets?q=windlass')).items.length > 0);
  await p.go('/shelf');
  await menu('Packs, clearing out', 'Built by hand');
  await p.find('dialog', 'Built by hand');
  await p.until('it is looked through', async () => !(await p.text()).includes('Looking through'));
  assert.ok(!(await p.text()).includes('Gate → Saturator → Width'));
});

test('a search is kept under a name, followed again and let go of', async () => {
  await p.go('/shelf');
  await p.type('Search the shelf', 'lead');
  await p.choose('Order', 'used most');
  await p.click('Keep this search');
  await p.type('Name of this search', 'Leads that work');
  await p.click('Keep', await p.find('group', 'Kept searches'));
  await p.find('button', 'Leads that work');
  await p.click('Show everything');
  await p.until('everything', async () => (await p.has('button', 'Stone nave')) !== null);
  await p.click('Leads that work');
  await p.until('only leads', async () => (await p.has('button', 'Stone nave')) === null);
  assert.equal(await p.js('return document.querySelector("[aria-label=Order]").value'), 'most');
  assert.deepEqual(await p.axe(), []);
  await p.click('Let go of the search Leads that work');
  await p.until('it is gone', async () => (await p.has('button', 'Leads that work')) === null);
});
