// npm run bench -- day: a day's work again and again in one page that is never loaded anew: playing, editing, dropping,
// undoing, other screens, other sessions, a second window. After each round the page's heap, its nodes and listeners, the
// server's memory and the database are measured. Wanted: the last tenth within 10 % of the second. DAY_MINUTES is 60.
import { once } from 'node:events';
import { freePort, memoryOf } from './lib.mjs';
import { Key } from '../tests/browser/driver.mjs';

const MINUTES = Number(process.env.DAY_MINUTES ?? 60);
const SESSIONS = ['Kelp and Copper', 'Lantern Room'];
/** s of the song that are heard in each round */
const HEARD = 3;

const lineIsThere = (p, name) => p.until(`the line ${name}`, () => p.shows(`Line ${name}`, '[role="group"]'));

/** Goes to another screen, and waits until it is that one: what is typed before would go to the one before. */
async function goTo(p, name, path) {
  await p.press(name);
  await p.until(path, () => p.js('return location.pathname.includes(arguments[0])', path));
}
async function typeInto(p, field, text) {
  await p.press(field, 'field');
  await p.chord(Key.CONTROL, 'a');
  await p.keys(text);
}

/**
 * Asks the page so that nothing of the answer stays in it: what the driver's own scripts answer is held in the page's
 * heap until the page is left, and a day asks a hundred thousand times.
 */
async function asked(p, code, ...args) {
  const expression = `(function () { ${code} }).apply(null, ${JSON.stringify(args)})`;
  const { result, exceptionDetails } = await p.driver.sendAndGetDevToolsCommand('Runtime.evaluate', {
    expression,
    returnByValue: true,
  });
  if (exceptionDetails) throw new Error(exceptionDetails.exception?.description ?? exceptionDetails.text);
  return result.value;
}

/** One stretch of work in a session, from the list of sessions and back to it. @returns what was undone, step by step */
async function work(p, session, round) {
  await goTo(p, session, '/session/');
  await lineIsThere(p, 'Lead voice');
  await p.press('Play');
  const from = await p.position();
  await p.until('the clock to run', async () => (await p.position()) > from + HEARD);
  await p.press('More for Lead voice');
  await p.press('Duplicate');
  await lineIsThere(p, 'Lead voice 2');
  await typeInto(p, 'Search the shelf', 'behind');
  await p.press('What to do with Shanty choir, wide and behind');
  await p.press('Look before dropping');
  await p.see('Drop “Shanty choir, wide and behind”');
  await p.press('Drop');
  await p.see('Null test: −∞ dB');
  await p.press('Done');
  await p.press('Stop');
  const undone = await undoAll(p);
  await p.saved();
  if (round % 2) await goTo(p, 'Map', '/map');
  else await goTo(p, 'Line check', '/check');
  await goTo(p, 'Shelf', '/shelf');
  await p.until('the search', () => p.shows('Search', 'field'));
  await typeInto(p, 'Search', 'voice');
  await goTo(p, 'Sessions', '/sessions');
  return undone;
}

/** Takes the line and the drop back. @returns what was undone, step by step */
async function undoAll(p) {
  const undone = [];
  await p.until('all of it to be undone', async () => {
    if (!(await p.lines()).includes('Lead voice 2')) return true;
    const step = await p.js('return document.querySelector(\'[title^="Undo: "]\')?.title ?? "nothing"');
    await p.press('Undo');
    undone.push(step);
    return false;
  });
  return undone;
}

/** A second window of a session, which is opened, changed in and closed. */
async function otherWindow(p, address) {
  const own = await p.driver.getWindowHandle();
  await p.driver.switchTo().newWindow('tab');
  await p.go(address);
  await lineIsThere(p, 'Lead voice');
  await p.press('More for Lead voice');
  await p.press('Duplicate');
  await lineIsThere(p, 'Lead voice 2');
  await p.press('Undo');
  await p.saved();
  await p.driver.close();
  await p.driver.switchTo().window(own);
}

/** What the page, the server and the database hold now, when the collectors have been there. */
async function measured(p, pid, db) {
  const ask = (command) => p.driver.sendAndGetDevToolsCommand(command, {});
  await ask('HeapProfiler.collectGarbage');
  await ask('Performance.enable');
  const { metrics } = await ask('Performance.getMetrics');
  const of = (name) => metrics.find((m) => m.name === name).value;
  const [{ size }] = await db.query(
    'SELECT SUM(data_length + index_length) AS size FROM information_schema.tables WHERE table_schema = DATABASE()',
  );
  return {
    'heap of the page, MB': of('JSHeapUsedSize') / 1e6,
    'nodes of the page': of('Nodes'),
    'listeners of the page': of('JSEventListeners'),
    'memory of the server, MB': memoryOf(pid),
    'database, MB': Number(size) / 1e6,
  };
}

/** A screen that was left waits for the browser in two of three rounds, and is gone in the next: what stays is the least. */
const WAITING = ['nodes of the page', 'listeners of the page'];
const least = (figures) => Math.min(...figures);

/** What grew from the second tenth of the rounds to the last. @param tools `row`, `x` and `median` of the bench */
function tell(rounds, { row, x, median }) {
  const tenth = Math.max(1, Math.floor(rounds.length / 10));
  for (const what of Object.keys(rounds[0] ?? {})) {
    const figure = WAITING.includes(what) ? least : median;
    const of = (part) => figure(part.map((r) => r[what]));
    const [first, last] = [of(rounds.slice(tenth, 2 * tenth + 1)), of(rounds.slice(-tenth))];
    const told = `${first.toFixed(1)} : ${last.toFixed(1)} after ${rounds.length} rounds of work`;
    row(`a day: ${what}`, x(last / first), `of the second tenth; ${told}; wanted at most 1.1 ×`);
  }
}

/** @param tools `row`, `x` and `median` of the bench */
export async function day(ROOT, openBrowser, tools) {
  const { serve } = await import('./start.mjs');
  const { makeDataSource } = await import('../dist/node/server/db/data-source.js');
  const port = await freePort(4900);
  const child = await serve(port);
  const db = await makeDataSource({ port: Number(process.env.DB_PORT), database: 'ropeshelf' }).initialize();
  const p = await openBrowser(`http://127.0.0.1:${port}`);
  p.js = (code, ...args) => asked(p, code, ...args);
  const rounds = [];
  try {
    await p.go('/sessions');
    const until = Date.now() + MINUTES * 60_000;
    for (let n = 0; Date.now() < until; n++) {
      const undone = await work(p, SESSIONS[n % SESSIONS.length], n);
      if (undone.length !== 2) console.log(`round ${n}: two steps were undone with ${undone.join(', ')}`);
      if (n % 5 === 4) await otherWindow(p, '/session/kelp-and-copper');
      rounds.push(await measured(p, child.pid, db));
    }
  } catch (e) {
    console.log(
      `round ${rounds.length}: ${e.message}\nThe page says:\n${await p.text().catch(() => 'nothing')}`,
    );
    throw e;
  } finally {
    // a day that was cut short says what it saw
    tell(rounds, tools);
    await p.quit();
    await db.destroy();
    const gone = once(child, 'exit');
    child.kill('SIGTERM');
    await gone;
  }
}
