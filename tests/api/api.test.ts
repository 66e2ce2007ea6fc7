import { PROBLEMS, type PresetPage, type ProblemBody, type SessionPage } from '../../contract/index.ts';
import type { Express } from 'express';
import jsonpatch from 'fast-json-patch';
import request from 'supertest';
import type { DataSource, EntityManager } from 'typeorm';
import {
  applyDrop,
  capture,
  captureStarter,
  clone,
  createPreset,
  planDrop,
  readZip,
  sha256Hex,
  writeWav,
  type Device,
  type Preset,
  type Session,
} from '../../core/index.ts';
import { makeApp } from '../../server/app.ts';
import { makeDataSource } from '../../server/db/data-source.ts';
import { actAsOwner } from '../../server/db/acting.ts';
import { OWNER } from '../../server/db/entities.ts';
import { putPreset } from '../../server/db/store.ts';
import { STATE, handFile } from '../support/dawproject.ts';
import { device, sessionWith, sine } from '../support/build.ts';
import { startApi } from '../support/server.ts';

let app: Express;
let db: DataSource;
let stop: () => Promise<void>;
beforeAll(async () => {
  ({ app, db, stop } = await startApi());
});
afterAll(() => stop());

const newSession = async (name = 'Lantern Room') =>
  (await request(app).post('/api/sessions').send({ name, tempo: 74 }).expect(201)).body.id as string;
const get = async (id: string) =>
  (await request(app).get(`/api/sessions/${id}`).expect(200)).body as { revision: number; document: Session };
const patch = (id: string, revision: number | null, ops: unknown) => {
  const r = request(app).patch(`/api/sessions/${id}`).set('Content-Type', 'application/json-patch+json');
  return (revision === null ? r : r.set('If-Match', `"${revision}"`)).send(JSON.stringify(ops));
};
const strip = (id: string, name: string, threshold = -20): Preset =>
  createPreset(
    capture(
      sessionWith([
        { id: 'a', name: 'Line', chain: [device('compressor', { threshold }, { name: 'Hold' })] },
      ]),
      ['a'],
    ),
    { id, name, category: 'Voice/Lead', tags: ['warm'] },
  );
const problem = (r: request.Response) => {
  expect(r.type).toBe('application/problem+json');
  const body = r.body as ProblemBody;
  // the code is stable and belongs to the status that was answered
  expect([r.status, body.status]).toEqual([PROBLEMS[body.code].status, r.status]);
  return body;
};

test('the migrations give exactly what the entities say', async () => {
  expect((await db.driver.createSchemaBuilder().log()).upQueries.map((q) => q.query)).toEqual([]);
});

