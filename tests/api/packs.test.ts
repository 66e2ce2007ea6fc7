/** Packs and backups through the server: out, looked at, in, taken back; everything into an empty program again. */
import { readFileSync } from 'node:fs';
import type { Express } from 'express';
import request from 'supertest';
import type { DataSource } from 'typeorm';
import type {
  HistoryEntry,
  PackBack,
  PackItem,
  PackPlan,
  PackTaken,
  PresetDetail,
  SessionDocument,
  SetupDetail,
  Upload,
} from '../../contract/index.ts';
import {
  canonicalJson,
  capture,
  createPreset,
  hashOf,
  readPack,
  sha256Hex,
  writePack,
  type Preset,
  type Session,
} from '../../core/index.ts';
import { bundle } from '../../server/db/bundle.ts';
import { ENTITIES, OWNER, SessionRow, UserRow } from '../../server/db/entities.ts';
import { thin } from '../../server/db/thin.ts';
import { seedDemo } from '../../server/seed.ts';
import { device, sessionWith } from '../support/build.ts';
import { startApi } from '../support/server.ts';

let app: Express;
let db: DataSource;
let stop: () => Promise<void>;
async function empty(): Promise<void> {
  for (const e of ENTITIES) await db.getRepository(e).clear();
}
beforeAll(async () => {
  ({ app, db, stop } = await startApi('ropeshelf_packs'));
  await empty();
  await seedDemo(db);
});
afterAll(() => stop());

/** A strip whose compressor stands at some threshold. */
const strip = (id: string, name: string, threshold: number, version = 1, tags = ['voice']): Preset => ({
  ...createPreset(
    capture(
      sessionWith([
        { id: 'v', name: 'Voice', role: 'audio', chain: [device('compressor', { threshold })] },
        { id: 'm', role: 'master' },
      ]),
      ['v'],
    ),
    { id, name, category: 'Voice', tags },
  ),
  version,
});
const post = async <T>(path: string, body: object, status = 201): Promise<T> => {
  const answer = await request(app).post(path).send(body);
  expect([answer.status, answer.body]).toEqual([status, answer.body]);
  return answer.body as T;
};
async function sent(bytes: Uint8Array, name = 'from-a-friend.ropeshelf.zip'): Promise<string> {
  const { id, piece } = await post<Upload>('/api/uploads', { name, size: bytes.length });
  for (let at = 0; at < bytes.length; at += piece) {
    await request(app)
      .put(`/api/uploads/${id}?at=${at}`)
      .set('Content-Type', 'application/octet-stream')
      .send(Buffer.from(bytes.subarray(at, at + piece)))
      .expect(200);
  }
  return id;
}
const look = async (upload: string) => post<PackPlan>('/api/packs/look', { upload }, 200);
const take = async (upload: string, leave: string[] = []) =>
  post<PackTaken>('/api/packs/take', { upload, leave });
const fates = (items: readonly PackItem[]) => Object.fromEntries(items.map((i) => [i.id, i.fate]));
const preset = async (id: string) =>
  (await request(app).get(`/api/presets/${id}`).expect(200)).body as PresetDetail;
async function packed(what: object): Promise<Buffer> {
  const { body } = await request(app)
    .post('/api/packs')
    .send(what)
    .buffer(true)
    .parse((res, done) => {
      const parts: Buffer[] = [];
      const from = res as unknown as NodeJS.ReadableStream;
      from.on('data', (part: Buffer) => parts.push(part));
      from.on('end', () => done(null, Buffer.concat(parts)));
    })
    .expect(200);
  return body as Buffer;
}

