// npm run bench -- size: what lists cost as they grow, as ratios within one run: 1,000 to 10,000 to 100,000 presets,
// 200 to 5,000 sessions. Wanted: at most 1.5 × from the first to the last. What is listed is made once and kept in
// .data/bench: the next run begins at once.
import { once } from 'node:events';
import { join } from 'node:path';

const WORDS = 'kelp copper lantern tide mast harbour gull rope brine deck sail anchor'.split(' ');
/** words of the tags and categories; some are common, some are not */
const CATEGORIES = ['Voice/Lead', 'Voice/Choir', 'Drums', 'Buses', 'Returns', 'Keys'];
const ROUNDS = 15;
const PART = 1000;
/** presets and sessions of each database */
const SIZES = [
  { presets: 1000, sessions: 200 },
  { presets: 10000, sessions: 1000 },
  { presets: 100000, sessions: 5000 },
];
/** ms that an answer may take at the largest size, from the last key on */
const AT_ONCE = 150;
const OWNED = "'owner'";

/** What is asked, as a person would. */
const QUESTIONS = {
  'first page, by name': 'limit=60',
  'fiftieth page, by name': 'limit=60',
  'last used first': 'limit=60&sort=used',
  'used most first': 'limit=60&sort=most',
  'added last first': 'limit=60&sort=added',
  'never used': 'limit=60&sort=never',
  'pinned only': 'limit=60&pinned=true',
  'of a category': 'limit=60&category=Voice/Lead',
  'of a tag': 'limit=60&tag=warm',
  'a common word': 'limit=60&q=lantern',
  'three letters': 'limit=60&q=lan',
  'two words': 'limit=60&q=lantern+tide',
  'two words that many have': 'limit=60&q=kelp+tide',
  'two misspelt words': 'limit=60&q=lanturn+tyde',
  'a common word, last used first': 'limit=60&q=lantern&sort=used',
  'a common word of a category': 'limit=60&q=lantern&category=Voice/Lead',
  'a common word of a kind': 'limit=60&q=lantern&kind=strip',
  'a common word of a tag': 'limit=60&q=lantern&tag=warm',
  'a kind that none has, last used first': 'limit=60&kind=rack&sort=used',
  'one letter, last used first': 'limit=60&q=l&sort=used',
  'a misspelt word': 'limit=60&q=lanturn',
  'what nothing is called': 'limit=60&q=zzzz',
  'a word that few have': 'limit=60&q=telephone',
  'kinds, categories and tags': null,
};

/** Rows of a table that this bench made, of which there are so many. */
async function countOf(db, table, begin) {
  const [{ n }] = await db.query(`SELECT COUNT(*) AS n FROM ${table} WHERE id REGEXP '^${begin}[0-9]+$'`);
  return Number(n);
}

/** Fills up what is there: each part is written whole or not at all. */
async function fillUp(db, table, begin, to, put) {
  const from = await countOf(db, table, begin);
  for (let at = from; at < to; at += PART) {
    const numbers = Array.from({ length: Math.min(PART, to - at) }, (_, k) => at + k);
    await db.transaction((m) => put(m, numbers));
  }
  if (from < to) console.log(`${to - from} rows of ${table} made`);
}

async function putPresets(db, demo, to) {
  await fillUp(db, 'preset', 'b', to, async (m, numbers) => {
    const rows = numbers.map((n) => presetRowOf(n, demo[n % demo.length]));
    await m.query(
      `INSERT INTO preset (id, owner, kind, name, category, colour, pinned, currentVersion, summary, search, \`lock\`, drops, lastUsedAt)
       VALUES ${rows.map(() => `(?, ${OWNED}, ?, ?, ?, ?, ?, 1, ?, ?, 1, ?, IF(?, '1970-01-01', TIMESTAMPADD(SECOND, ?, '2026-01-01')))`).join(', ')}`,
      rows.flat(),
    );
    const tags = numbers.flatMap((n) => [
      [`b${n}`, n % 4 ? 'close' : 'warm'],
      [`b${n}`, `tag ${n % 150}`],
    ]);
    await m.query(
      `INSERT INTO tag (preset, name, owner) VALUES ${tags.map(() => `(?, ?, ${OWNED})`).join(', ')}`,
      tags.flat(),
    );
  });
  await db.query('ANALYZE TABLE preset, tag, preset_count, preset_word');
}
function presetRowOf(n, like) {
  const name = `${WORDS[n % 12]} ${WORDS[(n * 7 + 3) % 12]} ${n}`;
  const rare = n % 5000 === 0 ? ' telephone' : '';
  const isNever = n % 30 === 7 ? 1 : 0;
  return [
    `b${n}`,
    'strip',
    name,
    CATEGORIES[n % 6],
    like.colour,
    n % 40 === 0 ? 1 : 0,
    JSON.stringify(like.summary),
    `${name}${rare} ${like.search}`,
    isNever ? 0 : n % 50,
    isNever,
    n % 1000,
  ];
}

