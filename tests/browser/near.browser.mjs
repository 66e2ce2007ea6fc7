// Presets by what they do: more like one, groups of nearly the same that are merged, chains that sessions build by hand.
import assert from 'node:assert/strict';
import { after, before, test } from 'node:test';
import { clone, createDevice, hashOf } from '../../dist/node/core/index.js';
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

const LEAD = 'Lead, close and warm';
const lead = async () =>
  (await api('GET', '/presets?limit=20&q=lead+close+warm')).items.find((i) => i.name === LEAD);
/** The demo's lead chain under another name, a little otherwise; its id. */
async function nearTo(name, change) {
  const { preset } = await api('GET', `/presets/${(await lead()).id}`);
  const copy = clone(preset);
  change(copy.content.tracks[0].chain);
  const own = { ...copy, id: name.toLowerCase().replaceAll(' ', '-'), name, category: 'Tried', tags: [] };
  await api('POST', '/presets', { preset: { ...own, hash: hashOf(own.content) } });
}
const compressorOf = (chain) => chain.find((d) => d.type === 'compressor');
const menu = async (button, entry) => {
  await p.click(button);
  await p.click(entry);
};

test('a preset says what does alike; nearly the same ones become versions of the one that stays', async () => {
  await nearTo('Lead again', (chain) => {
    compressorOf(chain).params.threshold += 1;
  });
  await nearTo('Lead once more', (chain) => {
    compressorOf(chain).params.attack *= 1.2;
  });
  await p.go('/shelf/lead-again');
  await p.click('Look for what does alike');
  await p.find('button', 'Lead once more');
  await p.see('nearly the same');
  await p.click('What differs in Lead once more');
  await p.find('dialog', 'Side by side');
  await p.keys(Key.ESCAPE);

  await menu('Packs, clearing out', 'Nearly the same');
  const d = await p.find('dialog', 'Nearly the same');
  assert.deepEqual(await p.axe(), []);
  await p.check(`Keep ${LEAD}`, d);
  await p.see('Threshold');
  await p.click('Merge 2 as versions', d);
  await p.see('2 presets merged into');
  await p.see('No two presets do nearly the same');
  await p.click('Close', d);
  const { version } = await lead();
  assert.ok(version >= 4, `${version}`);
  // both lie in the trash, and come back from there
  await p.click('Bring them back');
  await p.until('both again', async () => (await api('GET', '/presets?q=lead+again')).items.length === 1);
});

test('a chain that two sessions build by hand is offered, and saved from one of them', async () => {
  const chain = () => ['gate', 'saturator', 'width'].map((type) => createDevice(type));
  const made = [];
  for (const name of ['First by hand', 'Second by hand']) {
    const { id } = await api('POST', '/sessions', { name });
    const { tracks } = await document(id);
    const line = { ...tracks[0], id: 'hand', name: 'Bosun', role: 'audio', chain: chain() };
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
  await p.click('Save this one …: Bosun of First by hand', d);
  await p.click('Save to the shelf', await p.find('dialog', 'Save “Bosun” to the shelf'));
  await p.until('it is saved', async () => (await api('GET', '/presets?q=bosun')).items.length === 1);
  await p.go('/shelf');
  await menu('Packs, clearing out', 'Built by hand');
  await p.see('No session builds what another one has built');
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