test('every fate: told before, done in one step, and taken back', async () => {
  const [a1, a2, a3] = [-20, -18, -16].map((t, i) => strip('goes-on', 'Goes on', t, i + 1));
  const b = [-10, -11, -12].map((t, i) => strip('both-ways', 'Both ways', t, i + 1));
  const here = [
    a1,
    b[0],
    strip('is-here', 'Is here', -5),
    strip('away', 'Away', -4),
    strip('mine', 'Same name', -3),
  ];
  for (const p of here) await post('/api/presets', { preset: p });
  const again = (p: Preset, version: number) =>
    request(app)
      .post(`/api/presets/${p.id}/versions`)
      .set('If-Match', `"${version - 1}"`)
      .send({ preset: p })
      .expect(201);
  await again(b[1], 2);
  await request(app).delete('/api/presets/away').expect(204);
  const theirs = [
    a1,
    a2,
    a3,
    b[0],
    { ...b[2], version: 2 },
    here[2],
    here[3],
    strip('theirs', 'Same name', -30),
    strip('fresh', 'Fresh', -31, 1, ['voice', 'bright']),
  ];
  const upload = await sent(writePack({ presets: theirs }));
  const plan = await look(upload);
  const expected = {
    'goes-on': 'newer',
    'both-ways': 'both',
    'is-here': 'same',
    away: 'trash',
    theirs: 'name',
    fresh: 'new',
  };
  expect(fates(plan.items)).toEqual(expected);
  expect(plan.items.find((i) => i.id === 'goes-on')?.versions).toBe(2);
  const before = await snapshot();

  const taken = await take(upload);
  expect(fates(taken.items)).toEqual(expected);
  const on = await preset('goes-on');
  expect([on.version, on.preset.hash, on.versions.length]).toEqual([3, a3.hash, 3]);
  expect((await preset('away')).name).toBe('Away');
  expect((await preset('fresh')).summary.tags.toSorted()).toEqual(['bright', 'voice']);
  expect((await preset('theirs')).name).toBe('Same name, from a pack');
  expect((await preset('both-ways')).preset.hash).toBe(b[1].hash);
  const variants = (await request(app).get('/api/presets?parent=both-ways').expect(200)).body as {
    items: { name: string; id: string }[];
  };
  expect(variants.items.map((v) => v.name)).toEqual(['Both ways, from a pack']);
  expect((await preset(variants.items[0].id)).preset.hash).toBe(b[2].hash);
  // once more: nothing is new
  const second = await look(await sent(writePack({ presets: theirs.filter((p) => p.id !== 'both-ways') })));
  expect(new Set(second.items.map((i) => i.fate))).toEqual(new Set(['same']));

  expect((await post<PackBack>(`/api/packs/taken/${taken.id}/back`, {}, 200)).kept).toEqual([]);
  expect(await snapshot()).toEqual(before);
  await request(app).post(`/api/packs/taken/${taken.id}/back`).expect(404);
});

/** What stands on the shelf, by hash. */
async function snapshot(): Promise<unknown> {
  const { items } = (await request(app).get('/api/presets?limit=200').expect(200)).body as {
    items: { id: string; name: string; version: number }[];
  };
  return items.map(({ id, name, version }) => [id, name, version]);
}

test('what is left out stays out; what went on since is kept when the pack is taken back', async () => {
  const upload = await sent(writePack({ presets: [strip('one', 'One', -1), strip('two', 'Two', -2)] }));
  const taken = await take(upload, ['preset/two']);
  expect(Object.keys(fates(taken.items))).toEqual(['one']);
  await request(app).get('/api/presets/two').expect(404);
  const next = strip('one', 'One', -1.5, 2);
  const upload2 = await sent(writePack({ presets: [strip('one', 'One', -1), next] }));
  const newer = await take(upload2);
  await request(app)
    .post('/api/presets/one/versions')
    .set('If-Match', '"2"')
    .send({ preset: strip('one', 'One', -1.7, 3) })
    .expect(201);
  expect((await post<PackBack>(`/api/packs/taken/${newer.id}/back`, {}, 200)).kept).toEqual(['One']);
  expect((await preset('one')).version).toBe(3);
});

test('one preset as JSON, a category, the newest versions alone; what cannot be read is told', async () => {
  const json = (await request(app).get('/api/packs/of/fresh/json').expect(404)).body as { detail: string };
  expect(json.detail).toMatch(/preset/);
  const { text, headers } = await request(app).get('/api/packs/of/goes-on/json').expect(200);
  expect(headers['content-disposition']).toMatch(/Goes on\.preset\.json/);
  expect(readPack(Buffer.from(text), 'one').presets[0].id).toBe('goes-on');
  const category = readPack(await packed({ category: 'Voice', versions: 'newest' }));
  expect(category.about.presets.length).toBeGreaterThan(2);
  const both = category.about.presets.find((p) => p.id === 'both-ways')!;
  expect(both.hashes).toHaveLength(2);
  expect(category.presets.filter((p) => p.id === 'both-ways')).toHaveLength(1);
  await request(app)
    .post('/api/packs')
    .send({ presets: ['nobody'] })
    .expect(404);
  await request(app).post('/api/packs').send({ nonsense: 1 }).expect(400);
  const bad = await sent(new Uint8Array(3000).fill(7));
  await post('/api/packs/look', { upload: bad }, 422);
});

