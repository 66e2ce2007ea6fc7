/** Keeping a shelf for years: many at once, the trash, backups that are made by themselves. */
import { mkdtempSync, readFileSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { Express } from 'express';
import request from 'supertest';
import type { DataSource } from 'typeorm';
import type {
  ClearOutPage,
  Facets,
  ManyChanged,
  PresetEntry,
  PresetPage,
  TrashPage,
} from '../../contract/index.ts';
import { capture, createPreset, readPack, type Preset } from '../../core/index.ts';
import { actAsOwner } from '../../server/db/acting.ts';
import { OWNER, UserRow } from '../../server/db/entities.ts';
import { Backups } from '../../server/packs/backups.ts';
import { device, sessionWith } from '../support/build.ts';
import { startApi } from '../support/server.ts';

let app: Express;
let db: DataSource;
let stop: () => Promise<void>;
beforeAll(async () => {
  ({ app, db, stop } = await startApi('ropeshelf_keeping'));
  for (let i = 0; i < 6; i++) {
    await request(app)
      .post('/api/presets')
      .send({ preset: strip(i) })
      .expect(201);
  }
});
afterAll(() => stop());

const strip = (i: number): Preset =>
  createPreset(
    capture(
      sessionWith([
        { id: 'v', name: 'Voice', role: 'audio', chain: [device('compressor', { threshold: -10 - i })] },
        { id: 'm', role: 'master' },
      ]),
      ['v'],
    ),
    { id: `p${i}`, name: `Strip ${i}`, category: 'Voice', tags: i % 2 ? ['odd', 'take'] : ['take'] },
  );
const shelf = async (query = ''): Promise<PresetEntry[]> =>
  ((await request(app).get(`/api/presets?limit=50${query}`).expect(200)).body as PresetPage).items;
const asSeen = (p: PresetEntry) => [p.id, p.category, p.colour, p.pinned, p.summary.tags];
const trash = async (): Promise<TrashPage> =>
  (await request(app).get('/api/trash').expect(200)).body as TrashPage;

test('many at once: tagged, moved, coloured, pinned; the answer puts it all back, counts too', async () => {
  const before = (await shelf()).map(asSeen);
  const ids = ['p1', 'p2', 'p3', 'not-there'];
  const change = { ids, tag: ['tour'], untag: ['odd'], category: 'Tour/Voice', colour: 'buoy', pinned: true };
  const { body } = await request(app).post('/api/presets/many').send(change).expect(200);
  expect((body as ManyChanged).before.map((p) => p.id)).toEqual(['p1', 'p2', 'p3']);
  const moved = await shelf('&category=Tour');
  expect(moved.map(asSeen)).toEqual(
    ['p1', 'p2', 'p3'].map((id) => [id, 'Tour/Voice', 'buoy', true, ['take', 'tour']]),
  );
  expect((await shelf('&q=tour')).map((p) => p.id)).toEqual(['p1', 'p2', 'p3']);
  const facets = (await request(app).get('/api/presets/facets').expect(200)).body as Facets;
  expect(facets.tags).toContainEqual({ name: 'tour', n: 3 });
  await request(app)
    .put('/api/presets/many')
    .send({ presets: (body as ManyChanged).before })
    .expect(204);
  expect((await shelf()).map(asSeen)).toEqual(before);
  await request(app).post('/api/presets/many').send({ ids: [] }).expect(400);
  await request(app)
    .post('/api/presets/many')
    .send({ ids: ['p1'], tag: ['x'.repeat(61)] })
    .expect(400);
});

test('deleted together they lie in the trash with the others: brought back, let go of one by one, or emptied', async () => {
  await request(app)
    .post('/api/presets/many/delete')
    .send({ ids: ['p1', 'p2'] })
    .expect(204);
  await request(app)
    .post('/api/presets/many/delete')
    .send({ ids: ['p1', 'p2'] })
    .expect(404);
  const { id } = (await request(app).post('/api/sessions').send({ name: 'Old night' }).expect(201)).body as {
    id: string;
  };
  await request(app).delete(`/api/sessions/${id}`).expect(204);
  const there = await trash();
  expect(there.items.map((t) => [t.kind, t.name]).sort()).toEqual([
    ['preset', 'Strip 1'],
    ['preset', 'Strip 2'],
    ['session', 'Old night'],
  ]);
  expect([there.next, there.days]).toEqual([null, 30]);
  await request(app)
    .post('/api/presets/many/restore')
    .send({ ids: ['p2'] })
    .expect(204);
  await request(app).delete('/api/trash/preset/p2').expect(404);
  await request(app).delete('/api/trash/nothing/p1').expect(400);
  await request(app).delete('/api/trash/preset/p1').expect(204);
  await request(app).post('/api/presets/p1/restore').expect(404);
  expect((await trash()).items.map((t) => t.name)).toEqual(['Old night']);
  await request(app).delete('/api/trash').expect(204);
  expect((await trash()).items).toEqual([]);
  expect(await db.query('SELECT 1 FROM preset_version WHERE preset = ?', ['p1'])).toEqual([]);
  expect((await shelf()).map((p) => p.id)).toEqual(['p0', 'p2', 'p3', 'p4', 'p5']);
});

test('clearing out: reasons that are true, nothing that a session has, nothing that is pinned, of twins the older stays', async () => {
  const put = (id: string, over: Partial<Preset>, i = 40) =>
    request(app)
      .post('/api/presets')
      .send({ preset: { ...strip(i), id, ...over } })
      .expect(201);
  await put('first', { name: 'First' });
  await put('twin', { name: 'Twin' });
  await put('pinned-twin', { name: 'Pinned twin' });
  await put('number', { name: '12' }, 41);
  await put('old', { name: 'Old' }, 42);
  await put('never', { name: 'Never' }, 43);
  await put('in-use', { name: 'In use' }, 44);
  await request(app).patch('/api/presets/pinned-twin').send({ pinned: true }).expect(200);
  await db.query(
    "INSERT INTO session_use (session, preset, version, owner, places) VALUES ('gone', 'in-use', 1, 'owner', 1)",
  );
  await db.query("UPDATE preset SET lastUsedAt = NOW() - INTERVAL 366 DAY WHERE id IN ('old', 'in-use')");
  await db.query("UPDATE preset SET createdAt = NOW() - INTERVAL 31 DAY WHERE id = 'never'");
  const { items } = (await request(app).get('/api/presets/clear-out').expect(200)).body as ClearOutPage;
  expect(Object.fromEntries(items.map((i) => [i.id, i.reasons.join()]))).toEqual({
    first: 'same',
    twin: 'same',
    number: 'unnamed',
    old: 'unused',
    never: 'never',
  });
  expect(items.find((i) => i.id === 'twin')?.like).toMatch(/First|Pinned twin/);
});

test('backups: one a day by itself, so many kept, each readable and whole; another file is left alone', async () => {
  const folder = mkdtempSync(join(tmpdir(), 'rope-shelf-backups-'));
  writeFileSync(join(folder, 'mine.txt'), 'stays');
  const backups = new Backups(db, { folder: tmpdir() }, { folder, keep: 2 });
  const now = Date.now();
  const made = await Promise.all([backups.ifDue(new Date(now)), backups.ifDue(new Date(now))]);
  // two processes look at the same moment: one of them makes it, unless the other was done before
  expect(made.flat().length).toBeGreaterThanOrEqual(1);
  expect(await backups.ifDue(new Date(now + 3600e3))).toEqual([]);
  // one that began without the demo has no row of its owner, and things all the same
  await db.getRepository(UserRow).clear();
  expect(await backups.ifDue(new Date(now + 2 * 86400e3))).toHaveLength(1);
  const left = await actAsOwner(OWNER, async () => {
    for (const day of [3, 4, 5]) await backups.make(new Date(now + day * 86400e3));
    expect(await backups.pathOf('../mine.txt')).toBeNull();
    return backups.list();
  });
  expect(left).toHaveLength(2);
  const read = readPack(readFileSync(join(folder, left[0].name)), left[0].name);
  expect(read.presets.map((p) => p.id)).toEqual(expect.arrayContaining(['p0', 'p2', 'p3', 'p4', 'p5']));
  expect(readFileSync(join(folder, 'mine.txt'), 'utf8')).toBe('stays');
});
