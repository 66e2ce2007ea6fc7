/** Long lists: pages without gaps, what was opened last first, counts that every write keeps right, queries given up. */
import type { Express } from 'express';
import fc from 'fast-check';
import request from 'supertest';
import type { DataSource } from 'typeorm';
import type { Facets, PresetPage, SessionPage } from '../../contract/index.ts';
import { capture, createPreset, type Preset } from '../../core/index.ts';
import { abortable } from '../../server/db/abortable.ts';
import { sessionWith } from '../support/build.ts';
import { startApi } from '../support/server.ts';

let app: Express;
let db: DataSource;
let stop: () => Promise<void>;
beforeAll(async () => {
  ({ app, db, stop } = await startApi('ropeshelf_lists'));
});
afterAll(() => stop());

const sessions = async (query = ''): Promise<SessionPage> =>
  (await request(app).get(`/api/sessions${query}`).expect(200)).body as SessionPage;
/** Every page of a list, one after the other. */
async function everyPage<T>(
  page: (after: string) => Promise<{ items: T[]; next: string | null }>,
): Promise<T[]> {
  const all: T[] = [];
  for (let next: string | null = ''; next !== null;) {
    const { items, next: behind } = await page(next ? `&after=${next}` : '');
    all.push(...items);
    next = behind;
  }
  return all;
}

test('1,200 sessions: every one is reached page by page, in one order, and by its name', async () => {
  const rows = Array.from({ length: 1200 }, (_, i) => [`s${i}`, `Watch ${i % 100} bell ${i}`, i % 7]);
  for (let at = 0; at < rows.length; at += 300) {
    const part = rows.slice(at, at + 300);
    // many were opened in the same moment
    await db.query(
      `INSERT INTO session (id, owner, name, revision, tempo, sampleRate, trackCount, document, openedAt)
       VALUES ${part.map(() => "(?, 'owner', ?, 1, 120, 48000, 1, '{}', TIMESTAMPADD(HOUR, ?, '2026-01-01'))").join(', ')}`,
      part.flat(),
    );
  }
  const all = await everyPage((after) => sessions(`?limit=97${after}`));
  expect(all.length).toBe(1200);
  expect(new Set(all.map((s) => s.id)).size).toBe(1200);
  const opened = all.map((s) => s.openedAt);
  expect(opened).toEqual([...opened].sort().reverse());
  expect((await sessions('?q=bell%201199')).items.map((s) => s.id)).toEqual(['s1199']);
  expect((await everyPage((after) => sessions(`?q=watch+7+bell&limit=10${after}`))).length).toBe(
    rows.filter(([, name]) => String(name).includes('7')).length,
  );
  expect((await sessions('?q=100%25')).items).toEqual([]);
  await request(app).get('/api/sessions?after=nonsense').expect(400);
});

test('what is opened stands first, in its folder too, and is not changed by that', async () => {
  const before = (await sessions('?q=bell%20600')).items[0];
  await request(app).post('/api/sessions/s600/opened').expect(204);
  await request(app).put('/api/sessions/s600/folder').send({ folder: ' Harbour tour ' }).expect(204);
  await request(app).put('/api/sessions/s601/folder').send({ folder: 'Harbour tour' }).expect(204);
  const [first] = (await sessions('?limit=1')).items;
  expect(first).toMatchObject({ id: 's600', folder: 'Harbour tour', updatedAt: before.updatedAt });
  expect((await sessions('?folder=Harbour%20tour')).items.map((s) => s.id)).toEqual(['s600', 's601']);
  expect((await request(app).get('/api/sessions/folders').expect(200)).body).toEqual([
    { name: 'Harbour tour', n: 2 },
  ]);
  await request(app).put('/api/sessions/s601/folder').send({ folder: '' }).expect(204);
  await request(app).post('/api/sessions/gone/opened').expect(404);
  await request(app)
    .put('/api/sessions/s600/folder')
    .send({ folder: 'x'.repeat(201) })
    .expect(400);
});

