// npm run bench -- size: what lists cost as they grow, as ratios within one run: 1,000 to 10,000 to 100,000 presets,
// 200 to 5,000 sessions. Wanted: at most 1.5 × from the first to the last.
import { once } from 'node:events';
import { join } from 'node:path';

const WORDS = 'kelp copper lantern tide mast harbour gull rope brine deck sail anchor'.split(' ');
/** words of the tags and categories; some are common, some are not */
const CATEGORIES = ['Voice/Lead', 'Voice/Choir', 'Drums', 'Buses', 'Returns', 'Keys'];
const ROUNDS = 7;
const PART = 1000;
const SIZES = [1000, 10000, 100000];
const OWNED = "'owner'";

/** What is asked, as a person would. */
const QUESTIONS = {
  'first page, by name': 'limit=60',
  'fiftieth page, by name': 'limit=60',
  'last used first': 'limit=60&sort=used',
  'pinned only': 'limit=60&pinned=true',
  'of a category': 'limit=60&category=Voice/Lead',
  'of a tag': 'limit=60&tag=warm',
  'a common word': 'limit=60&q=lantern',
  'three letters': 'limit=60&q=lan',
  'two words': 'limit=60&q=lantern+tide',
  'a word that few have': 'limit=60&q=telephone',
  'kinds, categories and tags': null,
};

async function putPresets(db, demo, from, to) {
  for (let at = from; at < to; at += PART) {
    const numbers = Array.from({ length: Math.min(PART, to - at) }, (_, k) => at + k);
    const rows = numbers.map((n) => {
      const name = `${WORDS[n % 12]} ${WORDS[(n * 7 + 3) % 12]} ${n}`;
      const other = demo[n % demo.length];
      const rare = n % 5000 === 0 ? ' telephone' : '';
      return [
        `b${n}`,
        'strip',
        name,
        CATEGORIES[n % 6],
        other.colour,
        n % 40 === 0 ? 1 : 0,
        JSON.stringify(other.summary),
        `${name}${rare} ${other.search}`,
        n % 3,
      ];
    });
    await db.query(
      `INSERT INTO preset (id, owner, kind, name, category, colour, pinned, currentVersion, summary, search, \`lock\`, lastUsedAt)
       VALUES ${rows.map(() => `(?, ${OWNED}, ?, ?, ?, ?, ?, 1, ?, ?, 1, TIMESTAMPADD(SECOND, ?, '2026-01-01'))`).join(', ')}`,
      rows.flat(),
    );
    const tags = numbers.flatMap((n) => [
      [`b${n}`, n % 4 ? 'close' : 'warm'],
      [`b${n}`, `tag ${n % 150}`],
    ]);
    await db.query(
      `INSERT INTO tag (preset, name, owner) VALUES ${tags.map(() => `(?, ?, ${OWNED})`).join(', ')}`,
      tags.flat(),
    );
  }
  await db.query('ANALYZE TABLE preset, tag, preset_count');
}

async function putSessions(db, from, to) {
  for (let at = from; at < to; at += PART) {
    const rows = Array.from({ length: Math.min(PART, to - at) }, (_, k) => [
      `s${at + k}`,
      `Watch ${(at + k) % 100} bell ${at + k}`,
      at + k,
    ]);
    await db.query(
      `INSERT INTO session (id, owner, name, revision, written, tempo, sampleRate, trackCount, document, openedAt)
       VALUES ${rows.map(() => `(?, ${OWNED}, ?, 1, 1, 120, 48000, 9, '{}', TIMESTAMPADD(MINUTE, ?, '2026-01-01'))`).join(', ')}`,
      rows.flat(),
    );
  }
  await db.query('ANALYZE TABLE session');
}

/** The marker of the fiftieth page of a list by name. */
async function markerOfPage(get, pages) {
  let after = '';
  for (let i = 0; i < pages; i++) {
    const { next } = await get(`presets?limit=60${after}`);
    if (!next) break;
    after = `&after=${next}`;
  }
  return after;
}

/** Lines of a session that one value is changed in. */
const LINES = [9, 200, 400, 800];

