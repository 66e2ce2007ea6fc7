/** Studios over HTTP: seeded, made, changed with If-Match, refused in words, deleted and brought back. */
import type { Express } from 'express';
import request from 'supertest';
import type { ProblemBody, SetupDetail, SetupEntry } from '../../contract/index.ts';
import type { Studio } from '../../core/index.ts';
import { port, studio, unit } from '../support/studio.ts';
import { startApi } from '../support/server.ts';

let app: Express;
let stop: () => Promise<void>;
beforeAll(async () => {
  ({ app, stop } = await startApi('ropeshelf_doors'));
});
afterAll(() => stop());

const cabin = (over: Partial<Studio> = {}): Studio => ({
  ...studio({ ports: [port('o1', 'out', 1), port('i1', 'in', 1)], units: [unit('gull')] }),
  ...over,
});

test('made, read, changed by its next version, every version stays', async () => {
  const made = await request(app)
    .post('/api/setups')
    .send({ studio: cabin({ id: 'cabin-1' }) })
    .expect(201);
  expect(made.body).toEqual({ id: 'cabin-1', version: 1 });
  await request(app)
    .post('/api/setups')
    .send({ studio: cabin({ id: 'cabin-1' }) })
    .expect(409);
  const listed = (await request(app).get('/api/setups').expect(200)).body as SetupEntry[];
  expect(listed.find((s) => s.id === 'cabin-1')).toMatchObject({
    summary: { inputs: 1, outputs: 1, bays: 0, units: ['gull'] },
  });
  const change = (version: number, name: string) =>
    request(app)
      .post('/api/setups/cabin-1/versions')
      .set('If-Match', `"${version}"`)
      .send({ studio: cabin({ name }) });
  await change(1, 'Cabin, rewired').expect(201);
  const stale = await change(1, 'Cabin, twice').expect(412);
  expect((stale.body as ProblemBody).detail).toContain('version 2 by now');
  await request(app).post('/api/setups/cabin-1/versions').send({ studio: cabin() }).expect(428);
  const now = (await request(app).get('/api/setups/cabin-1').expect(200)).body as SetupDetail;
  expect([now.version, now.studio.name, now.versions.length]).toEqual([2, 'Cabin, rewired', 2]);
  const first = (await request(app).get('/api/setups/cabin-1/versions/1').expect(200)).body as Studio;
  expect(first.name).toBe('Studio');
});

test('two at the same moment: one is first, the other is told', async () => {
  await request(app)
    .post('/api/setups')
    .send({ studio: cabin({ id: 'cabin-2' }) })
    .expect(201);
  const answers = await Promise.all(
    Array.from({ length: 6 }, (_, i) =>
      request(app)
        .post('/api/setups/cabin-2/versions')
        .set('If-Match', '"1"')
        .send({ studio: cabin({ name: `Name ${i}` }) }),
    ),
  );
  expect(answers.map((r) => r.status).sort()).toEqual([201, 412, 412, 412, 412, 412]);
});

test.each<[string, unknown, number]>([
  ['no studio', {}, 400],
  ['a text', { studio: 'cabin' }, 400],
  ['another format', { studio: { format: 'x' } }, 422],
  ['a blank name', { studio: cabin({ name: ' ' }) }, 422],
  ['a port twice', { studio: cabin({ ports: [port('o1', 'out', 1), port('o1', 'in', 1)] }) }, 422],
  [
    'a control without a range',
    { studio: { ...cabin(), units: [{ ...unit('g'), panel: [{ id: 'x' }] }] } },
    422,
  ],
  [
    'a log taper from 0',
    { studio: { ...cabin(), units: [unit('g', { panel: [{ ...unit('g').panel[0], taper: 'log' }] })] } },
    422,
  ],
  ['lists that are none', { studio: { ...cabin(), wires: 7, cables: null, bays: 'none', midi: null } }, 422],
  ['an id that cannot be', { studio: cabin({ id: 'a b/c' }) }, 422],
])('refused with a reason: %s', async (_what, body, status) => {
  const r = await request(app)
    .post('/api/setups')
    .send(body as object);
  expect(r.status).toBe(status);
  expect((r.body as ProblemBody).detail.length).toBeGreaterThan(10);
});

test('deleted and brought back', async () => {
  await request(app)
    .post('/api/setups')
    .send({ studio: cabin({ id: 'cabin-3' }) })
    .expect(201);
  await request(app).delete('/api/setups/cabin-3').expect(204);
  await request(app).get('/api/setups/cabin-3').expect(404);
  await request(app).delete('/api/setups/cabin-3').expect(404);
  await request(app).post('/api/setups/cabin-3/restore').expect(204);
  await request(app).get('/api/setups/cabin-3').expect(200);
  await request(app).get('/api/setups/cabin-3/versions/x').expect(400);
});
