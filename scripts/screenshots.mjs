// npm run screenshots: docs/screenshots/ from the demo data, at 1280 × 800, on a throw-away database.
import { mkdirSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';

process.env.ROPE_SHELF_DATA = mkdtempSync(join(tmpdir(), 'rope-shelf-shots-'));
const { ROOT, DATA, ensureDebian, ensureNpm, fail, freePort, sleep } = await import('./lib.mjs');
process.env.DB_PORT = String(await freePort(33600));
const { startDatabase, stopDatabase } = await import('./database.mjs');

async function main() {
  await ensureNpm();
  await ensureDebian([['mariadbd', 'mariadb-server'], ['chromium', 'chromium'], ['chromedriver', 'chromium-driver']]);
  const { build } = await import('./build.mjs');
  await build();
  await startDatabase({ quiet: true });
  const { serve } = await import('./start.mjs');
  const port = await freePort(4800);
  const child = await serve(port);
  const { Key, openBrowser } = await import('../tests/browser/driver.mjs');
  const p = await openBrowser(`http://127.0.0.1:${port}`);
  const out = join(ROOT, 'docs/screenshots');
  mkdirSync(out, { recursive: true });
  const shot = async (name) => { await p.driver.actions().move({ x: 640, y: 20 }).perform(); await sleep(900); writeFileSync(join(out, name + '.png'), await p.picture()); console.log(name); };
  try {
    await p.go('/sessions');
    await p.js('localStorage.setItem("rope-shelf-theme", "day")');
    await p.go('/sessions');
    await p.see('Kelp and Copper');
    await shot('sessions');
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
    await p.keys('k');
    await p.find('dialog', 'Save');
    await shot('save');
    await p.keys(Key.ESCAPE);
    await p.go('/session/ninth-wave-out');
    await p.line('Crew choir');
    await p.click('What to do with Lead, close and warm');
    await p.click('Drop as a new line');
    const d = await p.find('dialog', 'Drop “Lead');
    await shot('drop-sheet');
    await p.click('Drop', d);
    await p.see('Null test: −∞', 30000);
    await shot('intact-report');
    await p.click('Done');
    await p.go('/shelf');
    await p.click('Quiet whisper, forward');
    await p.see('Makeup first');
    await shot('shelf');
    await p.chord(Key.CONTROL, 'k');
    await sleep(300);
    await p.go('/session/kelp-and-copper');
    await p.line('Plate');
    await (await p.find('button', 'Slap', await p.line('Slap'))).click();
    await shot('session-delay');
    await (await p.find('button', 'Plate, on', await p.line('Plate'))).click();
    await shot('session-reverb');
  } finally {
    await p.quit();
    child.kill('SIGTERM');
    await sleep(800);
    await stopDatabase();
    rmSync(DATA, { recursive: true, force: true, maxRetries: 5 });
  }
}

main().then(() => process.exit(0), fail);