describe('sessions', () => {
  test('made, changed by JSON Patch, listed, copied, deleted and brought back', async () => {
    const id = await newSession();
    const { document, revision } = await get(id);
    expect(document).toMatchObject({ name: 'Lantern Room', tempo: 74 });
    const next = clone(document);
    next.note = 'third take';
    const r = await patch(id, revision, jsonpatch.compare(document, next)).expect(200);
    expect([r.body.revision, r.headers.etag]).toEqual([2, '"2"']);
    expect((await get(id)).document).toEqual(next);
    const copy = (await request(app).post('/api/sessions').send({ name: 'Copy', copyOf: id }).expect(201))
      .body.id as string;
    expect((await get(copy)).document.note).toBe('third take');
    await request(app).delete(`/api/sessions/${id}`).expect(204);
    expect(problem(await request(app).get(`/api/sessions/${id}`).expect(404)).detail).toMatch(/not there/);
    const { items } = (await request(app).get('/api/sessions')).body as SessionPage;
    expect(items.map((s) => s.id)).not.toContain(id);
    await request(app).post(`/api/sessions/${id}/restore`).expect(204);
    expect((await get(id)).revision).toBe(2);
  });

  test('a stale revision gets 412, a missing one 428, and nothing is overwritten', async () => {
    const id = await newSession();
    await patch(id, 1, [{ op: 'replace', path: '/name', value: 'First' }]).expect(200);
    expect(
      problem(await patch(id, 1, [{ op: 'replace', path: '/name', value: 'Second' }]).expect(412)).detail,
    ).toMatch(/another window/);
    problem(await patch(id, null, [{ op: 'replace', path: '/name', value: 'Third' }]).expect(428));
    expect((await get(id)).document.name).toBe('First');
  });

  test('of many changes at once on one revision, exactly one gets in', async () => {
    const id = await newSession();
    const all = await Promise.all(
      Array.from({ length: 12 }, (_, i) =>
        patch(id, 1, [{ op: 'replace', path: '/note', value: `window ${i}` }]),
      ),
    );
    expect(all.map((r) => r.status).sort()).toEqual([200, ...Array(11).fill(412)]);
    expect((await get(id)).revision).toBe(2);
  });

  test.each<[string, unknown, number, RegExp]>([
    ['a value out of range', [{ op: 'replace', path: '/tempo', value: 5000 }], 422, /tempo.*10 to 999/i],
    ['a value that is no number', [{ op: 'replace', path: '/tempo', value: 'fast' }], 422, /tempo.*number/i],
    ['two masters', [{ op: 'add', path: '/tracks/0', value: { role: 'master' } }], 422, /one master/],
    ['a path that is not there', [{ op: 'replace', path: '/tracks/9/level', value: 0 }], 422, /does not fit/],
    ['an unknown operation', [{ op: 'explode', path: '/name' }], 400, /made of add, remove and replace/],
    ['an unknown field', [{ op: 'replace', path: '/name', value: 'x', why: 'because' }], 400, /why/],
    ['no list at all', { op: 'replace' }, 400, /array/],
  ])('refused with the field named: %s', async (_, ops, status, message) => {
    const id = await newSession();
    const p = problem(await patch(id, 1, ops).expect(status));
    expect(p.detail + JSON.stringify(p.errors ?? [])).toMatch(message);
    expect((await get(id)).revision).toBe(1);
  });

  test('bad bodies, ids and routes are answered, not crashed on', async () => {
    problem(await request(app).post('/api/sessions').send({ name: '' }).expect(400));
    expect(
      problem(await request(app).post('/api/sessions').send({ name: 'x', colour: 'red' }).expect(400))
        .errors![0].field,
    ).toBe('/colour');
    problem(
      await request(app)
        .post('/api/sessions')
        .set('Content-Type', 'application/json')
        .send('{"name":')
        .expect(400),
    );
    problem(await request(app).get('/api/sessions/..%2f..%2fetc').expect(400));
    problem(await request(app).get('/api/nothing').expect(404));
    await request(app).get('/api/health').expect(200);
  });

  test('an open window is told of a change', async () => {
    const id = await newSession();
    const server = app.listen(0);
    const port = (server.address() as { port: number }).port;
    const r = await fetch(`http://127.0.0.1:${port}/api/sessions/${id}/events`);
    const reader = r.body!.getReader();
    const read = async () => new TextDecoder().decode((await reader.read()).value);
    expect(await read()).toContain('"revision":1');
    await patch(id, 1, [{ op: 'replace', path: '/note', value: 'told' }]).expect(200);
    expect(await read()).toContain('"revision":2');
    await reader.cancel();
    server.closeAllConnections();
    server.close();
  });
});

