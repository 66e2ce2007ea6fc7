// A preset is heard on a line before it is dropped: from beside the lines, from preset to preset, and in the drop sheet.
import assert from 'node:assert/strict';
import { after, before, test } from 'node:test';
import { createDevice, createTrack } from '../../dist/node/core/index.js';
import { copy, document, withTracks } from './api.mjs';
import { Key, openBrowser } from './driver.mjs';

let p;
before(async () => {
  p = await openBrowser(process.env.BASE);
});
after(async () => {
  assert.deepEqual(await p.errors(), []);
  await p.quit();
});
const shelf = () => p.find('aside', 'Shelf');
const card = () => p.find('section', 'Chosen preset');
const names = async (id, line) =>
  (await document(id)).tracks.find((t) => t.name === line).chain.map((slot) => slot.name);

test('one click shows what a preset is; it is heard at once, arrows lead on, Drop keeps it', async () => {
  const id = await copy('Heard first', 'kelp-and-copper');
  await p.go(`/session/${id}`);
  await p.click('Line Concertina', await p.line('Concertina'));
  const before = await names(id, 'Concertina');
  await p.type('Search the shelf', 'voice', await shelf());
  await p.click('Lead, close and warm', await shelf());
  await p.see('Touch the compressor’s threshold first', 5000, await card());
  await p.click('Listen on “Concertina”', await card());
  await p.see('as loud as the line', 20000, await card());
  const isPressed = async (name) =>
    await (await p.find('button', name, await card())).getAttribute('aria-pressed');
  assert.equal(await isPressed('With it'), 'true');
  await p.click('As it is', await card());
  assert.equal(await isPressed('As it is'), 'true');
  // the session is as it was
  await p.saved();
  assert.deepEqual(await names(id, 'Concertina'), before);
  // on to the next one, which sounds by itself
  const row = await p.find('button', 'Lead, close and warm', await shelf());
  await row.sendKeys(Key.ARROW_DOWN);
  // a rig can't be heard on one line; the one behind it can
  await p.see('6 lines', 5000, await card());
  await p.keys(Key.ARROW_DOWN);
  await p.until('the next one to sound', async () => {
    const text = await (await card()).getText();
    return !text.startsWith('Lead, close and warm') && text.includes('as loud as the line');
  });
  const title = (await (await card()).getText()).split('\n')[0];
  await p.click('Drop onto “Concertina”', await card());
  await p.see(`“${title}” is in`);
  await p.saved();
  assert.notDeepEqual(await names(id, 'Concertina'), before);
  // the music goes on
  await p.find('button', 'Stop');
  await p.keys(' ');
});

test('in the drop sheet: as it is, as saved, and fitted, with the keys 1 to 3', async () => {
  const id = await copy('Heard in the sheet', 'kelp-and-copper');
  await p.go(`/session/${id}`);
  await p.click('Line Lead voice', await p.line('Lead voice'));
  await p.type('Search the shelf', 'close warm', await shelf());
  await p.click('What to do with Lead, close and warm', await shelf());
  await p.click('Drop onto “Lead voice” …');
  const d = await p.find('dialog', 'Drop “Lead, close and warm”');
  await p.click('As saved', d);
  await p.see('at equal loudness', 20000, d);
  await p.keys('1');
  const pressed = async (name) => (await p.find('button', name, d)).getAttribute('aria-pressed');
  await p.until('the line as it is', async () => (await pressed('As it is')) === 'true');
  await p.keys('2');
  await p.until('the preset', async () => (await pressed('As saved')) === 'true');
  await p.keys(Key.ESCAPE);
  await p.gone('Drop “Lead, close and warm”');
});