const CATEGORIES = ['', 'Voice/Lead', 'Voice/Choir', 'Buses'];
const TAGS = ['warm', 'close', 'café', 'dry'];
/** Letters of both sizes and with marks, figures, what stands between words, a word longer than is kept, many bytes. */
const NAMES = [
  'Line',
  'line',
  'Ümlaut & Co',
  'Café-Ölwanne 16',
  `Lang${'a'.repeat(80)}`,
  '7',
  'l',
  'Лира «север»',
  '歌'.repeat(150),
  '🎤'.repeat(90),
];
/** One thing that happens to one of a few presets. */
const step = fc.record({
  what: fc.constantFrom('save', 'version', 'meta', 'delete', 'restore' as const),
  which: fc.nat(5),
  name: fc.constantFrom(...NAMES),
  category: fc.constantFrom(...CATEGORIES),
  tags: fc.subarray(TAGS),
});
const strip = (id: string, name: string, category: string, tags: string[], level: number): Preset =>
  createPreset(capture(sessionWith([{ id: 'a', name: 'Line', level }]), ['a']), { id, name, category, tags });

test('the counts of kinds, categories and tags, and what is found by each word and tag, are right after whatever is written', async () => {
  let round = 0;
  await fc.assert(
    fc.asyncProperty(fc.array(step, { minLength: 5, maxLength: 25 }), async (steps) => {
      round++;
      const ids = new Map<number, { id: string; version: number }>();
      for (const { what, which, name, category, tags } of steps) {
        const there = ids.get(which);
        const level = -(there?.version ?? 0);
        const preset = strip(there?.id ?? '', `${name} ${round} ${which}`, category, tags, level);
        if (!there && what === 'save') {
          const { body } = await request(app).post('/api/presets').send({ preset }).expect(201);
          ids.set(which, { id: (body as { id: string }).id, version: 1 });
        } else if (there && what === 'version') {
          const r = await request(app)
            .post(`/api/presets/${there.id}/versions`)
            .set('If-Match', `"${there.version}"`)
            .send({ preset });
          if (r.status < 300) there.version++;
        } else if (there && what === 'meta') {
          await request(app)
            .patch(`/api/presets/${there.id}`)
            .send({ name: `${name} ${which}`, category, tags });
        } else if (there && what === 'delete') await request(app).delete(`/api/presets/${there.id}`);
        else if (there && what === 'restore') await request(app).post(`/api/presets/${there.id}/restore`);
      }
      await countsAreRight();
      await wordsAreRight();
    }),
    { numRuns: 12 },
  );
});

/** Every page of two of what is found, by id; not what was taken for a misspelt word. */
const found = async (query: string): Promise<string[]> => {
  const page = async (after: string) => {
    const { body } = await request(app).get(`/api/presets?limit=2&${query}${after}`).expect(200);
    const { items, next, instead } = body as PresetPage;
    return instead ? { items: [], next: null } : { items, next };
  };
  return (await everyPage(page)).map((p) => p.id);
};
/** As the database compares: without sizes and marks. */
const plain = (text: string) => text.normalize('NFD').replace(/\p{M}/gu, '').toLowerCase();

/** What each word's and each tag's list holds, against the texts of what is on the shelf, in the shelf's own order. */
async function wordsAreRight(): Promise<void> {
  const rows: { id: string; search: string; tags: string | null }[] = await db.query(
    `SELECT p.id, p.search, (SELECT GROUP_CONCAT(t.name) FROM tag t WHERE t.preset = p.id) AS tags
     FROM preset p WHERE p.deletedAt IS NULL ORDER BY p.name, p.id`,
  );
  const having = (holds: (row: (typeof rows)[number]) => boolean) => rows.filter(holds).map((row) => row.id);
  const words = (row: (typeof rows)[number]) => plain(row.search).split(/[^\p{L}\p{N}]+/u);
  for (const begin of [
    'l',
    'li',
    'Line',
    'ol',
    'Öl',
    'cafe',
    '1',
    '16',
    'lang',
    'сев',
    '歌歌',
    `lang${'a'.repeat(70)}`,
  ]) {
    const expected = having((row) => words(row).some((word) => word.startsWith(plain(begin))));
    expect([begin, await found(`q=${encodeURIComponent(begin)}`)]).toEqual([begin, expected]);
  }
  for (const tag of TAGS) {
    const expected = having((row) => row.tags?.split(',').includes(tag) ?? false);
    expect([tag, await found(`tag=${encodeURIComponent(tag)}`)]).toEqual([tag, expected]);
  }
}