describe('DAWproject', () => {
  const send = (bytes: Uint8Array, name: string) =>
    request(app)
      .post(`/api/sessions/import?name=${encodeURIComponent(name)}`)
      .set('Content-Type', 'application/octet-stream')
      .send(Buffer.from(bytes));
  test('import, export without an edit: every entry is the same bytes; with one, states and sounds still are', async () => {
    const file = handFile();
    const { body } = await send(file, 'lantern.dawproject').expect(201);
    const out = await request(app)
      .get(`/api/sessions/${body.id}/export`)
      .buffer(true)
      .parse((res, done) => {
        const parts: Buffer[] = [];
        res.on('data', (d: Buffer) => parts.push(d));
        res.on('end', () => done(null, Buffer.concat(parts)));
      })
      .expect(200);
    expect(readZip(out.body as Buffer, 'out')).toEqual(readZip(file, 'in'));
    await patch(body.id as string, 1, [{ op: 'replace', path: '/tracks/0/name', value: 'Everyone' }]).expect(
      200,
    );
    const edited = readZip(
      (
        await request(app)
          .get(`/api/sessions/${body.id}/export`)
          .buffer(true)
          .parse((res, done) => {
            const parts: Buffer[] = [];
            res.on('data', (d: Buffer) => parts.push(d));
            res.on('end', () => done(null, Buffer.concat(parts)));
          })
      ).body as Buffer,
      'out',
    );
    expect(edited['plugins/tape.vstpreset']).toEqual(STATE);
    expect(new TextDecoder().decode(edited['project.xml'])).toContain('name="Everyone"');
    await request(app).get(`/api/sessions/${body.id}/export/notes`).expect(200);
  });
  test('what is no DAWproject is refused by name', async () => {
    expect(problem(await send(new Uint8Array(0), 'nothing.dawproject').expect(400)).detail).toMatch(
      /nothing\.dawproject.*empty/,
    );
    expect(problem(await send(writeWav([sine(100, 1, 0.1)], 48000), 'take.wav').expect(422)).detail).toMatch(
      /take\.wav.*not a ZIP/,
    );
    expect(problem(await send(handFile().slice(0, 5000), 'half.dawproject').expect(422)).detail).toMatch(
      /half\.dawproject/,
    );
  });
});

describe('sounds', () => {
  test('kept once by content, given back byte for byte, in pieces when large', async () => {
    const wav = Buffer.from(writeWav([sine(440, 0.3, 12), sine(441, 0.3, 12)], 48000, 24));
    expect(wav.length).toBeGreaterThan(3 * 1024 * 1024);
    const up = () =>
      request(app).post('/api/media?name=take.wav').set('Content-Type', 'audio/wav').send(wav).expect(201);
    const [a, b] = [await up(), await up()];
    expect(a.body).toEqual(b.body);
    expect(a.body).toMatchObject({ id: sha256Hex(wav), sampleRate: 48000, channels: 2, frames: 12 * 48000 });
    expect((await request(app).get(`/api/media/${a.body.id}`).expect(200)).body.equals(wav)).toBe(true);
    expect(
      Number((await db.query('SELECT COUNT(*) AS n FROM media_chunk WHERE media = ?', [a.body.id]))[0].n),
    ).toBe(Math.ceil(wav.length / 1048576));
  });
  test('broken ones never get in', async () => {
    const r = await request(app)
      .post('/api/media?name=broken.wav')
      .set('Content-Type', 'audio/wav')
      .send(Buffer.from('RIFFxxxxWAVEfmt '))
      .expect(422);
    expect(problem(r).detail).toMatch(/broken\.wav/);
    problem(
      await request(app)
        .get(`/api/media/${'0'.repeat(64)}`)
        .expect(404),
    );
  });
});

