import type { SessionPage } from '../../contract/index.ts';
import request from 'supertest';
import type { DataSource } from 'typeorm';
import type { Express } from 'express';
import {
  devicesIn,
  hashOf,
  mapDevices,
  newestRevision,
  readWav,
  validateSession,
  type Device,
  type Preset,
  type Session,
} from '../../core/index.ts';
import { OWNER, PresetVersionRow, UserRow } from '../../server/db/entities.ts';
import { renewDemo } from '../../server/renew.ts';
import { seedDemo } from '../../server/seed.ts';
import { startApi } from '../support/server.ts';

let app: Express;
let db: DataSource;
let stop: () => Promise<void>;
beforeAll(async () => {
  ({ app, db, stop } = await startApi('ropeshelf_bench'));
  // as on the first start: nobody there yet
  await db.getRepository(UserRow).delete({ id: OWNER });
});
afterAll(() => stop());

test('the demo goes in once, whole, and not again', async () => {
  expect(await seedDemo(db)).toBe(true);
  expect(await seedDemo(db)).toBe(false);
  const { items: sessions } = (await request(app).get('/api/sessions').expect(200)).body as SessionPage;
  expect(sessions.map((s) => s.name).sort()).toEqual([
    'Kelp and Copper',
    'Lantern Room',
    'Lantern Room, first try',
    'Ninth Wave Out',
  ]);
  for (const s of sessions) {
    const { document } = (await request(app).get(`/api/sessions/${s.id}`).expect(200)).body as {
      document: Session;
    };
    expect(validateSession(document)).toEqual([]);
    expect(document.tracks).toHaveLength(s.trackCount);
    for (const m of document.media) {
      const wav = readWav((await request(app).get(`/api/media/${m.id}`).expect(200)).body as Buffer);
      expect([wav.sampleRate, wav.channels[0].length]).toEqual([m.sampleRate, m.frames]);
    }
  }
});

test('its strips are found by what a person would type, and their facets add up', async () => {
  const find = async (query: Record<string, string>) =>
    ((await request(app).get('/api/presets').query(query).expect(200)).body.items as { name: string }[]).map(
      (p) => p.name,
    );
  expect(await find({ q: 'lead warm folk' })).toContain('Lead, close and warm');
  expect(await find({ q: 'shanty wide' })).toEqual(['Shanty choir, wide and behind']);
  // where the words stand together comes first: in the name, then elsewhere
  expect((await find({ q: 'close and warm' }))[0]).toBe('Lead, close and warm');
  // by a device's name, by the note, by the kind of device
  expect(await find({ q: 'bellows', kind: 'strip' })).toEqual(['Concertina, reeds tamed']);
  expect(await find({ q: 'sibilance' })).toContain('Quiet whisper, forward');
  expect(await find({ q: 'grit', kind: 'rack' })).toEqual(['Dirt and clean']);
  expect(await find({ q: 'reverb' })).toContain('Quiet whisper, forward');
  expect(await find({ category: 'Instruments' })).toEqual([
    'Bass, clean and driven outputs',
    'Concertina, reeds tamed',
    'Deck drums with their crush',
    'Deck drums, crushed beside',
    'Deck kit on twelve outputs',
    'Hall organ that plays along',
    'Shanty parts, four voices',
    'Upright bass, steady',
  ]);
  expect(await find({ kind: 'rig', q: 'trigger' })).toEqual(['Trigger ducks all but the drums']);
  expect(await find({ parent: 'demo-strip-1' })).toEqual(['Answer, an octave up', 'Double, tucked under']);
  expect(await find({ kind: 'device', q: 'pitch' })).toEqual([
    'A fifth below, quiet',
    'Nearest note in C, unhurried',
  ]);
  const facets = (await request(app).get('/api/presets/facets').expect(200)).body as {
    categories: { n: number }[];
    kinds: { name: string; n: number }[];
  };
  expect(facets.categories.reduce((s, c) => s + c.n, 0)).toBe(37);
  expect(facets.kinds).toEqual(
    expect.arrayContaining([
      { name: 'strip', n: 11 },
      { name: 'rack', n: 6 },
      { name: 'device', n: 5 },
      { name: 'rig', n: 10 },
      { name: 'starter', n: 3 },
    ]),
  );
  expect(
    ((await request(app).get('/api/media').expect(200)).body as { name: string }[]).some(
      (m) => m.name === 'lead voice.wav',
    ),
  ).toBe(true);
});

test('a demo preset of an earlier sound goes on to the present one, with a note, unless a person saved it again', async () => {
  const of = async (id: string) =>
    (await request(app).get(`/api/presets/${id}`).expect(200)).body as {
      preset: Preset;
      versions: unknown[];
    };
  /** as it was saved when all devices were at their first revision */
  const early = (p: Preset): Preset => {
    const tracks = p.content.tracks.map((t) => ({
      ...t,
      chain: mapDevices(t.chain, (d) => ({ ...d, revision: 1 })),
    }));
    const content = { ...p.content, tracks };
    return { ...p, content, hash: hashOf(content) };
  };
  // nothing is older than the program yet
  expect(await renewDemo(db)).toBe(0);
  const hall = (await request(app).get('/api/presets').query({ q: 'stone nave' })).body.items[0] as Preset;
  const [old, own] = ['demo-strip-1', 'demo-strip-2'];
  const makeEarly = async (id: string, version: number) => {
    const document = early((await of(id)).preset);
    await db
      .getRepository(PresetVersionRow)
      .update({ preset: id, version }, { document, hash: document.hash });
  };
  for (const id of [old, own]) await makeEarly(id, 1);
  const saved = { ...(await of(own)).preset, note: 'mine' };
  await request(app).post(`/api/presets/${own}/versions`).set('If-Match', '"1"').send({ preset: saved });
  const before = (await of(old)).preset;
  expect(await renewDemo(db)).toBe(1);
  const { preset, versions } = await of(old);
  expect(versions).toHaveLength(2);
  expect(preset.note).toMatch(/Version 2 plays the present sound of .*; version 1 keeps the one before\.$/);
  const devices = preset.content.tracks.flatMap((t) => devicesIn(t.chain));
  expect(devices.map((d) => d.revision)).toEqual(devices.map((d) => newestRevision(d.type)));
  expect(early(preset).hash).toBe(before.hash);
  expect([...preset.tags].sort()).toEqual([...before.tags].sort());
  expect((await of(own)).preset.note).toBe('mine');
  expect((await of(hall.id)).versions).toHaveLength(1);
  expect(await renewDemo(db)).toBe(0);
  // the program has gone on once more: what it saved itself is nobody's
  await makeEarly(old, 2);
  expect(await renewDemo(db)).toBe(1);
  const third = (await of(old)).preset;
  expect(third.note.match(/plays the present sound/g)).toHaveLength(1);
  expect(third.note).toMatch(/Version 3 plays .* version 2 keeps the one before\.$/);
});

test('a preset comes out of the database as it went in', async () => {
  const { preset, versions } = (await request(app).get('/api/presets/demo-strip-3').expect(200)).body as {
    preset: Preset;
    versions: unknown[];
  };
  expect(versions).toHaveLength(1);
  // the server checks the hash against the content again: saving it under another id works, changing a value
  // does not
  await request(app)
    .post('/api/presets')
    .send({ preset: { ...preset, id: 'a-copy' } })
    .expect(201);
  (preset.content.tracks[0].chain[0] as Device).name = 'Another';
  await request(app)
    .post('/api/presets')
    .send({ preset: { ...preset, id: 'a-lie' } })
    .expect(422);
});
