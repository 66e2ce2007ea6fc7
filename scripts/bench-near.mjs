// npm run bench -- near: groups of presets that are nearly the same, among 10,000, in the thread that the server asks.
// Wanted: under two seconds, from documents to groups.
import { Worker } from 'node:worker_threads';
import { join } from 'node:path';

const COUNT = 10_000;
/** presets of one group */
const ALIKE = 10;
/** documents that the thread is told together */
const PAGE = 100;
const ROUNDS = 5;

/** Numbers from 0 to 1, the same in every run. */
function numbers(seed) {
  let s = seed;
  return () => {
    s = (Math.imul(s, 1664525) + 1013904223) >>> 0;
    return s / 4294967296;
  };
}

/** A preset with its numbers moved, each by at most a part of its range. */
function moved(core, preset, next, part) {
  const copy = structuredClone(preset);
  for (const track of copy.content.tracks) {
    for (const device of core.devicesIn(track.chain)) {
      for (const spec of core.DEVICE_TYPES[device.type]?.params ?? []) {
        const value = device.params[spec.id];
        if (spec.kind !== 'number' || typeof value !== 'number') continue;
        const far = (spec.max - spec.min) * part * (next() - 0.5);
        device.params[spec.id] = Math.min(spec.max, Math.max(spec.min, value + far));
      }
    }
  }
  return copy;
}

/** Documents of presets: bases that are far from each other, each with some that are near to it. */
function documents(core, demo) {
  const next = numbers(20);
  const rows = [];
  for (let n = 0; rows.length < COUNT; n++) {
    const base = moved(core, demo[n % demo.length], next, 1);
    for (let k = 0; k < ALIKE; k++) {
      rows.push({ id: `p${rows.length}`, text: JSON.stringify(k ? moved(core, base, next, 0.002) : base) });
    }
  }
  return rows;
}

const groups = (thread, within, key) =>
  new Promise((resolve) => {
    thread.once('message', resolve);
    thread.postMessage({ kind: 'groups', key, within });
  });

/** One thread from its start: ms of everything, and of the groups alone when it knows all. */
async function once(root, rows, within) {
  const thread = new Worker(join(root, 'dist/node/server/work/near.worker.js'));
  await groups(thread, within, 0);
  const began = performance.now();
  for (let i = 0; i < rows.length; i += PAGE) {
    thread.postMessage({ kind: 'presets', rows: rows.slice(i, i + PAGE) });
  }
  const { groups: found } = await groups(thread, within, 1);
  const all = performance.now() - began;
  const again = performance.now();
  await groups(thread, within, 2);
  const alone = performance.now() - again;
  await thread.terminate();
  return { all, alone, found };
}

export async function near(root, { row, median }) {
  const core = await import(join(root, 'dist/node/core/index.js'));
  const { makeDemo } = await import(join(root, 'dist/node/demo/index.js'));
  const rows = documents(core, makeDemo().presets);
  const size = rows.reduce((sum, { text }) => sum + text.length, 0) / 1e6;
  const rounds = [];
  for (let i = 0; i < ROUNDS; i++) rounds.push(await once(root, rows, core.NEAR));
  const [all, alone] = ['all', 'alone'].map((what) => median(rounds.map((r) => r[what])));
  const told = `${rounds[0].found.length} groups; the groups alone ${alone.toFixed(0)} ms`;
  row(
    `${COUNT} presets, ${size.toFixed(0)} MB of documents, a new thread`,
    `${(all / 1000).toFixed(2)} s`,
    `${told} (want < 2 s)`,
  );
}