describe('presets', () => {
  test('saved, saved again as version 2, version 1 untouched, differing bases refused', async () => {
    const p1 = strip('', 'Close one');
    const id = (await request(app).post('/api/presets').send({ preset: p1 }).expect(201)).body.id as string;
    const p2 = strip(id, 'Close one', -26);
    await request(app)
      .post(`/api/presets/${id}/versions`)
      .set('If-Match', '"1"')
      .send({ preset: p2 })
      .expect(201);
    problem(
      await request(app)
        .post(`/api/presets/${id}/versions`)
        .set('If-Match', '"1"')
        .send({ preset: strip(id, 'Close one', -30) })
        .expect(412),
    );
    expect(
      problem(
        await request(app)
          .post(`/api/presets/${id}/versions`)
          .set('If-Match', '"2"')
          .send({ preset: p2 })
          .expect(409),
      ).detail,
    ).toMatch(/same as version 2/);
    const v1 = (await request(app).get(`/api/presets/${id}/versions/1`)).body as Preset;
    expect([v1.hash, (v1.content.tracks[0].chain[0] as Device).params.threshold]).toEqual([p1.hash, -20]);
    const now = (await request(app).get(`/api/presets/${id}`)).body;
    expect([now.version, now.versions.length, now.preset.parent]).toEqual([2, 2, { preset: id, version: 1 }]);
    problem(await request(app).get(`/api/presets/${id}/versions/9`).expect(404));
  });
  test('a changed content or a broken preset is refused', async () => {
    const p = strip('tampered', 'Tampered');
    p.content.tracks[0].level = 3;
    expect(problem(await request(app).post('/api/presets').send({ preset: p }).expect(422)).detail).toMatch(
      /hash/,
    );
    problem(
      await request(app)
        .post('/api/presets')
        .send({ preset: { name: 'nothing' } })
        .expect(422),
    );
    problem(await request(app).post('/api/presets').send({}).expect(400));
  });
  test('search by beginnings of words, by category and tag; pages by key show each once', async () => {
    const many = async (m: EntityManager) => {
      for (let i = 0; i < 130; i++) {
        await putPreset(m, {
          ...strip(`many-${i}`, `Lantern chain ${String(i).padStart(3, '0')}`),
          tags: i % 10 ? ['warm'] : ['cold', 'warm'],
        });
      }
    };
    await actAsOwner(OWNER, () => db.transaction(many));
    const names: string[] = [];
    for (let after: string | null = ''; after !== null;) {
      const r: request.Response = await request(app)
        .get('/api/presets')
        .query({ q: 'lant chai', limit: 50, ...(after ? { after } : {}) })
        .expect(200);
      names.push(...r.body.items.map((x: { name: string }) => x.name));
      after = r.body.next as string | null;
    }
    expect(names).toEqual(
      Array.from({ length: 130 }, (_, i) => `Lantern chain ${String(i).padStart(3, '0')}`),
    );
    expect(
      (await request(app).get('/api/presets').query({ tag: 'cold', limit: 200 })).body.items,
    ).toHaveLength(13);
    expect(
      (await request(app).get('/api/presets').query({ category: 'Voice', q: 'lantern', limit: 1 })).body
        .items,
    ).toHaveLength(1);
    expect((await request(app).get('/api/presets').query({ category: 'Voi' })).body.items).toEqual([]);
    expect((await request(app).get('/api/presets').query({ q: '+*"(~' })).status).toBe(200);
    problem(await request(app).get('/api/presets').query({ after: 'nonsense' }).expect(400));
    problem(await request(app).get('/api/presets').query({ limit: 'many' }).expect(400));
  });
  test('pinned, renamed, tagged; off the shelf and back; where used', async () => {
    const id = (
      await request(app)
        .post('/api/presets')
        .send({ preset: strip('meta', 'Old name') })
        .expect(201)
    ).body.id as string;
    await request(app)
      .patch(`/api/presets/${id}`)
      .send({ name: 'Shipshape', pinned: true, tags: ['deck', 'Deck '] })
      .expect(200);
    const found = (await request(app).get('/api/presets').query({ q: 'shipsh', pinned: 'true', tag: 'deck' }))
      .body.items;
    expect(found).toMatchObject([{ id, name: 'Shipshape', pinned: true }]);
    const session = await newSession('User of it');
    await request(app)
      .post('/api/drops')
      .send({
        id: 'drop-1',
        session,
        preset: id,
        version: 1,
        record: { report: { total: 3, rows: ['a', 'b'] } },
      })
      .expect(201);
    // used is what stands in a session, not what was dropped into it once
    const users = async () => (await request(app).get(`/api/presets/${id}/sessions`)).body.sessions;
    expect(await users()).toEqual([]);
    const from = await request(app).post('/api/sessions').send({ name: 'From it', preset: id }).expect(201);
    expect(await users()).toMatchObject([{ id: from.body.id, name: 'From it', places: 1, oldest: 1 }]);
    expect((await request(app).get(`/api/drops/of/${session}`)).body[0].record.report).toEqual({ total: 3 });
    expect((await request(app).get('/api/drops/drop-1')).body.record.report.rows).toEqual(['a', 'b']);
    problem(await request(app).get('/api/drops/drop-2').expect(404));
    await request(app).delete(`/api/presets/${id}`).expect(204);
    problem(await request(app).get(`/api/presets/${id}`).expect(404));
    await request(app).post(`/api/presets/${id}/restore`).expect(204);
    await request(app).get(`/api/presets/${id}`).expect(200);
  });
});

