/** Fingerprints on the server: made after saving, compared after an update, accepted by hand. */
import request from 'supertest';
import type { Express } from 'express';
import type { DataSource } from 'typeorm';
import type { PresetLikeness, ShelfLikeness } from '../../contract/index.ts';
import { capture, createPreset, newestRevision, type Preset } from '../../core/index.ts';
import { FingerprintRow } from '../../server/db/entities.ts';
import { Fingerprints } from '../../server/jobs/fingerprints.ts';
import { device, sessionWith } from '../support/build.ts';
import { startApi } from '../support/server.ts';

let app: Express;
let db: DataSource;
let fingerprints: Fingerprints;
let stop: () => Promise<void>;
beforeAll(async () => ({ app, db, fingerprints, stop } = await startApi('ropeshelf_likeness')));
afterAll(() => stop());

function presetWith(id: string, gain: number, revision?: number): Preset {
  const bell = { 'b5.on': true, 'b5.gain': gain, 'b5.freq': 15000 };
  const eq = device('eq', bell, { id: 'd', ...(revision ? { revision } : {}) });
  const s = sessionWith([{ id: 'a', name: 'Line', chain: [eq] }]);
  return createPreset(capture(s, ['a']), { id, name: `Bell ${id}` });
}
const save = (p: Preset) => request(app).post('/api/presets').send({ preset: p }).expect(201);
const ask = async (id: string) =>
  (await request(app).get(`/api/presets/${id}/likeness`)).body as PresetLikeness;
const shelf = async () => (await request(app).get('/api/presets/likeness')).body as ShelfLikeness;
/** Waits until what is due is done. */
async function settled(): Promise<void> {
  for (let i = 0; i < 900; i++) {
    if ((await shelf()).waiting === 0) return;
    await new Promise((resolve) => setTimeout(resolve, 100));
  }
  throw new Error('Fingerprints are still waiting.');
}

test('a saved preset gets its fingerprint by itself; rendered again it is equal', async () => {
  await save(presetWith('p1', 6));
  await save(presetWith('p2', 3, 1));
  expect(await shelf()).toEqual({ equal: 0, waiting: 2, others: [] });
  expect(await ask('p1')).toMatchObject({ version: 1, madeAt: null, likeness: null });
  fingerprints.start();
  await settled();
  expect(await shelf()).toEqual({ equal: 2, waiting: 0, others: [] });
  const again = (await request(app).post('/api/presets/p1/likeness').expect(200)).body as PresetLikeness;
  expect(again).toMatchObject({ isCurrent: true, likeness: { verdict: 'equal', bands: [], sounds: [] } });
  // a new version has its own
  const next = { ...presetWith('p1', 9), parent: { preset: 'p1', version: 1 } };
  await request(app)
    .post('/api/presets/p1/versions')
    .set('If-Match', '"1"')
    .send({ preset: next })
    .expect(201);
  await settled();
  expect(await ask('p1')).toMatchObject({ version: 2, isCurrent: true, likeness: null });
});

test('after an update the whole shelf is rendered again; what sounds otherwise is named, with its bands, until it is accepted', async () => {
  // as if an earlier program had sounded otherwise: the other preset's fingerprint
  const rows = db.getRepository(FingerprintRow);
  const other = await rows.findOneByOrFail({ preset: 'p2' });
  await rows.update({ preset: 'p1', version: 2 }, { print: other.print, checked: 'a program before' });
  expect((await shelf()).waiting).toBe(1);
  fingerprints.wake();
  await settled();
  const { equal, others } = await shelf();
  expect([equal, others.map((o) => o.name)]).toEqual([1, ['Bell p1']]);
  const { likeness } = others[0];
  expect(likeness.verdict).toBe('different');
  expect(likeness.bands[0].band).toBeGreaterThan(12000);
  expect(likeness.bands[0].by).toBeGreaterThan(3);
  expect(likeness.sounds).toEqual([{ type: 'eq', then: 1, now: newestRevision('eq') }]);
  await request(app).delete('/api/presets/p1/likeness').expect(200);
  expect(await shelf()).toEqual({ equal: 2, waiting: 0, others: [] });
});

test('a preset that is gone is said to be gone, and leaves the count', async () => {
  await request(app).delete('/api/presets/p2').expect(204);
  expect((await shelf()).equal).toBe(1);
  for (const method of ['get', 'post', 'delete'] as const) {
    await request(app)[method]('/api/presets/p2/likeness').expect(404);
  }
});
