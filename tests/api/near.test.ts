/** Presets that are nearly the same: found by what they do, and merged without a session losing its way back. */
import type { Express } from 'express';
import jsonpatch from 'fast-json-patch';
import request from 'supertest';
import type {
  ByHand,
  NearGroups,
  NearPreset,
  PresetDetail,
  PresetsMerged,
  ProblemBody,
  SessionDocument,
  SessionsUsing,
} from '../../contract/index.ts';
import {
  applyDrop,
  capture,
  captureSlot,
  createDevice,
  createPreset,
  planDrop,
  rootsOf,
  type Params,
  type Preset,
  type Session,
} from '../../core/index.ts';
import { sessionWith } from '../support/build.ts';
import { startApi } from '../support/server.ts';

let app: Express;
let stop: () => Promise<void>;
beforeAll(async () => {
  ({ app, stop } = await startApi('ropeshelf_near'));
});
afterAll(() => stop());

const strip = (id: string, params: Params, more = ['saturator']): Preset => {
  const chain = [createDevice('compressor', params), ...more.map((type) => createDevice(type))];
  const s = sessionWith([{ id: 'a', name: 'Voice', chain }]);
  return createPreset(capture(s, ['a']), { id, name: `Strip ${id}` });
};
const save = async (preset: Preset, based?: number) => {
  const to = based === undefined ? '/api/presets' : `/api/presets/${preset.id}/versions`;
  const asked = request(app).post(to);
  if (based !== undefined) asked.set('If-Match', `"${based}"`);
  await asked.send({ preset }).expect(201);
};
const get = async <T>(path: string) => (await request(app).get(`/api${path}`).expect(200)).body as T;
const sessionOf = async (name: string, put: (s: Session) => Session): Promise<string> => {
  const { id } = (await request(app).post('/api/sessions').send({ name }).expect(201)).body as { id: string };
  const { document } = await get<SessionDocument>(`/sessions/${id}`);
  await request(app)
    .patch(`/api/sessions/${id}`)
    .set('Content-Type', 'application/json-patch+json')
    .set('If-Match', '"1"')
    .send(JSON.stringify(jsonpatch.compare(document, put(document))))
    .expect(200);
  return id;
};
const dropped = (preset: Preset) => (s: Session) => applyDrop(s, planDrop(s, preset), preset).session;

test('more like one, the nearest first, with what was saved and deleted a moment ago', async () => {
  await save(strip('a', { threshold: -24 }));
  await save(strip('b', { threshold: -12 }));
  await save(strip('c', { threshold: -22 }));
  await save(strip('d', { threshold: -24 }, ['reverb', 'gate']));
  const near = async () => (await get<NearPreset[]>('/presets/a/near')).map((n) => n.preset.id);
  expect(await near()).toEqual(['c', 'b', 'd']);
  await save(strip('b', { threshold: -24 }), 1);
  expect(await near()).toEqual(['b', 'c', 'd']);
  await request(app).delete('/api/presets/c').expect(204);
  expect(await near()).toEqual(['b', 'd']);
  await request(app).post('/api/presets/c/restore').expect(204);
  expect((await get<NearPreset[]>('/presets/a/near?limit=1')).map((n) => n.distance)).toEqual([0]);
  await request(app).get('/api/presets/nobody/near').expect(404);
  const { groups, more } = await get<NearGroups>('/presets/near-groups');
  expect(groups.map((g) => g.map((n) => n.preset.id).sort())).toEqual([['a', 'b', 'c']]);
  expect(more).toBe(0);
});