async function putSessions(db, to) {
  await fillUp(db, 'session', 's', to, async (m, numbers) => {
    const rows = numbers.map((n) => [`s${n}`, `Watch ${n % 100} bell ${n}`, n]);
    await m.query(
      `INSERT INTO session (id, owner, name, revision, written, tempo, sampleRate, trackCount, document, openedAt)
       VALUES ${rows.map(() => `(?, ${OWNED}, ?, 1, 1, 120, 48000, 9, '{}', TIMESTAMPADD(MINUTE, ?, '2026-01-01'))`).join(', ')}`,
      rows.flat(),
    );
  });
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

/** What is asked of the sessions. */
const LISTED = {
  'first page': 'sessions',
  'by a word': 'sessions?q=bell+199',
  'a word of all': 'sessions?q=watch',
};
/** Lines of a session that one value is changed in. */
const LINES = [9, 200, 400, 800];

/** A session of so many lines with four devices each, on the server: its id and revision. Made once. */
async function longSession(core, base, count) {
  const name = `${count} lines of the bench`;
  const { items } = await (await fetch(`${base}/sessions?q=${encodeURIComponent(name)}`)).json();
  const known = items.find((s) => s.name === name && s.trackCount > count);
  if (known) return { id: known.id, revision: known.revision };
  const s = core.createSession({ name });
  const output = { kind: 'track', track: s.tracks[0].id };
  const lines = Array.from({ length: count }, (_, i) => ({
    ...core.createTrack('audio', { name: `Line ${i + 1}`, output, channels: 1 }),
    chain: ['eq', 'compressor', 'gate', 'saturator'].map((type) => core.createDevice(type)),
  }));
  const made = await fetch(`${base}/sessions`, {
    method: 'POST',
    headers: { 'Content-Type': 'application/json' },
    body: JSON.stringify({ name }),
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

/** The slowest of a hundred, as far as so few say it. */
const p99 = (times) => times.toSorted((a, b) => a - b)[Math.floor(0.99 * (times.length - 1))];

/** What the change of one level costs as the session grows, and how long other requests wait beside it. */
async function changes(core, base, { timeAsync, median }) {
  const found = { change: [], beside: [] };
  for (const count of LINES) {
    let { id, revision } = await longSession(core, base, count);
    const own = [];
    const beside = [];
    for (let i = 0; i < 60; i++) {
      const ops = [{ op: 'replace', path: '/tracks/3/level', value: -(i % 20) - (i % 2) / 2 }];
      let isGoing = true;
      const changed = timeAsync(async () => {
        revision = await change(base, id, revision, ops);
      }).finally(() => {
        isGoing = false;
      });
      while (isGoing) beside.push(await timeAsync(() => fetch(`${base}/health`).then((r) => r.json())));
      own.push(await changed);
    }
    found.change.push(median(own.slice(5)));
    found.beside.push(p99(beside.slice(10)));
  }
  return found;
}

/** A server of its own for a database of so many presets and sessions. */
async function sized(ROOT, { presets, sessions }, demo) {
  const { makeDataSource } = await import(join(ROOT, 'dist/node/server/db/data-source.js'));
  const { makeApp } = await import(join(ROOT, 'dist/node/server/app.js'));
  const { serverOf } = await import(join(ROOT, 'dist/node/server/serve.js'));
  const db = makeDataSource({ port: Number(process.env.DB_PORT), database: `ropeshelf_size_${presets}` });
  await db.initialize();
  await db.runMigrations();
  await putPresets(db, demo, presets);
  await putSessions(db, sessions);
  const { app, documents } = makeApp(db);
  const server = serverOf(app).listen(0, '127.0.0.1');
  await once(server, 'listening');
  const base = `http://127.0.0.1:${server.address().port}/api`;
  const get = async (path) => (await fetch(`${base}/${path}`)).json();
  return {
    base,
    get,
    marker: await markerOfPage(get, 49),
    async stop() {
      server.close();
      await documents.stop();
      await db.destroy();
    },
  };
}

/** What one question costs at each size: in turn, so that what disturbs the machine disturbs all of them. */
async function costs(sizes, pathAt, { timeAsync, median }) {
  const times = sizes.map(() => []);
  for (let round = 0; round <= ROUNDS; round++) {
    for (const [i, at] of sizes.entries()) {
      const ms = await timeAsync(() => at.get(pathAt(at)));
      if (round) times[i].push(ms);
    }
  }
  return times.map(median);
}

/** @param tools `row`, `x`, `timeAsync` and `median` of the bench */
export async function size(ROOT, tools) {
  const { row, x } = tools;
  const { presetRow } = await import(join(ROOT, 'dist/node/server/db/store.js'));
  const { makeDemo } = await import(join(ROOT, 'dist/node/demo/index.js'));
  const { actAsOwner } = await import(join(ROOT, 'dist/node/server/db/acting.js'));
  const { OWNER } = await import(join(ROOT, 'dist/node/server/db/entities.js'));
  const core = await import(join(ROOT, 'dist/node/core/index.js'));
  const strips = makeDemo().presets.filter((p) => p.kind === 'strip');
  const demo = actAsOwner(OWNER, () => strips.map(presetRow));
  const sizes = [];
  for (const one of SIZES) sizes.push(await sized(ROOT, one, demo));
  const tell = (what, ms, wanted, ratio) =>
    row(what, x(ratio), `${ms.map((v) => v.toFixed(1)).join(' : ')} ms; wanted at most ${wanted}`);
  const tellList = (what, ms) => tell(what, ms, `1.5 ×, ${AT_ONCE} ms`, ms.at(-1) / ms[0]);

  for (const [what, query] of Object.entries(QUESTIONS)) {
    const path = query === null ? 'presets/facets' : `presets?${query}`;
    const isFar = what.startsWith('fiftieth');
    const ms = await costs(sizes, (at) => (isFar ? path + at.marker : path), tools);
    tellList(`1,000 : 10,000 : 100,000 presets, ${what}`, ms);
  }
  for (const [what, path] of Object.entries(LISTED)) {
    tellList(`200 : 1,000 : 5,000 sessions, ${what}`, await costs(sizes, () => path, tools));
  }
  const long = await changes(core, sizes[0].base, tools);
  const lines = `${LINES.join(' : ')} lines`;
  tell(`${lines}, one level changed`, long.change, '2 ×', long.change.at(-1) / long.change[0]);
  tell(`${lines}, p99 of others meanwhile`, long.beside, '3 ×', long.beside.at(-1) / long.beside[0]);
  for (const at of sizes) await at.stop();
}