/** A session of so many lines with four devices each, on the server: its id and revision. */
async function longSession(core, base, count) {
  const s = core.createSession({ name: `${count} lines` });
  const output = { kind: 'track', track: s.tracks[0].id };
  const lines = Array.from({ length: count }, (_, i) => ({
    ...core.createTrack('audio', { name: `Line ${i + 1}`, output, channels: 1 }),
    chain: ['eq', 'compressor', 'gate', 'saturator'].map((type) => core.createDevice(type)),
  }));
  const made = await fetch(`${base}/sessions`, {
    method: 'POST',
    headers: { 'Content-Type': 'application/json' },
    body: JSON.stringify({ name: s.name }),
  });
  const { id, revision } = await made.json();
  const whole = [{ op: 'replace', path: '/tracks', value: [...lines, ...s.tracks] }];
  return { id, revision: await change(base, id, revision, whole) };
}
async function change(base, id, revision, ops) {
  const r = await fetch(`${base}/sessions/${id}`, {
    method: 'PATCH',
    headers: { 'Content-Type': 'application/json-patch+json', 'If-Match': `"${revision}"` },
    body: JSON.stringify(ops),
  });
  return (await r.json()).revision;
}

/** What the change of one level costs as the session grows, and how long another request waits beside it at most. */
async function changes(core, base, { timeAsync, median }) {
  const found = { change: [], beside: [] };
  for (const count of LINES) {
    let { id, revision } = await longSession(core, base, count);
    const own = [];
    const beside = [];
    for (let i = 0; i < 25; i++) {
      const ops = [{ op: 'replace', path: '/tracks/3/level', value: -(i % 20) }];
      const changed = timeAsync(async () => {
        revision = await change(base, id, revision, ops);
      });
      beside.push(await timeAsync(() => fetch(`${base}/health`).then((r) => r.json())));
      own.push(await changed);
    }
    found.change.push(median(own.slice(5)));
    found.beside.push(Math.max(...beside.slice(5)));
  }
  return found;
}

/** @param tools `row`, `x`, `timeAsync` and `median` of the bench */
export async function size(ROOT, { row, x, timeAsync, median }) {
  const { makeDataSource } = await import(join(ROOT, 'dist/node/server/db/data-source.js'));
  const { presetRow } = await import(join(ROOT, 'dist/node/server/db/store.js'));
  const { makeApp } = await import(join(ROOT, 'dist/node/server/app.js'));
  const { makeDemo } = await import(join(ROOT, 'dist/node/demo/index.js'));
  const db = makeDataSource({ port: Number(process.env.DB_PORT), database: 'ropeshelf_bench' });
  await db.initialize();
  await db.runMigrations();
  const demo = makeDemo()
    .presets.filter((p) => p.kind === 'strip')
    .map(presetRow);
  const server = makeApp(db).app.listen(0, '127.0.0.1');
  await once(server, 'listening');
  const base = `http://127.0.0.1:${server.address().port}/api`;
  const get = async (path) => (await fetch(`${base}/${path}`)).json();
  const cost = async (path) => {
    await get(path);
    const times = [];
    for (let i = 0; i < ROUNDS; i++) times.push(await timeAsync(() => get(path)));
    return median(times);
  };
  const tell = (what, ms, most = 1.5) => {
    const ratio = ms.at(-1) / ms[0];
    row(
      what,
      x(ratio),
      `of the first; ${ms.map((v) => v.toFixed(1)).join(' : ')} ms; wanted at most ${most} ×`,
    );
  };

  const found = Object.fromEntries(Object.keys(QUESTIONS).map((what) => [what, []]));
  let there = 0;
  for (const wanted of SIZES) {
    await putPresets(db, demo, there, wanted);
    there = wanted;
    const marker = await markerOfPage(get, 49);
    for (const [what, query] of Object.entries(QUESTIONS)) {
      const path = query === null ? 'presets/facets' : `presets?${query}`;
      found[what].push(await cost(what.startsWith('fiftieth') ? path + marker : path));
    }
  }
  for (const [what, ms] of Object.entries(found)) tell(`${SIZES.join(' : ')} presets, ${what}`, ms);

  const listed = { 'first page': 'sessions', 'by a word': 'sessions?q=bell+199' };
  const sessions = Object.fromEntries(Object.keys(listed).map((what) => [what, []]));
  for (const [from, to] of [
    [0, 200],
    [200, 5000],
  ]) {
    await putSessions(db, from, to);
    for (const [what, path] of Object.entries(listed)) sessions[what].push(await cost(path));
  }
  for (const [what, ms] of Object.entries(sessions)) tell(`200 : 5,000 sessions, ${what}`, ms);
  const core = await import(join(ROOT, 'dist/node/core/index.js'));
  const long = await changes(core, base, { timeAsync, median });
  tell(`${LINES.join(' : ')} lines, one level changed`, long.change, 2);
  tell(`${LINES.join(' : ')} lines, another request meanwhile, longest`, long.beside, 3);
  server.close();
  await db.destroy();
}