test('the database gone: 503 with a way out, the process lives', async () => {
  const gone = makeDataSource({ port: Number(process.env.DB_PORT ?? 33306), database: 'ropeshelf_test' });
  await gone.initialize();
  const { app: other } = makeApp(gone);
  await (gone.driver as unknown as { pool: { promise(): { end(): Promise<void> } } }).pool.promise().end();
  const quiet = jest.spyOn(console, 'error').mockImplementation(() => undefined);
  const r = await request(other).get('/api/sessions').expect(503);
  expect(problem(r).detail).toMatch(/database does not answer.*Nothing is lost/);
  expect(r.headers['retry-after']).toBe('2');
  quiet.mockRestore();
});

describe('defaults', () => {
  test('values of a device type and a strip for a kind of line: set, listed, set anew, cleared', async () => {
    const all = async () =>
      (await request(app).get('/api/defaults').expect(200)).body as Record<string, unknown>;
    const params = device('gate', { threshold: -33 }).params;
    await request(app).put('/api/defaults/device:gate').send({ params }).expect(204);
    await request(app)
      .put('/api/defaults/device:gate')
      .send({ params: { ...params, range: -12 } })
      .expect(204);
    await request(app)
      .post('/api/presets')
      .send({ preset: strip('default-strip', 'For new lines') })
      .expect(201);
    await request(app).put('/api/defaults/track:audio').send({ preset: 'default-strip' }).expect(204);
    expect(await all()).toEqual({
      'device:gate': { params: { ...params, range: -12 } },
      'track:audio': { preset: 'default-strip' },
    });
    await request(app).delete('/api/defaults/device:gate').expect(204);
    expect(Object.keys(await all())).toEqual(['track:audio']);
  });
  test.each<[string, object, number, RegExp]>([
    ['device:magic', { params: {} }, 400, /device that is built in/],
    ['device:gate', {}, 400, /needs the values/],
    ['device:gate', { params: { threshold: 99 } }, 422, /./],
    ['track:master', { preset: 'x' }, 400, /neither/],
    ['track:audio', { preset: 'nowhere' }, 404, /preset/],
    ['colour:red', { preset: 'x' }, 400, /neither/],
    ['device:gate', { params: {}, more: 1 }, 400, /more/],
  ])('%s %j is refused with %i', async (name, body, status, words) => {
    const p = problem(await request(app).put(`/api/defaults/${name}`).send(body).expect(status));
    expect(JSON.stringify(p)).toMatch(words);
  });
});

