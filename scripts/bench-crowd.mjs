// npm run bench -- crowd: fifty who read and ten who write for two minutes, against one who reads alone before. Wanted: no
// error, p99 of reads at most 15 × the median of the idle server, memory flat. CROWD_SECONDS makes it shorter.
import { once } from 'node:events';
import { memoryUsage } from 'node:process';
import { clearInterval, setInterval } from 'node:timers';
import { Worker, isMainThread, parentPort, workerData } from 'node:worker_threads';
import { join } from 'node:path';

const SECONDS = Number(process.env.CROWD_SECONDS ?? 120);
const READERS = 50;
const WRITERS = 10;
/** ms that a person looks at what came, and between two steps of one who moves a fader */
const LOOKS = 500;
const MOVES = 300;
/** reads of the idle server */
const IDLE = 200;
const READS = ['/presets?limit=60', '/presets?q=lead&limit=60', '/presets/facets', '/sessions', '/setups'];

const sleep = (ms) => new Promise((done) => setTimeout(done, ms));
const at = (times, share) => times.toSorted((a, b) => a - b)[Math.floor(times.length * share)] ?? 0;

/** Somebody who reads list after list. */
async function reader(base, until, seen) {
  await sleep(Math.random() * LOOKS);
  for (let n = Math.floor(Math.random() * READS.length); Date.now() < until; n++) {
    const began = performance.now();
    const answer = await fetch(base + READS[n % READS.length]);
    await answer.arrayBuffer();
    seen.reads.push(performance.now() - began);
    if (!answer.ok) seen.errors.push(`${answer.status} ${READS[n % READS.length]}`);
    await sleep(LOOKS);
  }
}
/** Somebody who moves a fader of a session of their own. */
async function writer(base, until, seen, name) {
  const json = { 'Content-Type': 'application/json' };
  const body = JSON.stringify({ name, copyOf: 'kelp-and-copper' });
  const made = await fetch(`${base}/sessions`, { method: 'POST', headers: json, body });
  const { id } = await made.json();
  for (let revision = 1; Date.now() < until; revision++) {
    const began = performance.now();
    const answer = await fetch(`${base}/sessions/${id}`, {
      method: 'PATCH',
      headers: { 'Content-Type': 'application/json-patch+json', 'If-Match': `"${revision}"` },
      body: JSON.stringify([{ op: 'replace', path: '/note', value: `step ${revision}` }]),
    });
    await answer.arrayBuffer();
    seen.writes.push(performance.now() - began);
    if (!answer.ok) seen.errors.push(`${answer.status} PATCH`);
    await sleep(MOVES);
  }
}

/** All of them at once, for so long. */
async function ask(base) {
  const seen = { reads: [], writes: [], errors: [] };
  const until = Date.now() + SECONDS * 1000;
  await Promise.all([
    ...Array.from({ length: READERS }, () => reader(base, until, seen)),
    ...Array.from({ length: WRITERS }, (_, n) => writer(base, until, seen, `Crowd ${n}`)),
  ]);
  return seen;
}
if (!isMainThread) parentPort.postMessage(await ask(workerData.base));

export async function crowd(ROOT, { row, x }) {
  const { makeDataSource } = await import(join(ROOT, 'dist/node/server/db/data-source.js'));
  const { makeApp } = await import(join(ROOT, 'dist/node/server/app.js'));
  const { serverOf } = await import(join(ROOT, 'dist/node/server/serve.js'));
  const { seedDemo } = await import(join(ROOT, 'dist/node/server/seed.js'));
  const { bundleRegularly } = await import(join(ROOT, 'dist/node/server/db/bundle.js'));
  const { ENTITIES } = await import(join(ROOT, 'dist/node/server/db/entities.js'));
  const db = makeDataSource({ port: Number(process.env.DB_PORT), database: 'ropeshelf_bench' });
  await db.initialize();
  await db.runMigrations();
  for (const e of ENTITIES) await db.getRepository(e).clear();
  await seedDemo(db);
  const { app, near, fingerprints, documents } = makeApp(db);
  const server = serverOf(app).listen(0, '127.0.0.1');
  await once(server, 'listening');
  // as in the program: what rests is put together meanwhile
  const endBundles = bundleRegularly(db);
  const base = `http://127.0.0.1:${server.address().port}/api`;
  const idle = [];
  for (let n = 0; n < IDLE; n++) {
    const began = performance.now();
    await (await fetch(base + READS[n % READS.length])).arrayBuffer();
    idle.push(performance.now() - began);
  }
  const heap = [];
  const timer = setInterval(() => heap.push(memoryUsage().heapUsed / 1e6), 1000);
  // they ask from a thread of their own, so that the server does not do their part as well
  const worker = new Worker(import.meta.filename, { workerData: { base } });
  const [seen] = await once(worker, 'message');
  clearInterval(timer);
  const half = Math.floor(heap.length / 2);
  // the least of each half: what is left when the collector was there
  const [early, late] = [Math.min(...heap.slice(0, half)), Math.min(...heap.slice(half))];
  const ms = (n) => `${n.toFixed(1)} ms`;
  row(
    `crowd: errors of ${seen.reads.length} reads, ${seen.writes.length} writes`,
    String(seen.errors.length),
    seen.errors[0] ?? '',
  );
  row(
    'crowd: p99 of a read : median idle',
    x(at(seen.reads, 0.99) / at(idle, 0.5)),
    `${ms(at(seen.reads, 0.99))} : ${ms(at(idle, 0.5))}`,
  );
  row(
    'crowd: p99 of a write : median idle',
    x(at(seen.writes, 0.99) / at(idle, 0.5)),
    ms(at(seen.writes, 0.99)),
  );
  row('crowd: memory, second half : first', x(late / early), `${late.toFixed(0)} : ${early.toFixed(0)} MB`);
  endBundles();
  await Promise.all([near.stop(), fingerprints.stop(), documents.stop()]);
  server.closeAllConnections();
  server.close();
  await db.destroy();
}
