// Reached by every hand: the whole way without a mouse, in small windows, zoomed to 200 % and in the system's own colours;
// how many stops of the Tab key there are; where the focus goes; what Space does; axe on every screen.
import assert from 'node:assert/strict';
import { after, before, test } from 'node:test';
import { copy, document } from './api.mjs';
import { Key, openBrowser } from './driver.mjs';

let p;
before(async () => {
  p = await openBrowser(process.env.BASE);
});
after(async () => {
  assert.deepEqual(await p.errors(), []);
  await p.quit();
});

/** CSS pixels of the window; a screen of 1280 × 800 at 200 % has half of both. */
const size = (width, height) =>
  p.driver.sendDevToolsCommand('Emulation.setDeviceMetricsOverride', {
    width,
    height,
    deviceScaleFactor: 1,
    mobile: false,
  });
const FOCUS = `
  const e = document.activeElement;
  return (e.getAttribute('aria-label') || e.labels?.[0]?.innerText || e.innerText || e.value || '').trim().split('\\n')[0];`;
const focused = () => p.js(FOCUS);
const panel = () => p.js('return document.activeElement.closest("[data-panel]")?.dataset.panel ?? ""');
/** Presses Tab until something has the focus; how often it took. */
async function tabsTo(matches, most = 40) {
  for (let n = 1; n <= most; n++) {
    await p.keys(Key.TAB);
    if (await p.js(matches)) return n;
  }
  assert.fail(`not within ${most} stops; now at ${await focused()}`);
}
/** To the beginning of the page, as after it was loaded. */
const fromTheTop = () =>
  p.js(`
    const first = document.createElement('button');
    document.body.prepend(first);
    first.onblur = () => first.remove();
    first.focus();`);
/** Through the palette. */
async function go(words) {
  await p.chord(Key.CONTROL, 'k');
  await p.until('the palette', async () => (await focused()) === 'Find or do');
  await p.keys(words);
  await p.until(`an entry for ${words}`, () =>
    p.js('return document.querySelector("[role=option]") !== null'),
  );
  await p.js('return new Promise((done) => setTimeout(done, 350))');
  await p.keys(Key.ENTER);
}

/** Saves a strip of one session, finds it on the shelf, hears and drops it in another, and is told that it is intact. */
async function journey(name) {
  const id = await copy(`${name} goal`, 'lantern-room');
  await copy(`${name} source`, 'kelp-and-copper');
  await p.go('/sessions');
  await p.see(`${name} source`);
  await go(`open ${name} source`);
  await p.line('Lead voice');
  await p.keys(Key.ARROW_DOWN, 'k');
  await p.until('the name to be typed', async () => (await focused()) === 'Name');
  await p.chord(Key.CONTROL, 'a');
  await p.keys(`${name} strip`, Key.ENTER);
  await p.see(`“${name} strip” is on the shelf`, 20000);
  await go(`open ${name} goal`);
  await p.line('Concertina');
  await p.keys(Key.ARROW_DOWN, '/');
  await p.until('the search', async () => (await focused()) === 'Search the shelf');
  await p.keys(`${name} strip`);
  const first = () => p.js('return document.querySelector("[data-preset]")?.dataset.preset');
  await p.until('it to be the first hit', async () => (await first()) === `${name} strip`);
  await p.keys(Key.ARROW_DOWN);
  await p.until('its row', async () => (await focused()).includes(`${name} strip`));
  await tabsTo('return document.activeElement.innerText.startsWith("Listen on")', 4);
  await p.keys(Key.ENTER);
  await p.see('as loud as the line', 20000);
  await tabsTo('return document.activeElement.innerText.startsWith("Drop onto")', 5);
  await p.keys(Key.ENTER);
  await p.see(`“${name} strip” is in`, 20000);
  await p.saved();
  const dropped = (await document(id)).tracks.filter((t) => t.origin?.name === `${name} strip`);
  assert.equal(dropped.length, 1);
  await p.js('document.activeElement.blur()');
  await p.keys(' ');
  await p.until('it to stand', () => p.js('return document.querySelector("[aria-label=Play]") !== null'));
}
for (const [name, width, height] of [
  ['Keys', 1280, 800],
  ['Narrow', 1024, 700],
  ['Zoomed', 640, 400],
]) {
  test(`the whole way without a mouse, ${width} × ${height}`, async () => {
    await size(width, height);
    await journey(name);
  });
}
test('the whole way in the system’s own colours', async () => {
  await size(1280, 800);
  await p.media([{ name: 'forced-colors', value: 'active' }]);
  await journey('Forced');
  await p.media([]);
});

test('Tab stops: at most 12 to a preset’s name on the shelf, 15 to a device’s first value', async () => {
  await size(1280, 800);
  await p.go('/shelf/demo-strip-1');
  await p.see('What to touch first');
  await fromTheTop();
  const toName = await tabsTo(
    'return document.activeElement.getAttribute("aria-label") === "Name of the preset"',
  );
  assert.ok(toName <= 12, `${toName} stops`);

  const id = await copy('Stops', 'kelp-and-copper');
  await p.go(`/session/${id}`);
  await p.click('Close and warm, on', await p.line('Lead voice'));
  await p.see('Threshold');
  await fromTheTop();
  await p.keys(Key.TAB);
  assert.match(await focused(), /^Skip to the/);
  for (let i = 0; i < 8 && !(await focused()).includes('panel of'); i++) await p.keys(Key.ARROW_RIGHT);
  await p.keys(Key.ENTER);
  await p.until('the panel', async () => (await panel()).startsWith('panel of'));
  const toValue =
    1 + (await tabsTo('return document.activeElement.matches("input[type=range], [role=slider]")'));
  assert.ok(toValue <= 15, `${toValue} stops`);
});

