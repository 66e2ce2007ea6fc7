/** What comes in from outside: other hosts and origins, broken requests, and many at once. */
import { mkdirSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { brotliCompressSync, gzipSync } from 'node:zlib';
import type { Express } from 'express';
import type { DataSource } from 'typeorm';
import request from 'supertest';
import { PROBLEMS, type ProblemBody } from '../../contract/index.ts';
import { capture, createPreset, writeZip, type Preset } from '../../core/index.ts';
import { makeApp } from '../../server/app.ts';
import { device, sessionWith } from '../support/build.ts';
import { startApi } from '../support/server.ts';

let app: Express;
let db: DataSource;
let stop: () => Promise<void>;
beforeAll(async () => {
  ({ app, db, stop } = await startApi('ropeshelf_doors'));
});
afterAll(() => stop());

const JSON_TYPE = 'application/json';
const PATCH_TYPE = 'application/json-patch+json';
const strip = (id: string, over: object = {}): Preset =>
  createPreset(
    capture(sessionWith([{ id: 'a', name: 'Line', chain: [device('compressor', {}, { name: 'Hold' })] }]), [
      'a',
    ]),
    { id, name: id, category: 'Voice/Lead', tags: ['warm'], ...over },
  );
const newSession = async () =>
  (await request(app).post('/api/sessions').send({ name: 'Lantern Room' }).expect(201)).body.id as string;

test('a disk that is nearly full: what would write is refused and says which disk; with room again it goes on by itself', async () => {
  let free = 10 * 1024 * 1024;
  const { app: small } = makeApp(db, { disk: { folder: '/srv/rope', free: () => Promise.resolve(free) } });
  const id = await newSession();
  const r = await request(small).post('/api/sessions').send({ name: 'No room' });
  expect([r.status, (r.body as ProblemBody).code]).toEqual([507, 'disk-full']);
  expect((r.body as ProblemBody).detail).toMatch(/\/srv\/rope lies on has only 10 MB left/);
  await request(small).get(`/api/sessions/${id}`).expect(200);
  await request(small).delete(`/api/sessions/${id}`).expect(204);
  free = 1024 * 1024 * 1024;
  await new Promise((go) => setTimeout(go, 1100));
  await request(small).post('/api/sessions').send({ name: 'Room again' }).expect(201);
  // a body that would not fit any more
  await request(small).post('/api/media?name=x.wav').set('Content-Length', '1073000000').expect(507);
});

test.each(['', 'content'])('fields of 5 MB that nothing reads are refused (%s)', async (at) => {
  const preset = strip(`unknown-${at || 'top'}`);
  const into = at ? preset.content : preset;
  Object.assign(into, { ballast: 'x'.repeat(5_000_000) });
  const r = await request(app).post('/api/presets').send({ preset });
  expect([r.status, (r.body as ProblemBody).detail]).toEqual([
    422,
    'This preset: A preset has no field “ballast”.',
  ]);
});

describe('files of others do not let anybody wait', () => {
  const project = (inside: string) =>
    writeZip({ 'project.xml': new TextEncoder().encode(`<Project version="1.0">${inside}</Project>`) });
  const post = (bytes: Uint8Array) =>
    request(app)
      .post('/api/sessions/import?name=big.dawproject')
      .set('Content-Type', 'application/zip')
      .send(Buffer.from(bytes));
  test.each<[string, string, RegExp]>([
    ['a million elements', '<Structure/>' + '<A/>'.repeat(1_000_000), /more than 500000 elements/],
    ['a document type', '<!DOCTYPE x>', /document type/],
    ['nested without end', '<a>'.repeat(5000), /nested more than/],
    [
      'attributes without end',
      `<a ${Array.from({ length: 5000 }, (_, i) => `b${i}="1"`).join(' ')}/>`,
      /more than 1000 attributes/,
    ],
  ])('%s: refused, and others are answered meanwhile', async (_, inside, why) => {
    let answered = 0;
    let going = true;
    const others = (async () => {
      while (going) {
        await request(app).get('/api/health').expect(200);
        if (going) answered++;
      }
    })();
    const r = await post(project(inside));
    going = false;
    await others;
    expect(r.status).toBe(422);
    expect((r.body as ProblemBody).detail).toMatch(why);
    // reading it in the server's own thread would let one through at most
    expect(answered).toBeGreaterThan(1);
  });
  test('a “>” inside of an attribute is text', async () => {
    const r = await post(
      project(
        `<Application name="${'>'.repeat(200_000)}"/><Structure><Track id="m" name="a > b" contentType="audio"><Channel id="c" role="master"/></Track></Structure>`,
      ),
    );
    expect(r.status).toBe(201);
  });
});

describe('hosts and origins', () => {
  test.each(['localhost:4310', '127.0.0.1', '[::1]:4310', 'LOCALHOST'])('answers to %s', (host) =>
    request(app).get('/api/sessions').set('Host', host).expect(200),
  );
  test.each(['lightship.example', 'localhost.example:4310', '192.0.2.7', ''])(
    'does not answer to “%s”',
    async (host) => {
      const r = await request(app).get('/api/sessions').set('Host', host);
      expect([r.status, (r.body as ProblemBody).code]).toEqual([421, 'wrong-host']);
    },
  );
  test.each([
    ['Origin', 'http://lightship.example'],
    ['Origin', 'null'],
    ['Origin', 'http://127.0.0.1:1'],
    ['Sec-Fetch-Site', 'cross-site'],
    ['Sec-Fetch-Site', 'same-site'],
  ])('a change from %s: %s is refused, whatever its type', async (header, value) => {
    for (const type of [JSON_TYPE, 'text/plain', 'audio/wav', 'application/x-www-form-urlencoded']) {
      for (const path of ['/api/sessions', '/api/media?name=x.wav', '/api/presets']) {
        const r = await request(app).post(path).set(header, value).set('Content-Type', type).send('{}');
        expect([r.status, (r.body as ProblemBody).code]).toEqual([403, 'other-origin']);
      }
    }
  });
  test('no font, script or connection from elsewhere', async () => {
    const policy = (await request(app).get('/api/health')).headers['content-security-policy'];
    expect(policy).toContain("font-src 'self'");
    expect(policy).not.toMatch(/https:/);
  });
});

describe('a request that is wrong is told what is wrong with it', () => {
  const deep = (n: number) => '['.repeat(n) + ']'.repeat(n);
  const preset = (over: object) => JSON.stringify({ preset: { ...strip('wrong'), ...over } });
  type Row = [string, 'get' | 'post' | 'patch' | 'put' | 'delete', string, string?, Record<string, string>?];
  const rows: Row[] = [
    ['a path that is not whole', 'get', '/api/sessions/%ff'],
    ['a path that is not whole', 'delete', '/api/presets/%E0%A4%A'],
    [
      'an unknown character set',
      'post',
      '/api/sessions',
      '{}',
      { 'Content-Type': 'application/json; charset=klingon' },
    ],
    ['an unknown packing', 'post', '/api/sessions', '{}', { 'Content-Encoding': 'zip' }],
    ['broken gzip', 'post', '/api/sessions', 'no gzip', { 'Content-Encoding': 'gzip' }],
    ['no JSON', 'post', '/api/presets', '{"preset":'],
    ['a list', 'post', '/api/sessions', '[]'],
    ['deep JSON', 'post', '/api/sessions', `{"name":${deep(5000)}}`],
    ['deep JSON in a preset', 'post', '/api/presets', `{"preset":{"note":${deep(5000)}}}`],
    ['a name of every object', 'post', '/api/sessions', '{"name":{"constructor":1}}'],
    ['a name of every object', 'post', '/api/presets', '{"preset":{"note":{"__proto__":1}}}'],
    ['an id of every object', 'post', '/api/presets', preset({ id: 'toString' })],
    ['lists of songs', 'post', '/api/jobs', '{"songs":[[[]]]}'],
    ['a list for levels', 'post', '/api/jobs', '{"songs":[{"session":"x"}],"together":[]}'],
    ['lists of presets', 'put', '/api/presets/many', '{"presets":[[]]}'],
    ['a blank name', 'post', '/api/sessions', '{"name":"   "}'],
    ['half a character', 'post', '/api/sessions', '{"name":"\\ud800"}'],
    ['half a character in a preset', 'post', '/api/presets', preset({ name: '\ud800' })],
    ['a blank preset', 'post', '/api/presets', preset({ name: ' ' })],
    ['an object as note', 'post', '/api/presets', preset({ note: { a: 1 } })],
    ['no kind', 'post', '/api/presets', preset({ kind: null })],
    ['a long kind', 'post', '/api/presets', preset({ kind: 'x'.repeat(500) })],
    ['no colour', 'post', '/api/presets', preset({ colour: null })],
    ['a long colour', 'post', '/api/presets', preset({ colour: 'x'.repeat(500) })],
    ['an id that is none', 'post', '/api/presets', preset({ id: 'x'.repeat(500) })],
    ['tags that are none', 'post', '/api/presets', preset({ tags: [null, {}] })],
    ['no content', 'post', '/api/presets', preset({ content: null })],
    ['a version beyond all', 'get', '/api/presets/there/versions/99999999999'],
    [
      'a version beyond all',
      'post',
      '/api/drops',
      '{"id":"d","session":"s","preset":"p","version":9999999999,"record":{}}',
    ],
    ['a default that is none', 'put', '/api/defaults/device:constructor', '{"params":{}}'],
    ['a default that is none', 'put', '/api/defaults/device:__proto__', '{"params":{}}'],
    ['nothing as a sound', 'post', '/api/media?name=x.wav'],
    ['no WAV', 'post', '/api/media?name=x.wav', 'RIFF'],
    ['no file', 'post', '/api/sessions/import?name=x.dawproject', 'PK'],
  ];
  test.each(rows)('%s: %s %s', async (...row: Row) => {
    const [, method, path, body, headers = {}] = row;
    await request(app)
      .post('/api/presets')
      .send({ preset: strip('there') });
    const asked = request(app)[method](path);
    const r = await (body === undefined
      ? asked
      : asked.set({ 'Content-Type': JSON_TYPE, ...headers }).send(body));
    const problem = r.body as ProblemBody;
    expect(r.type).toBe('application/problem+json');
    expect(r.status).toBeGreaterThanOrEqual(400);
    expect(r.status).toBeLessThan(500);
    expect(PROBLEMS[problem.code].status).toBe(r.status);
    expect(problem.detail.length).toBeGreaterThan(15);
  });

  test.each([
    ['copy', [{ op: 'copy', from: '/tracks', path: '/tracks/-' }]],
    ['move', [{ op: 'move', from: '/tracks/0', path: '/tracks/1' }]],
    ['test', [{ op: 'test', path: '/name', value: 'x' }]],
    ['half a character', [{ op: 'replace', path: '/name', value: '\ud800' }]],
    ['a blank name', [{ op: 'replace', path: '/name', value: '  ' }]],
    ['an object as note', [{ op: 'replace', path: '/note', value: { a: 1 } }]],
    ['lists', [[{ op: 'replace', path: '/name', value: 'x' }]]],
    ['a prototype', [{ op: 'add', path: '/__proto__/x', value: 1 }]],
    ['a constructor', [{ op: 'add', path: '/setup', value: { constructor: 1 } }]],
    ['nothing there', [{ op: 'replace', path: '/tracks/99/name', value: 'x' }]],
    ['no path', [{ op: 'add', value: 1 }]],
  ])('a change of a session with %s is refused at once, and the session stays', async (_what, ops) => {
    const id = await newSession();
    const r = await request(app)
      .patch(`/api/sessions/${id}`)
      .set({ 'If-Match': '"1"', 'Content-Type': PATCH_TYPE })
      .send(JSON.stringify(ops));
    expect([400, 422]).toContain(r.status);
    expect((await request(app).get(`/api/sessions/${id}`).expect(200)).body.revision).toBe(1);
  });

  test('a packed request that is whole is read', async () => {
    const r = await request(app)
      .post('/api/sessions')
      .set({ 'Content-Type': JSON_TYPE, 'Content-Encoding': 'gzip' })
      .serialize((body) => body as string)
      .send(gzipSync(JSON.stringify({ name: 'Packed' })) as unknown as string);
    expect(r.status).toBe(201);
  });

  test('tags that the database takes for the same are one', async () => {
    await request(app)
      .post('/api/presets')
      .send({ preset: strip('accents', { tags: ['cafe', 'café', 'CAFÉ ', 'straße', 'strasse'] }) })
      .expect(201);
    const tags = (await request(app).get('/api/presets/accents/tags').expect(200)).body as string[];
    expect(tags.filter((tag) => /caf/i.test(tag))).toHaveLength(1);
  });
});

describe('many at once', () => {
  test('parallel savers of presets with tags all succeed', async () => {
    const savers = Array.from({ length: 8 }, (_, k) => async () => {
      for (let i = 0; i < 12; i++) {
        const tags = [`t${i % 3}`, `s${(i + k) % 4}`, 'all'];
        const r = await request(app)
          .post('/api/presets')
          .send({ preset: strip(`p-${k}-${i}`, { tags }) });
        expect(r.status).toBe(201);
        expect(
          (
            await request(app)
              .patch(`/api/presets/p-${k}-${i}`)
              .send({ tags: ['all', `u${i}`] })
          ).status,
        ).toBe(200);
      }
    });
    await Promise.all(savers.map((save) => save()));
  });

  test('parallel sessions from one preset all begin', async () => {
    await request(app)
      .post('/api/presets')
      .send({ preset: strip('begin') })
      .expect(201);
    const all = await Promise.all(
      Array.from({ length: 40 }, (_, i) =>
        request(app)
          .post('/api/sessions')
          .send({ name: `Session ${i}`, preset: 'begin' }),
      ),
    );
    expect(all.map((r) => r.status)).toEqual(all.map(() => 201));
  });

  test('a pin beside a new version takes nothing back of it', async () => {
    for (let i = 0; i < 10; i++) {
      const id = `pinned-${i}`;
      await request(app)
        .post('/api/presets')
        .send({ preset: strip(id) })
        .expect(201);
      const next = { ...strip(id), name: `${id}, better`, note: 'softer' };
      await Promise.all([
        request(app)
          .post(`/api/presets/${id}/versions`)
          .set('If-Match', '"1"')
          .send({ preset: next })
          .expect(201),
        request(app).patch(`/api/presets/${id}`).send({ pinned: true }).expect(200),
      ]);
      expect((await request(app).get(`/api/presets/${id}`).expect(200)).body).toMatchObject({
        name: `${id}, better`,
        version: 2,
        pinned: true,
      });
    }
    const old = await request(app)
      .patch('/api/presets/pinned-0')
      .set('If-Match', '"1"')
      .send({ name: 'late' });
    expect([old.status, (old.body as ProblemBody).code]).toEqual([412, 'changed-elsewhere']);
  });
});

test('the interface goes out as it was packed at build, to who takes it', async () => {
  const client = mkdtempSync(join(tmpdir(), 'rope-shelf-client-'));
  mkdirSync(join(client, 'assets'));
  const script = 'export const knot = "bowline";\n'.repeat(200);
  writeFileSync(join(client, 'index.html'), '<!doctype html>');
  writeFileSync(join(client, 'assets', 'knot.js'), script);
  writeFileSync(join(client, 'assets', 'knot.js.br'), brotliCompressSync(script));
  writeFileSync(join(client, 'assets', 'knot.js.gz'), gzipSync(script));
  const { app: whole } = makeApp(db, { client });
  for (const [asked, sent] of [
    ['gzip, deflate, br', 'br'],
    ['gzip', 'gzip'],
    ['identity', undefined],
  ]) {
    const r = await request(whole).get('/assets/knot.js').set('Accept-Encoding', asked!).expect(200);
    expect(r.headers['content-encoding']).toBe(sent);
    expect(r.headers['cache-control']).toMatch(/immutable/);
    if (sent !== 'br') expect(r.text).toBe(script);
  }
  await request(whole).get('/assets/gone.js').expect(404);
  expect((await request(whole).get('/shelf').expect(200)).text).toBe('<!doctype html>');
  rmSync(client, { recursive: true });
});

test('with the page of a session goes what its screen takes: the session and its code', async () => {
  const client = mkdtempSync(join(tmpdir(), 'rope-shelf-client-'));
  mkdirSync(join(client, '.vite'));
  writeFileSync(join(client, 'index.html'), '<!doctype html>');
  const chunks = {
    'index.html': { file: 'assets/index.js', imports: ['base'] },
    base: { file: 'assets/base.js' },
    shared: { file: 'assets/shared.js', imports: ['base', 'shared'] },
    'web/features/session/SessionScreen.vue': { file: 'assets/screen.js', imports: ['base', 'shared'] },
  };
  writeFileSync(join(client, '.vite', 'manifest.json'), JSON.stringify(chunks));
  const { app: whole } = makeApp(db, { client });
  const linked = async (path: string) => (await request(whole).get(path).expect(200)).headers.link;
  expect(((await linked('/session/kelp-and-copper')) ?? '').split(', ')).toEqual([
    '</api/sessions/kelp-and-copper>; rel=preload; as=fetch; crossorigin',
    '</assets/screen.js>; rel=modulepreload',
    '</assets/shared.js>; rel=modulepreload',
  ]);
  expect(await linked('/session/kelp-and-copper/map')).not.toContain('screen.js');
  for (const path of ['/shelf', '/session/%3E%3B%20rel=x']) expect(await linked(path)).toBeUndefined();
  rmSync(client, { recursive: true });
});
