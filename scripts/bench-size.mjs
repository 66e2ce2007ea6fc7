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
      `INSERT INTO session (id, owner, name, revision, tempo, sampleRate, trackCount, document, openedAt)
       VALUES ${rows.map(() => `(?, ${OWNED}, ?, 1, 120, 48000, 9, '{}', TIMESTAMPADD(MINUTE, ?, '2026-01-01'))`).join(', ')}`,
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
  const tell = (what, ms) => {
    const ratio = ms.at(-1) / ms[0];
    row(what, x(ratio), `of the first; ${ms.map((v) => v.toFixed(1)).join(' : ')} ms; wanted at most 1.5 ×`);
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
  server.close();
  await db.destroy();
}