test('merged as versions: sessions go on from what they have, the others lie in the trash', async () => {
  const older = strip('old', { threshold: -30 });
  await save(older);
  const newer = strip('old', { threshold: -31 });
  await save(newer, 1);
  await save(strip('new', { threshold: -30, ratio: 3 }));
  const first = await get<Preset>('/presets/old/versions/1');
  const second = await get<Preset>('/presets/old/versions/2');
  const used = await sessionOf('Of the first version', dropped(first));
  const trashed = await sessionOf('In the trash', dropped(second));
  await request(app).delete(`/api/sessions/${trashed}`).expect(204);
  const both = await sessionOf('Of both', (s) => dropped(second)(dropped(first)(s)));
  const merged = (
    await request(app)
      .post('/api/presets/new/merge')
      .send({ others: ['old'], as: 'versions' })
      .expect(200)
  ).body as PresetsMerged;
  expect(merged).toEqual({ versions: 2, sessions: 3, left: [], before: [], gone: ['old'] });

  const now = await get<PresetDetail>('/presets/new');
  expect(now.versions.map((v) => v.version)).toEqual([4, 3, 2, 1]);
  // its own state stays the latest, and the others' are versions of it
  expect([now.versions[0].hash, now.versions[1].hash, now.versions[2].hash]).toEqual([
    now.versions[3].hash,
    second.hash,
    first.hash,
  ]);
  expect((await get<Preset>('/presets/new/versions/2')).name).toBe('Strip new');
  await request(app).get('/api/presets/old').expect(404);
  const rooted = async (id: string) => {
    const { document } = await get<SessionDocument>(`/sessions/${id}`);
    return rootsOf(document).map(({ origin }) => [origin.preset, origin.version, origin.name]);
  };
  expect(await rooted(used)).toEqual([['new', 2, 'Strip new']]);
  expect((await rooted(both)).map(([p, v]) => `${p} ${v}`).sort()).toEqual(['new 2', 'new 3']);
  await request(app).post(`/api/sessions/${trashed}/restore`).expect(204);
  expect(await rooted(trashed)).toEqual([['new', 3, 'Strip new']]);
  await request(app).delete(`/api/sessions/${trashed}`).expect(204);
  const uses = await get<SessionsUsing>('/presets/new/sessions');
  expect(uses.sessions.map((s) => s.name).sort()).toEqual(['Of both', 'Of the first version']);
  // an update brings what differs between the version that was dropped and the latest, as ever
  const update = await request(app)
    .post('/api/presets/new/update')
    .send({ sessions: [used], look: false });
  expect(update.status).toBe(200);
  const { document } = await get<SessionDocument>(`/sessions/${used}`);
  const compressor = document.tracks.find((t) => t.origin)!.chain[0] as unknown as { params: Params };
  expect(compressor.params.ratio).toBe(3);
  // brought back, the other is what it was
  await request(app)
    .post('/api/presets/many/restore')
    .send({ ids: ['old'] })
    .expect(204);
  expect((await get<PresetDetail>('/presets/old')).version).toBe(2);
});

test('what is of another kind is near to, and no version of it', async () => {
  const chain = [createDevice('multiband', { knee: 11 })];
  const s = sessionWith([{ id: 'a', name: 'Voice', chain }]);
  const piece = captureSlot(s, 'a', chain[0].id);
  await save(createPreset(piece, { id: 'one-device', name: 'Multiband', kind: piece.kind }));
  await save(createPreset(capture(s, ['a']), { id: 'one-strip', name: 'Multiband strip' }));
  const { groups } = await get<NearGroups>('/presets/near-groups');
  expect(groups.flat().filter((n) => n.preset.id.startsWith('one-'))).toEqual([]);
  const asked = { others: ['one-device'], as: 'versions' };
  const refused = await request(app).post('/api/presets/one-strip/merge').send(asked).expect(400);
  expect((refused.body as ProblemBody).detail).toMatch(/“Multiband” is a device/);
  expect((await get<PresetDetail>('/presets/one-strip')).version).toBe(1);
});

test('merged as variants: they stand under the one, and stand again as they stood', async () => {
  for (const id of ['v1', 'v2', 'v3']) await save(strip(id, { threshold: -40 }));
  const { before } = (
    await request(app)
      .post('/api/presets/v1/merge')
      .send({ others: ['v2', 'v3'], as: 'variants' })
      .expect(200)
  ).body as PresetsMerged;
  const under = async () =>
    (await get<{ items: { id: string }[] }>('/presets?parent=v1')).items.map((p) => p.id).sort();
  expect(await under()).toEqual(['v2', 'v3']);
  await request(app).put('/api/presets/many').send({ presets: before }).expect(204);
  expect(await under()).toEqual([]);
  await request(app)
    .post('/api/presets/v1/merge')
    .send({ others: ['v1'], as: 'variants' })
    .expect(400);
  await request(app)
    .post('/api/presets/v1/merge')
    .send({ others: ['gone'], as: 'versions' })
    .expect(404);
});

test('what sessions build by hand again and again is found; what is on the shelf is not', async () => {
  const byHand = (gain: number) => (s: Session) => {
    const chain = [createDevice('gate'), createDevice('deesser'), createDevice('trim', { gain })];
    const own = sessionWith([{ id: 'hand', name: `By hand ${gain}`, chain }]);
    return {
      ...s,
      tracks: [
        ...own.tracks.filter((t) => t.id === 'hand').map((t) => ({ ...t, output: s.tracks[0].output })),
        ...s.tracks,
      ],
    };
  };
  await sessionOf('One', byHand(0));
  await sessionOf('Two', byHand(0.5));
  const chains = await get<ByHand[]>('/sessions/by-hand');
  expect(chains.map((c) => c.devices)).toEqual([['Gate', 'De-esser', 'Trim']]);
  expect(chains[0].places.map((p) => p.sessionName).sort()).toEqual(['One', 'Two']);
  const s = sessionWith([{ id: 'a', name: 'Voice', chain: [createDevice('gate'), createDevice('deesser')] }]);
  await save(createPreset(capture(s, ['a']), { id: 'saved', name: 'Saved now' }));
  expect(await get<ByHand[]>('/sessions/by-hand')).toEqual([]);
});