async function countsAreRight(): Promise<void> {
  const facets = (await request(app).get('/api/presets/facets').expect(200)).body as Facets;
  const counted = async (sql: string) =>
    ((await db.query(sql)) as { name: string; n: string }[]).map((x) => [x.name, Number(x.n)]);
  const live = 'p.deletedAt IS NULL';
  const of = (list: { name: string; n: number }[]) => list.map((x) => [x.name, x.n]);
  expect(of(facets.kinds)).toEqual(
    await counted(
      `SELECT kind AS name, COUNT(*) AS n FROM preset p WHERE ${live} GROUP BY kind ORDER BY kind`,
    ),
  );
  expect(of(facets.categories)).toEqual(
    await counted(
      `SELECT category AS name, COUNT(*) AS n FROM preset p WHERE ${live} AND category <> ''
       GROUP BY category ORDER BY category`,
    ),
  );
  expect(of(facets.tags)).toEqual(
    await counted(
      `SELECT t.name, COUNT(*) AS n FROM tag t JOIN preset p ON p.id = t.preset WHERE ${live}
       GROUP BY t.name ORDER BY n DESC, t.name`,
    ),
  );
}

test('presets page by page, by name, by last use and pinned: each once, in order', async () => {
  const orders = ['&sort=used', '&sort=most', '&sort=added', '&sort=never', '&sort=most&q=line+1'];
  for (const query of ['', ...orders, '&q=line', '&q=line+1', '&pinned=true']) {
    const page = async (after: string) =>
      (await request(app).get(`/api/presets?limit=3${query}${after}`).expect(200)).body as PresetPage;
    const all = await everyPage(page);
    const whole = (await request(app).get(`/api/presets?limit=200${query}`).expect(200)).body as PresetPage;
    expect(all.map((p) => p.id)).toEqual(whole.items.map((p) => p.id));
  }
});

test('a query that nobody waits for is ended, and its connection works on', async () => {
  let close = () => undefined as void;
  const waiting = {
    writableEnded: false,
    on: (_event: 'close', listener: () => void) => {
      close = listener;
    },
    off: () => undefined,
  };
  const begun = Date.now();
  const slow = abortable(db, waiting, (m) => m.query('SELECT SLEEP(20) FROM preset'));
  await new Promise((resolve) => setTimeout(resolve, 200));
  close();
  expect(await slow).toBeNull();
  expect(Date.now() - begun).toBeLessThan(10_000);
  expect((await sessions('?limit=1')).items.length).toBe(1);
});

test('what is dropped most stands first, what never was is found; a drop that is told twice counts once', async () => {
  const names = ['Seldom', 'Often', 'Never'];
  const ids: string[] = [];
  for (const name of names) {
    const preset = createPreset(capture(sessionWith([{ id: 'a', name }]), ['a']), {
      id: `count-${name}`,
      name,
    });
    await request(app).post('/api/presets').send({ preset }).expect(201);
    ids.push(preset.id);
  }
  const session = (await request(app).post('/api/sessions').send({ name: 'Counted' }).expect(201)).body as {
    id: string;
  };
  const told = [ids[0], ids[1], ids[1], ids[1]];
  for (const [n, preset] of told.entries()) {
    const drop = { id: `drop-${Math.min(n, 2)}`, session: session.id, preset, version: 1, record: {} };
    await request(app).post('/api/drops').send(drop).expect(201);
  }
  const first = async (query: string) =>
    ((await request(app).get(`/api/presets?limit=200&${query}`).expect(200)).body as PresetPage).items.map(
      (p) => p.name,
    );
  expect((await first('sort=most')).slice(0, 2)).toEqual(['Often', 'Seldom']);
  const never = await first('sort=never');
  expect(names.map((name) => never.includes(name))).toEqual([false, false, true]);
  expect((await first('sort=added'))[0]).toBe('Never');
});

test('a search is kept under its name, changed, and let go of; what new lines begin with is not among them', async () => {
  const put = (name: string, search: object) =>
    request(app)
      .put(`/api/searches/${encodeURIComponent(name)}`)
      .send({ search });
  await put('Folk: voices/2', { q: 'folk', kind: 'strip', sort: 'most' }).expect(204);
  await put('Folk: voices/2', { q: 'folk', tag: 'warm' }).expect(204);
  const kept = async () => (await request(app).get('/api/searches').expect(200)).body as unknown;
  expect(await kept()).toEqual([{ name: 'Folk: voices/2', search: { q: 'folk', tag: 'warm' } }]);
  expect((await request(app).get('/api/defaults').expect(200)).body).toEqual({});
  await put('Odd', { kind: 'boat' }).expect(400);
  await put('x'.repeat(51), {}).expect(400);
  await request(app)
    .delete(`/api/searches/${encodeURIComponent('Folk: voices/2')}`)
    .expect(204);
  expect(await kept()).toEqual([]);
});

