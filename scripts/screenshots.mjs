// npm run screenshots: docs/screenshots/ from the demo data, at 1280 × 800, on a throw-away database.
import { mkdirSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';

process.env.ROPE_SHELF_DATA = mkdtempSync(join(tmpdir(), 'rope-shelf-shots-'));
const { ROOT, DATA, ensureDebian, ensureNpm, fail, freePort, sleep } = await import('./lib.mjs');
process.env.DB_PORT = String(await freePort(33600));
const { startDatabase, stopDatabase } = await import('./database.mjs');

/** Keys of the driver's package, which may have to be installed first. */
let Key;

/** Where a newcomer begins, and the list of sessions. */
async function sessions(p, shot) {
  await p.go('/welcome');
  await p.js('localStorage.setItem("rope-shelf-theme", "day")');
  await p.go('/welcome');
  await p.see('Set a track up once');
  await sleep(600);
  await shot('welcome');
  await p.go('/sessions');
  await p.js('localStorage.setItem("rope-shelf-theme", "day")');
  await p.go('/sessions');
  await p.see('Kelp and Copper');
  await p.go('/hardware/harbour-hall');
  await p.see('Patchbays');
  await p.js('document.querySelector("main").scrollTo(0, 520)');
  await sleep(400);
  await shot('hardware');
}

/** Lines, devices, both themes, automation. */
async function lines(p, shot) {
  await p.go('/session/kelp-and-copper');
  await p.line('Lead voice');
  await p.click('Play');
  await p.until('sound', async () => (await p.position()) > 1);
  await (await p.find('button', 'Clean up', await p.line('Lead voice'))).click();
  await sleep(1500);
  await shot('session-eq');
  await (await p.find('button', 'Close and warm', await p.line('Lead voice'))).click();
  await p.keys('w');
  await p.see('matched by', 30000);
  await shot('session-compressor');
  await p.click('Night theme');
  await p.click('Line Lead voice', await p.line('Lead voice'));
  await shot('session-night');
  await p.click('Day theme');
  await p.go('/session/ninth-wave-out');
  await p.line('Crew choir');
  await p.click('Automation of Lead voice');
  await p.click('Play');
  await p.until('the throw', async () => (await p.position()) > 4);
  await shot('automation');
  await p.click('Stop');
  await p.click('Settings');
}

/** A patch of the cabin in a session that moves to the hall. */
async function patchList(p) {
  await p.go('/shelf');
  await p.click('Voice out to the Gull');
  await p.see('Gull, compressor');
  await p.click('Drop into a session');
  await p.click('Kelp and Copper');
  await p.click('Drop', await p.find('dialog', 'Drop “Voice out'));
  await p.see('nothing lost');
  await p.click('Done');
  await p.go('/session/kelp-and-copper/patch');
  await p.click('Studio of this session');
  const d = await p.find('dialog', 'Hardware of this session');
  await p.choose('Move this session to', 'Harbour Hall', d);
  await p.see('a compressor too', 10000, d);
  await p.click('Move to Harbour Hall', d);
  await p.see('moves to make');
  await p.click('Twin keel Threshold at −24.0 dB', undefined, 'box');
}

/** The look before a drop, and its report. */
async function dropping(p, shot) {
  await p.click('What to do with Lead, close and warm');
  await p.click('Look before dropping');
  const d = await p.find('dialog', 'Drop “Lead');
  await shot('drop-sheet');
  await p.click('Drop', d);
  await p.see('Null test: −∞', 30000);
  await shot('intact-report');
  await p.click('Done');
}

/** A preset on the shelf. */
async function shelf(p, shot) {
  await p.go('/shelf');
  await p.click('Quiet whisper, forward');
  await p.see('Makeup first');
  await shot('shelf');
  await p.chord(Key.CONTROL, 'k');
  await sleep(300);
  await p.go('/session/kelp-and-copper');
  await p.line('Plate');
}

/** A rack, and a print. */
async function racks(p, shot) {
  await p.go('/session/lantern-room');
  await p.line('Bass');
  await p.click('Play');
  await p.until('sound', async () => (await p.position()) > 1);
  await (await p.find('button', 'Rack Dirt and clean', await p.line('Bass'))).click();
  await p.click('Dirt · Drive');
  await shot('rack');
  await p.go('/session/kelp-and-copper/print');
  await p.click('Print it');
  await p.see('All as a zip', 60000);
  await shot('print');
}

/** Map and line check. */
async function checks(p, shot) {
  await p.go('/session/lantern-room/map');
  await p.find('[data-node]', 'Trigger');
  await shot('map');
  await p.go('/session/lantern-room-first-try/check');
  await p.see('No way out');
  await shot('line-check');
}

/** A kit laid out and tried. */
async function kits(p, shot) {
  await p.go('/session/ninth-wave-out');
  await p.line('Lead voice');
  await p.click('Add a line');
  await p.click('Kit with a pattern');
  await p.click('Lay out the outputs');
  await p.find('dialog', 'Lay out');
  await shot('kit-layout');
  await p.click('Lay it out');
  await p.see('is laid out');
  await p.click('Tap test');
  await p.see('Hit every part again', 60000);
  await p.click('Close');
  await shot('tap-test');
}

/** A rig saved, a starter, two presets side by side. */
async function saving(p, shot) {
  await p.go('/session/lantern-room');
  await p.line('Concertina');
  await p.click('Line Concertina', await p.line('Concertina'));
  for (const n of ['Bass', 'Trigger']) {
    await p.driver
      .actions()
      .keyDown(Key.CONTROL)
      .click(await p.find('button', `Line ${n}`, await p.line(n)))
      .keyUp(Key.CONTROL)
      .perform();
  }
  await p.keys('k');
  await p.find('dialog', 'Save 3 lines');
  await shot('save-rig');
  await p.keys(Key.ESCAPE);
  await patchList(p);
  await shot('patch-list');
  await p.go('/shelf/demo-strip-2');
  await p.click('what differs');
  await p.click('Hear both');
  await p.see('at equal loudness', 60000);
  await shot('side-by-side');
  await p.keys(Key.ESCAPE);
}

/** A line that was changed on both sides. */
async function life(p, shot, port) {
  // a line that was changed on both sides
  const call = async (method, path, body, headers = {}) =>
    (
      await fetch(`http://127.0.0.1:${port}/api${path}`, {
        method,
        headers: { 'Content-Type': 'application/json', ...headers },
        body: body && JSON.stringify(body),
      })
    ).json();
  const core = await import('../dist/node/core/index.js');
  const rig = (await call('GET', '/presets/demo-rig-3')).preset;
  const { revision, document } = await call('GET', '/sessions/kelp-and-copper');
  const dropped = core.applyDrop(document, core.planDrop(document, rig), rig).session;
  const duck = dropped.tracks.find((t) => t.name === 'Bed under the voice').chain[0];
  Object.assign(duck.params, { threshold: -28, ratio: 3 });
  await call(
    'PATCH',
    '/sessions/kelp-and-copper',
    [{ op: 'replace', path: '/tracks', value: dropped.tracks }],
    { 'If-Match': `"${revision}"` },
  );
  Object.assign(rig.content.tracks[2].chain[0].params, { threshold: -36, attack: 25 });
  rig.hash = core.hashOf(rig.content);
  await call('POST', '/presets/demo-rig-3/versions', { preset: rig }, { 'If-Match': '"1"' });
  await p.go('/session/kelp-and-copper');
  await p.click('Line Bed under the voice', await p.line('Bed under the voice'));
  await p.click('v1 · changed here');
  await p.see('whose value?', 10000);
  await shot('life');
  await p.keys(Key.ESCAPE);
}

async function main() {
  await ensureNpm();
  await ensureDebian([
    ['mariadbd', 'mariadb-server'],
    ['chromium', 'chromium'],
    ['chromedriver', 'chromium-driver'],
  ]);
  const { build } = await import('./build.mjs');
  await build();
  await startDatabase({ quiet: true });
  const { serve } = await import('./start.mjs');
  const port = await freePort(4800);
  const child = await serve(port);
  const { openBrowser, Key: keys } = await import('../tests/browser/driver.mjs');
  Key = keys;
  const p = await openBrowser(`http://127.0.0.1:${port}`);
  const out = join(ROOT, 'docs/screenshots');
  mkdirSync(out, { recursive: true });
  const shot = async (name) => {
    await p.driver.actions().move({ x: 640, y: 20 }).perform();
    await sleep(900);
    writeFileSync(join(out, name + '.png'), await p.picture());
    console.log(name);
  };
  try {
    for (const part of [sessions, lines, dropping, shelf, racks, checks, kits, saving, life]) {
      await part(p, shot, port);
    }
  } finally {
    await p.quit();
    child.kill('SIGTERM');
    await sleep(800);
    await stopDatabase();
    rmSync(DATA, { recursive: true, force: true, maxRetries: 5 });
  }
}

main().then(() => process.exit(0), fail);