describe('what a session uses of the shelf', () => {
  const using = async (name: string, p: Preset, change: (s: Session) => void = () => undefined) => {
    const id = await newSession(name);
    const { document, revision } = await get(id);
    const next = clone(applyDrop(document, planDrop(document, p), p).session);
    change(next);
    await patch(id, revision, jsonpatch.compare(document, next)).expect(200);
    return id;
  };
  const sessionsOf = async (id: string) =>
    (await request(app).get(`/api/presets/${id}/sessions`).expect(200)).body as {
      version: number;
      sessions: { id: string; name: string; places: number; behind: number }[];
    };
  const threshold = async (id: string) =>
    ((await get(id)).document.tracks[0].chain[0] as Device).params.threshold;

  test('is listed; all that are behind are brought up to date, after a look that writes nothing; a value that was changed here stays', async () => {
    const p = strip('used', 'Used line');
    await request(app).post('/api/presets').send({ preset: p }).expect(201);
    const a = await using('First evening', p);
    const b = await using('Second evening', p, (s) => {
      (s.tracks[0].chain[0] as Device).params.threshold = -11;
    });
    expect((await sessionsOf('used')).sessions.map((s) => [s.name, s.places, s.behind])).toEqual([
      ['First evening', 1, 0],
      ['Second evening', 1, 0],
    ]);
    await request(app)
      .post('/api/presets/used/versions')
      .set('If-Match', '"1"')
      .send({ preset: strip('used', 'Used line', -26) })
      .expect(201);
    expect((await sessionsOf('used')).sessions.map((s) => s.behind)).toEqual([1, 1]);
    expect(
      (
        await request(app)
          .post('/api/presets/current')
          .send({ ids: ['used', 'nothing'] })
          .expect(200)
      ).body,
    ).toEqual({ used: { version: 2, name: 'Used line' } });

    const look = (
      await request(app)
        .post('/api/presets/used/update')
        .send({ sessions: [a, b], look: true })
        .expect(200)
    ).body as { sessions: { updated: number; taken: number; conflicts: string[] }[] };
    expect(look.sessions.map((s) => [s.updated, s.taken, s.conflicts.length])).toEqual([
      [1, 1, 0],
      [1, 0, 1],
    ]);
    expect([await threshold(a), await threshold(b), (await get(a)).revision]).toEqual([-20, -11, 2]);
    await request(app)
      .post('/api/presets/used/update')
      .send({ sessions: [a, b, 'gone'] })
      .expect(200);
    expect([await threshold(a), await threshold(b), (await get(a)).revision]).toEqual([-26, -11, 3]);
    expect((await sessionsOf('used')).sessions.map((s) => s.behind)).toEqual([0, 0]);
    // lines that go are no longer counted
    const now = await get(a);
    await patch(a, now.revision, [{ op: 'remove', path: '/tracks/0' }]).expect(200);
    expect((await sessionsOf('used')).sessions.map((s) => s.name)).toEqual(['Second evening']);
  });

  test('a session begins from a starter, which may be the default, and is not tied to what happens to it later', async () => {
    const home = sessionWith([{ id: 'a', name: 'Voice', input: { kind: 'hardware', port: 'Mic 1' } }], {
      tempo: 88,
      bitDepth: 16,
    });
    const starter = createPreset(captureStarter(home), { id: 'evening', name: 'Evening' });
    await request(app).post('/api/presets').send({ preset: starter }).expect(201);
    await request(app).put('/api/defaults/session:new').send({ preset: 'evening' }).expect(204);
    expect((await request(app).get('/api/defaults').expect(200)).body['session:new']).toEqual({
      preset: 'evening',
    });
    const id = (
      await request(app).post('/api/sessions').send({ name: 'Tuesday', preset: 'evening' }).expect(201)
    ).body.id as string;
    const { document } = await get(id);
    expect(document).toMatchObject({ name: 'Tuesday', tempo: 88, bitDepth: 16 });
    expect(document.tracks.map((t) => [t.name, t.input.kind])).toEqual([
      ['Voice', 'hardware'],
      ['Master', 'none'],
    ]);
    expect((await request(app).get(`/api/drops/of/${id}`).expect(200)).body[0].record.report.intact).toBe(
      true,
    );
    problem(await request(app).post('/api/sessions').send({ name: 'No', preset: 'not-there' }).expect(404));
    await request(app).delete('/api/defaults/session:new').expect(204);
  });
});

test('a misspelt search finds, and says what it took it for; a word that is there is taken as it is', async () => {
  const made = strip('misspelt', 'Close and warmish');
  await request(app).post('/api/presets').send({ preset: made }).expect(201);
  const find = async (q: string) =>
    (await request(app).get('/api/presets').query({ q }).expect(200)).body as PresetPage;
  for (const typed of ['clsoe warmish', 'close wrmish', 'Clos warmsih']) {
    const page = await find(typed);
    expect(page.items.map((x) => x.id)).toContain('misspelt');
  }
  expect((await find('clsoe')).instead).toEqual([
    { typed: 'clsoe', meant: expect.arrayContaining(['close']) },
  ]);
  expect((await find('close warmi')).instead).toBeUndefined();
  const nothing = await find('qqxxzzvv');
  expect([nothing.items, nothing.instead]).toEqual([[], undefined]);
  // a word that finds nothing any more is not meant
  expect((await find('warmsih')).instead).toEqual([{ typed: 'warmsih', meant: ['warmish'] }]);
  await request(app).delete('/api/presets/misspelt').expect(204);
  expect((await find('warmsih')).instead?.[0].meant ?? []).not.toContain('warmish');
});