test('a device and a preset let go below the last line become lines of their own', async () => {
  const id = await copy('Empty below', 'kelp-and-copper');
  await withTracks(id, (tracks) => tracks.filter((t) => t.role === 'master'));
  await p.go(`/session/${id}`);
  await p.line('Master');
  const below = async () => p.find('[role="region"]', 'Lines');
  await p.drag(
    await p.find('.chip[draggable="true"]', 'Add Delay'),
    await below(),
    0.5,
    0.9,
    'a new line with it',
  );
  await p.until('the line', async () => String(await names(id, 'Audio').catch(() => '')) === 'Delay');
  await p.keys(Key.ENTER);
  await p.drag(await p.find('li', 'Concertina, reeds'), await below(), 0.5, 0.5);
  const d = await p.find('dialog', 'Drop “Concertina');
  await p.click('Drop', d);
  await p.see('nothing lost', 20000);
  await p.click('Done');
  await p.saved();
  assert.deepEqual(await names(id, 'Concertina'), ['Tame the reeds', 'Bellows']);
});

test('at the pointer it says what letting go would do', async () => {
  const id = await copy('Words', 'kelp-and-copper');
  await p.go(`/session/${id}`);
  const grip = () => p.find('[aria-label="Move Bass"]', '');
  await p.drag(await grip(), await p.line('Bass'), 0.5, 0.5, 'not here: it is this very line');
  await p.drag(await grip(), await p.line('Choir'), 0.5, 0.05, 'moves here');
  await p.drag(
    await p.find('.tile', 'Low end'),
    await p.line('Choir'),
    0.4,
    0.5,
    'into the chain of “Choir”, here',
  );
  await p.saved();
  assert.ok((await names(id, 'Choir')).includes('Low end'));
  const strip = await p.find('li', 'Concertina, reeds');
  await p.drag(strip, await p.line('Bass'), 0.1, 0.5, 'replaces the chain of “Bass”');
  await p.click('Drop', await p.find('dialog', 'Drop “Concertina'));
  await p.click('Done');
  await p.until('its chain', async () => String(await names(id, 'Bass')) === 'Tame the reeds,Bellows');
});

test('at 64 lines a preset sounds within 150 ms of engine time, without a gap', async () => {
  const id = await copy('Sixty-four', 'kelp-and-copper');
  await withTracks(id, (tracks) => {
    const master = tracks.find((t) => t.role === 'master');
    const lead = tracks.find((t) => t.name === 'Lead voice');
    const output = { kind: 'track', track: master.id };
    const lines = Array.from({ length: 64 }, (_, i) => ({
      ...createTrack('audio', { name: `Line ${i + 1}`, output, channels: 1 }),
      clips: lead.clips.map((c) => ({ ...c, id: `clip${i}` })),
      chain: [createDevice('eq'), createDevice('compressor')],
      level: -24,
    }));
    return [...lines, master];
  });
  await p.go(`/session/${id}`);
  await p.click('Line Line 1', await p.line('Line 1'));
  await p.type('Search the shelf', 'close warm', await shelf());
  await p.click('Lead, close and warm', await shelf());
  await p.click('Play');
  await p.until('it to play', () => p.js(`${AUDIO} return audio.seconds > 1.5`), 30000);
  const [took, gaps] = await p.driver.executeAsyncScript(
    WATCHED,
    await p.find('button', 'Listen on “Line 1”'),
  );
  assert.ok(took <= 0.15, `${took} s`);
  assert.equal(gaps, 0);
  await p.see('as loud as the line', 30000, await card());
  await p.click('Stop');
});
const AUDIO = `const audio = document.querySelector('#app').__vue_app__.config.globalProperties.$pinia._s.get('audio');`;
/** Presses a button; engine seconds from there to where what is listened to is heard, and gaps until a second later. */
const WATCHED = `
  ${AUDIO}
  const done = arguments[1];
  const { seconds, laidOutAt, dropouts } = audio;
  let heardAt = null;
  const look = setInterval(() => {
    if (heardAt === null && audio.laidOutAt !== laidOutAt) heardAt = audio.laidOutAt / 48000;
    if (audio.seconds < seconds + 1) return;
    clearInterval(look);
    done([heardAt - seconds, audio.dropouts - dropouts]);
  }, 4);
  arguments[0].click();`;