test('the demo is put in where it is not: what was deleted of it is back, and nothing else changes', async () => {
  await request(app).delete('/api/sessions/kelp-and-copper').expect(204);
  const before = await snapshot();
  const { items } = await post<PackTaken>('/api/packs/demo', {});
  expect(items.filter((i) => !['same', 'older'].includes(i.fate)).map((i) => [i.id, i.fate])).toEqual([
    ['kelp-and-copper', 'trash'],
  ]);
  await request(app).get('/api/sessions/kelp-and-copper').expect(200);
  expect(await snapshot()).toEqual(before);
});

/** Everything that a person has made, by hash. */
async function everything(): Promise<Record<string, unknown>> {
  const rows = async (sql: string) => canonicalJson(await db.query(sql));
  const sessions = await db
    .getRepository(SessionRow)
    .find({ select: { id: true, document: true, revision: true, folder: true } });
  return {
    presets: await rows('SELECT preset, version, hash FROM preset_version ORDER BY preset, version'),
    shelf: await rows(
      'SELECT id, name, category, pinned, currentVersion FROM preset WHERE deletedAt IS NULL ORDER BY id',
    ),
    tags: await rows(
      'SELECT preset, name FROM tag WHERE preset IN (SELECT id FROM preset WHERE deletedAt IS NULL) ORDER BY preset, name',
    ),
    counts: await rows('SELECT what, name, n FROM preset_count WHERE n > 0 ORDER BY what, name'),
    sessions: sessions
      .map((s) => [s.id, s.revision, s.folder, hashOf(s.document as Session)])
      .sort((x, y) => (x[0]! < y[0]! ? -1 : 1)),
    setups: await rows(
      'SELECT setup, version, SHA2(document, 256) AS sum FROM setup_version ORDER BY setup, version',
    ),
    history: await rows(
      'SELECT session, revision, label, patch, back FROM session_revision ORDER BY session, revision',
    ),
    drops: await rows('SELECT id, session, preset FROM drop_record ORDER BY id'),
    media: await rows('SELECT id, kind, name, size, sampleRate, channels, frames FROM media ORDER BY id'),
    defaults: await rows('SELECT name, value FROM default_setting ORDER BY name'),
  };
}

test('a backup made while there are edits is one moment; into an empty program it is all there again, twice too', async () => {
  // the trash is no part of a backup
  await db.query(
    'DELETE FROM preset_version WHERE preset IN (SELECT id FROM preset WHERE deletedAt IS NOT NULL)',
  );
  await db.query('DELETE FROM preset WHERE deletedAt IS NOT NULL');
  await request(app).patch('/api/presets/goes-on').send({ pinned: true, name: 'Goes on and on' }).expect(200);
  await request(app).put('/api/sessions/ninth-wave-out/folder').send({ folder: 'Tour' }).expect(204);
  await request(app)
    .put('/api/defaults/device:gate')
    .send({ params: { threshold: -33 } })
    .expect(204);
  const edit = async (n: number, session = 'kelp-and-copper') => {
    const { body } = await request(app).get(`/api/sessions/${session}`).expect(200);
    const { revision } = body as { revision: number };
    await request(app)
      .patch(`/api/sessions/${session}`)
      .set('Content-Type', 'application/json-patch+json')
      .set('If-Match', `"${revision}"`)
      .set('X-Step', `Note ${n}`)
      .send([{ op: 'replace', path: '/note', value: `${n}` }])
      .expect(200);
  };
  for (let n = 0; n < 5; n++) await edit(n);
  const stood = await everything();
  let isDone = false;
  let made = 0;
  const editing = (async () => {
    for (; !isDone; made++) {
      await edit(100 + made);
      await edit(100 + made, 'ninth-wave-out');
    }
  })();
  while (made < 3) await new Promise((done) => setTimeout(done, 5));
  const backup = await packed({ everything: true });
  isDone = true;
  await editing;
  const read = readPack(backup, 'backup.zip');
  // one moment: the document is the one that its last step led to
  const { id, revision } = read.about.sessions.find((s) => s.id === 'kelp-and-copper')!;
  const noteOf = (session: string) => read.sessions.find((s) => s.id === session)!.session.note;
  const note = Number(noteOf(id));
  expect(note).toBe(100 + revision! - 7);
  // and the other session, which gets each note right after the first one, is of the same moment
  expect([0, 1]).toContain(note - Number(noteOf('ninth-wave-out')));
  expect(note).toBeGreaterThan(101);

  await empty();
  await db.getRepository(UserRow).insert({ id: OWNER, name: 'Test' });
  await take(await sent(backup, 'backup.ropeshelf.zip'));
  const restored = await everything();
  const { sessions: _s, history: _h, ...rest } = stood;
  expect(restored).toMatchObject(rest);
  expect((restored.sessions as unknown[]).length).toBe((stood.sessions as unknown[]).length);
  const once = canonicalJson(restored);
  const plan = await look(await sent(backup, 'backup.ropeshelf.zip'));
  expect(new Set(plan.items.map((i) => i.fate))).toEqual(new Set(['same']));
  await take(await sent(backup, 'backup.ropeshelf.zip'));
  expect(canonicalJson(await everything())).toBe(once);
  // and a backup of the restored one holds the same documents, though its steps lie together by then
  await bundle(db, new Date(Date.now() + 3600e3), { least: { steps: 2, characters: 1e9 } });
  expect(await db.query('SELECT 1 FROM session_revision WHERE bundle IS NOT NULL LIMIT 1')).toHaveLength(1);
  const sums = (bytes: Buffer) => canonicalJson(readPack(bytes, 'x').about.files);
  expect(sha256Hex(sums(await packed({ everything: true })))).toBe(sha256Hex(sums(backup)));
});

