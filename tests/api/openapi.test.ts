/**
 * The description of the HTTP interface: it is OpenAPI 3.1 by an independent validator, says what the routes say, names
 * each of them, and what the server answers is what it says, by ajv.
 */
import { execFileSync } from 'node:child_process';
import Ajv from 'ajv/dist/2020.js';
import type { Express } from 'express';
import request from 'supertest';
import { capture, createDevice, createPreset } from '../../core/index.ts';
import { studio } from '../support/studio.ts';
import { sessionWith } from '../support/build.ts';
import { startApi } from '../support/server.ts';

interface Described {
  parameters: { name: string; in: string; required?: boolean }[];
  responses: Record<string, { content?: Record<string, { schema: object }> }>;
}
interface Description {
  paths: Record<string, Record<string, Described>>;
  components: object;
}

let app: Express;
let stop: () => Promise<void>;
let description: Description;
beforeAll(async () => {
  ({ app, stop } = await startApi('ropeshelf_openapi'));
  description = (await request(app).get('/api/openapi.json').expect(200)).body as Description;
});
afterAll(() => stop());

test('it is OpenAPI 3.1, and what the routes say', () => {
  const validator = 'node_modules/@seriousme/openapi-schema-validator/bin/validate-api-cli.js';
  const said = execFileSync('node', [validator, 'docs/schema/openapi.json'], { encoding: 'utf8' });
  expect(JSON.parse(said)).toEqual({ valid: true });
  execFileSync('node', ['scripts/openapi.mjs', '--check']);
});

const operations = () =>
  Object.entries(description.paths).flatMap(([path, methods]) =>
    Object.entries(methods).map(([method, operation]) => ({ path, method, operation })),
  );
/** A path with something in the place of each of its parameters. */
const filled = (path: string, values: Record<string, string> = {}) =>
  path.replace(/\{(\w+)\}/g, (_, name: string) => values[name] ?? 'nobody');
const ask = (method: string, path: string) => {
  const send = { get: 'get', post: 'post', put: 'put', patch: 'patch', delete: 'delete' } as const;
  return request(app)[send[method as keyof typeof send]](path);
};

const MUCH = ['delete /api/trash', 'post /api/packs/demo', 'post /api/backups', 'get /api/openapi.json'];
test('the server knows every operation of it, and says what is wrong as it says', async () => {
  expect(operations().length).toBeGreaterThan(80);
  for (const { path, method } of operations()) {
    // these stay open, or do much
    if (path.endsWith('/events') || MUCH.includes(`${method} ${path}`)) continue;
    const answer = await ask(method, filled(path));
    expect([method, path, String(answer.body.detail ?? '')]).not.toEqual([
      method,
      path,
      expect.stringContaining('There is nothing at'),
    ]);
  }
});

test('what is answered is what it says', async () => {
  const s = sessionWith([{ id: 'a', name: 'Voice', chain: [createDevice('eq'), createDevice('reverb')] }]);
  const preset = createPreset(capture(s, ['a']), {
    id: 'voice',
    name: 'Voice',
    tags: ['warm'],
    category: 'Voice',
  });
  await request(app).post('/api/presets').send({ preset }).expect(201);
  await request(app)
    .post('/api/presets')
    .send({ preset: { ...preset, id: 'other', name: 'Other' } })
    .expect(201);
  await request(app)
    .put('/api/searches/Warm')
    .send({ search: { tag: 'warm' } })
    .expect(204);
  await request(app).put('/api/defaults/track:audio').send({ preset: 'voice' }).expect(204);
  const session = (
    await request(app).post('/api/sessions').send({ name: 'Deck', preset: 'voice' }).expect(201)
  ).body as { id: string };
  await request(app)
    .post('/api/setups')
    .send({ studio: studio({ id: 'room' }) })
    .expect(201);
  const [setup] = (await request(app).get('/api/setups').expect(200)).body as { id: string }[];
  const drops = (await request(app).get(`/api/drops/of/${session.id}`).expect(200)).body as { id: string }[];

  const ajv = new Ajv({ strict: false });
  ajv.addSchema({ $id: 'api', components: description.components });
  const values = (path: string) => ({
    id: {
      presets: 'voice',
      sessions: session.id,
      setups: setup.id,
      drops: path.includes('/of/') ? session.id : drops[0].id,
    }[path.split('/')[2]]!,
    version: '1',
    revision: '1',
  });
  let looked = 0;
  for (const { path, operation } of operations().filter((o) => o.method === 'get')) {
    const schema = operation.responses[200]?.content?.['application/json']?.schema;
    if (!schema || /jobs\/|uploads\//.test(path)) continue;
    const answer = await request(app).get(filled(path, values(path)));
    expect([path, answer.status]).toEqual([path, 200]);
    const whole = JSON.parse(JSON.stringify(schema).replaceAll('"#/', '"api#/')) as object;
    const validate = ajv.compile(whole);
    expect([path, validate(answer.body), ajv.errorsText(validate.errors)]).toEqual([path, true, 'No errors']);
    looked++;
  }
  expect(looked).toBeGreaterThan(25);
});