test('a word that thousands have, in every order and with what narrows it: the same presets as by their texts', async () => {
  const rows = Array.from({ length: 2600 }, (_, i) => {
    const word = i % 9 ? 'tarpaulin' : 'canvas';
    return [
      `many${i}`,
      `${word} ${i}`,
      i % 3 ? 'Sails' : 'Sails/Fore',
      i % 11 === 0,
      `${word} ${i}`,
      i % 7,
      i % 50,
    ];
  });
  for (let at = 0; at < rows.length; at += 650) {
    const part = rows.slice(at, at + 650);
    await db.query(
      `INSERT INTO preset (id, owner, kind, name, category, colour, pinned, currentVersion, summary, search, \`lock\`, drops, lastUsedAt)
       VALUES ${part.map(() => "(?, 'owner', 'strip', ?, ?, 'blue', ?, 1, '{}', ?, 1, ?, TIMESTAMPADD(HOUR, ?, '2026-01-01'))").join(', ')}`,
      part.flat(),
    );
  }
  const ORDERS = {
    used: 'lastUsedAt DESC, id DESC',
    most: 'drops DESC, id DESC',
    added: 'createdAt DESC, id DESC',
    name: 'name, id',
  };
  await db.query(
    "INSERT INTO tag (preset, name, owner) SELECT id, IF(drops < 6, 'canvas', 'storm'), owner FROM preset WHERE id LIKE 'many%'",
  );
  const tagged = (tag: string) => `EXISTS (SELECT 1 FROM tag t WHERE t.preset = p.id AND t.name = '${tag}')`;
  const narrowed = {
    '': 'TRUE',
    '&category=Sails/Fore': "category = 'Sails/Fore'",
    // with what lies below it
    '&category=Sails': 'TRUE',
    '&pinned=true': 'pinned = 1',
    '&kind=strip': 'TRUE',
    '&kind=rack': 'FALSE',
    '&tag=canvas': tagged('canvas'),
    '&tag=storm': tagged('storm'),
    '&tag=canvas&kind=strip&category=Sails': tagged('canvas'),
  };
  for (const [sort, order] of Object.entries(ORDERS)) {
    for (const [query, where] of Object.entries(narrowed)) {
      const expected: { id: string }[] = await db.query(
        `SELECT id FROM preset p WHERE search LIKE '%tarpaulin%' AND ${where} ORDER BY ${order}`,
      );
      const page = async (after: string) =>
        (await request(app).get(`/api/presets?limit=200&q=tarp&sort=${sort}${query}${after}`).expect(200))
          .body as PresetPage;
      const found = (await everyPage(page)).map((p) => p.id);
      expect([sort, query, found]).toEqual([sort, query, expected.map((row) => row.id)]);
    }
  }
  // several words: side by side in the name first, then in what else it is found by; misspelt ones in one order
  await db.query(
    `UPDATE preset SET name = IF(drops % 2, 'tarpaulin storm', 'storm'), search = CONCAT(name, IF(drops % 3, ' storm', ' tarpaulin storm'), ' ', search)
       WHERE id LIKE 'many%' AND search LIKE 'tarpaulin%'`,
  );
  const near = (phrase: string) =>
    `CASE WHEN name LIKE '%${phrase}%' THEN 0 WHEN search LIKE '%${phrase}%' THEN 1 ELSE 2 END`;
  for (const [typed, by] of Object.entries({
    'tarp storm': near('tarp storm'),
    'tarpaulin storm': near('tarpaulin storm'),
    'storm tarpaulin': near('storm tarpaulin'),
    'tarpaulin-storm': 'NULL',
    'tarpolin sturm': 'NULL',
  })) {
    for (const [query, where] of Object.entries(narrowed)) {
      const expected: { id: string }[] = await db.query(
        `SELECT id FROM preset p WHERE search LIKE '%tarpaulin%' AND search LIKE '%storm%' AND ${where} ORDER BY ${by}, name, id`,
      );
      const url = `/api/presets?limit=200&q=${encodeURIComponent(typed)}${query}`;
      const page = async (after: string) =>
        (
          await request(app)
            .get(url + after)
            .expect(200)
        ).body as PresetPage;
      const found = (await everyPage(page)).map((p) => p.id);
      expect([typed, query, found]).toEqual([typed, query, expected.map((row) => row.id)]);
    }
  }
  // what begins with one letter is in both lists
  const page = async (after: string) =>
    (await request(app).get(`/api/presets?limit=200&q=t&sort=used&tag=storm${after}`).expect(200))
      .body as PresetPage;
  expect((await everyPage(page)).length).toBeGreaterThan(300);
  await db.query("DELETE FROM preset WHERE id LIKE 'many%'");
});