test('F6 goes from part to part; a list is one stop with arrows inside; titles name what is seen', async () => {
  await p.go('/session/kelp-and-copper');
  await p.line('Lead voice');
  await fromTheTop();
  const seen = [];
  for (let i = 0; i < 5; i++) {
    await p.keys(Key.F6);
    seen.push((await panel()).split(' ')[0]);
  }
  assert.deepEqual(seen, ['head', 'shelf', 'transport', 'lines', 'panel']);
  assert.equal(await p.driver.getTitle(), 'Kelp and Copper · Rope Shelf');
  const inShelf = 'document.querySelector("[data-preset] button")';
  await p.until('the shelf beside', () => p.js(`return ${inShelf} !== null`));
  await p.js(`${inShelf}.focus()`);
  const first = await focused();
  await p.keys(Key.ARROW_DOWN);
  assert.notEqual(await focused(), first);
  await p.keys(Key.HOME);
  assert.equal(await focused(), first);
  await p.go('/shelf/demo-strip-1');
  await p.until('the preset’s name in the title', async () => (await p.driver.getTitle()).startsWith('Lead'));
});

test('Space presses what has the focus and plays otherwise; a closed dialog gives the focus back', async () => {
  await p.go('/session/kelp-and-copper');
  const mute = await p.find('button', 'Mute Bass');
  await p.js('arguments[0].focus()', mute);
  await p.keys(' ');
  await p.until('it to be muted', async () => (await mute.getAttribute('aria-pressed')) === 'true');
  assert.equal(await p.js('return document.querySelector("[aria-label=Play]") !== null'), true);
  await p.keys(' ');
  await p.click('Line Bass', await p.line('Bass'));
  await p.keys(' ');
  await p.until('it to play', () => p.js('return document.querySelector("[aria-label=Stop]") !== null'));
  // something sounds: it can be stopped from everywhere
  await p.js('document.querySelector("nav a[href=\\"/shelf\\"]").click()');
  await p.until('the shelf', async () => (await p.driver.getTitle()).includes('Shelf ·'));
  await p.click('Stop');
  await p.until('silence', () => p.js('return document.querySelector("[aria-label=Stop]") === null'));
  await p.go('/session/kelp-and-copper');
  const save = await p.find('button', 'Session menu');
  await p.js('arguments[0].focus()', save);
  await p.keys('?');
  await p.see('Keyboard');
  await p.keys(Key.ESCAPE);
  await p.until('the focus to be back', async () => (await focused()) === 'Session menu');
});

test('axe finds nothing on any screen by day, by night and in the system’s own colours', async () => {
  const screens = [
    '/welcome',
    '/sessions',
    '/session/kelp-and-copper',
    '/shelf/demo-strip-1',
    '/hardware',
    '/prints',
    '/settings',
    '/trash',
  ];
  const ofSession = ['map', 'check', 'print', 'patch'].map((x) => `/session/kelp-and-copper/${x}`);
  for (const path of [...screens, ...ofSession]) {
    await p.go(path);
    await p.until('the screen', () =>
      p.js('return document.querySelector("main h1, main h2, main svg") !== null'),
    );
    assert.deepEqual(await p.axe(), [], path);
  }
});

test('axe finds nothing in the dialogs that no other test opens', async () => {
  const id = await copy('Dialogs', 'kelp-and-copper');
  const looked = async (title, ...clicks) => {
    for (const name of clicks) await p.click(name);
    const d = await p.find('dialog', title);
    assert.deepEqual(await p.axe(), [], title);
    await p.keys(Key.ESCAPE);
    await p.until(`${title} to be closed`, async () => !(await p.has('dialog', title)));
    return d;
  };
  await p.go('/sessions');
  await looked('New session', 'New session');
  await p.go(`/session/${id}`);
  await p.click('Line Bass', await p.line('Bass'));
  for (const [title, entry] of [
    ['History', 'History …'],
    ['Borrow lines', 'Borrow lines from another session …'],
    ['Save ', 'Save as a starter …'],
    ['Hardware of this session', 'Hardware of this session …'],
    ['What was dropped here', 'What was dropped here'],
  ]) {
    await looked(title, 'Session menu', entry);
  }
  await looked('Duplicate “Bass”', 'More for Bass', 'Duplicate, choosing parts …');
  await p.chord(Key.CONTROL, 'k');
  await looked('Find or do');
  await p.go(`/session/${id}/print`);
  await looked('What changed in', 'Compare with …');
  await p.go('/hardware');
  await looked('New studio', 'New studio');
  await p.go('/shelf/demo-strip-1');
  await looked('Sessions that use', 'All sessions that use this');
  await looked('Side by side', 'Side by side');
});

test('who comes for the first time finds three ways to begin', async () => {
  await p.js('localStorage.removeItem("rope-shelf-begun")');
  await p.go('/');
  await p.see('Set a track up once');
  for (const way of ['Look at the demo', 'Begin with your own sound', 'Open a session of another program']) {
    await p.see(way);
  }
  await p.click('Look at the demo');
  await p.line('Lead voice');
  await p.go('/');
  await p.see('New session');
});