test('a backup that the first program with backups has made comes back whole, and goes on', async () => {
  const bytes = readFileSync('tests/data/first-backup.ropeshelf.zip');
  const read = readPack(bytes, 'first.zip');
  await empty();
  await db.getRepository(UserRow).insert({ id: OWNER, name: 'Test' });
  await take(await sent(bytes, 'first.ropeshelf.zip'));
  for (const { id, hashes, shelf } of read.about.presets) {
    const versions = await Promise.all(
      hashes.map((_, i) =>
        request(app)
          .get(`/api/presets/${id}/versions/${i + 1}`)
          .expect(200),
      ),
    );
    expect(versions.map((v) => (v.body as Preset).hash)).toEqual(hashes);
    expect(versions.map((v) => hashOf((v.body as Preset).content))).toEqual(hashes);
    expect((await preset(id)).preset).toMatchObject({ category: shelf!.category, tags: shelf!.tags });
  }
  const { body: setup } = await request(app).get('/api/setups/room').expect(200);
  expect((setup as SetupDetail).studio).toEqual(read.setups[0]);
  const [{ id, session }] = read.sessions;
  const { body: opened } = await request(app).get(`/api/sessions/${id}`).expect(200);
  expect(opened).toMatchObject({ revision: 4, document: session });
  const { body: sound } = await request(app).get(`/api/media/${session.media[0].id}`).expect(200);
  expect(sha256Hex(sound as Buffer)).toBe(session.media[0].id);

  // what was done to it, as far back as it was made; joined, and through a backup of today
  const levels = async () => {
    const { body } = await request(app).get(`/api/sessions/${id}/history`).expect(200);
    const steps = body as HistoryEntry[];
    const states = await Promise.all(
      [1, ...steps.map((e) => e.revision)].map((n) => request(app).get(`/api/sessions/${id}/history/${n}`)),
    );
    return states.map((r) => [r.status, (r.body as SessionDocument).document.tracks.map((t) => t.level)]);
  };
  expect(await levels()).toEqual([
    [200, [0]],
    [200, [-6, 0]],
    [200, [-6, 0]],
    [200, [0, 0]],
  ]);
  await thin(db, new Date(Date.now() + 365 * 24 * 3600 * 1000));
  const joined = await levels();
  expect(joined).toEqual([
    [200, [0]],
    [200, [-6, 0]],
  ]);
  const again = await packed({ everything: true });
  await empty();
  await db.getRepository(UserRow).insert({ id: OWNER, name: 'Test' });
  await take(await sent(again, 'again.ropeshelf.zip'));
  expect(await levels()).toEqual(joined);
});
