/** Several people on one server: signing in, what is shared, and every route as nobody, as another and as a member. */
import { once } from 'node:events';
import { readFileSync } from 'node:fs';
import type { AddressInfo } from 'node:net';
import type { Express } from 'express';
import request from 'supertest';
import type { DataSource } from 'typeorm';
import type { Facets, Me, PresetDetail, ProblemBody, SessionOpened, Shares } from '../../contract/index.ts';
import { capture, createPreset, writeWav, type Preset } from '../../core/index.ts';
import { accounts, addAccount, closeAccount, setPassword } from '../../server/accounts/accounts.ts';
import { hashedPassword, isPassword, passwordProblem } from '../../server/accounts/passwords.ts';
import { JobRow, PackTakenRow, type PackMade } from '../../server/db/entities.ts';
import { tidy } from '../../server/db/tidy.ts';
import { makeApp } from '../../server/app.ts';
import { device, sessionWith } from '../support/build.ts';
import { startApi } from '../support/server.ts';
import { port, studio } from '../support/studio.ts';

const PASSWORD = 'nine ropes and a bell';
let app: Express;
let db: DataSource;
let stop: () => Promise<void>;

/** Somebody who signed in. */
interface Signed {
  id: string;
  cookie: string;
}
async function signIn(name: string, password = PASSWORD): Promise<Signed> {
  const r = await request(app).post('/api/sign-in').send({ name, password }).expect(200);
  return { id: (r.body as Me).person.id, cookie: r.headers['set-cookie'][0].split(';')[0] };
}
type Method = 'get' | 'post' | 'put' | 'patch' | 'delete';
const as = ({ cookie }: Signed, method: Method, path: string) =>
  request(app)[method](`/api${path}`).set('Cookie', cookie);

const chain = (hold: number) =>
  sessionWith([
    { id: 'a', name: 'Line', chain: [device('compressor', { threshold: hold }, { name: 'Hold' })] },
  ]);
const strip = (id: string, hold = -20): Preset =>
  createPreset(capture(chain(hold), ['a']), { id, name: id, category: 'Voice', tags: ['warm'] });

/** Each thing of an owner, and what a route's path names it by. */
let bosun: Signed;
let helm: Signed;
let purser: Signed;
let reader: Signed;
const things = {
  session: '',
  preset: 'shanty',
  drop: 'drop-of-bosun',
  setup: 'cabin',
  job: 'print-of-bosun',
  upload: '',
  trashed: '',
  taken: 'taken-by-bosun',
  share: '',
};
const cabin = () => studio({ id: things.setup, name: 'Lightship cabin', ports: [port('o1', 'out', 1)] });

beforeAll(async () => {
  ({ app, db, stop } = await startApi('ropeshelf_accounts', { signIn: true }));
  for (const name of ['bosun', 'helm', 'purser', 'reader']) await addAccount(db, name, PASSWORD);
  bosun = await signIn('bosun');
  helm = await signIn('helm');
  purser = await signIn('purser');
  reader = await signIn('reader');
  await as(bosun, 'post', '/presets')
    .send({ preset: strip('shanty') })
    .expect(201);
  const first = await as(bosun, 'post', '/sessions').send({ name: 'Lantern Room' }).expect(201);
  things.session = (first.body as { id: string }).id;
  const drop = { id: things.drop, session: things.session, preset: 'shanty', version: 1, record: {} };
  await as(bosun, 'post', '/drops').send(drop).expect(201);
  const idOf = async (r: request.Test) => ((await r.expect(201)).body as { id: string }).id;
  await as(bosun, 'post', '/setups').send({ studio: cabin() }).expect(201);
  const print = { id: things.job, owner: bosun.id, name: 'Lantern Room', state: 'queued' as const };
  const songs = [{ session: things.session, name: 'Lantern Room', revision: 1 }];
  await db.getRepository(JobRow).insert({ ...print, message: '', songs, request: [chain(-20)] });
  things.upload = await idOf(as(bosun, 'post', '/uploads').send({ name: 'choir.wav', size: 10 }));
  things.trashed = await idOf(as(bosun, 'post', '/sessions').send({ name: 'Gone' }));
  await as(bosun, 'delete', `/sessions/${things.trashed}`).expect(204);
  const made: PackMade = {
    presets: [things.preset],
    setups: [],
    sessions: [],
    presetVersions: [],
    setupVersions: [],
    back: [],
  };
  await db.getRepository(PackTakenRow).insert({ id: things.taken, owner: bosun.id, name: 'A pack', made });
  const to = (person: Signed, right: string, thing?: string) =>
    as(bosun, 'put', '/shares')
      .send({ person: person.id, kind: thing ? 'session' : 'shelf', right, ...(thing ? { thing } : {}) })
      .expect(200);
  await to(helm, 'add');
  await to(helm, 'edit', things.session);
  const { body } = await to(reader, 'read');
  // that of the reader: who else asks for it has no part in it
  things.share = (body as Shares).given.find((g) => g.person.id === reader.id)!.id;
});
afterAll(() => stop());

const codeOf = (r: request.Response) => (r.body as Partial<ProblemBody>).code;

test('the first account has what was here before; another begins with an empty shelf', async () => {
  expect(bosun.id).toBe('owner');
  const { body } = await as(helm, 'get', '/presets').expect(200);
  expect((body as { items: unknown[] }).items).toEqual([]);
  expect((await accounts(db)).map((a) => a.name)).toEqual(['bosun', 'helm', 'purser', 'reader']);
});

/** Every operation that the server has, with a body that is readable. */
const OPERATIONS = (() => {
  const { paths } = JSON.parse(readFileSync('docs/schema/openapi.json', 'utf8')) as {
    paths: Record<string, Record<string, unknown>>;
  };
  return Object.entries(paths).flatMap(([path, methods]) =>
    Object.keys(methods).map((method) => [method as Method, path.replace('/api', '')] as const),
  );
})();
const OPEN = new Set(['get /health', 'get /openapi.json', 'post /sign-in']);
test.each(OPERATIONS)('as nobody: %s %s', async (method, path) => {
  const r = await request(app)[method](`/api${filled(path)}`);
  if (OPEN.has(`${method} ${path}`)) expect(r.status).not.toBe(401);
  else expect([r.status, codeOf(r)]).toEqual([401, 'sign-in-needed']);
});

/** A path with ids of what the first account has. */
function filled(path: string): string {
  const [, of] = OF.find(([start]) => path.startsWith(start)) ?? [];
  return path
    .replace('{id}', of ? things[of] : 'nothing')
    .replace('{version}', '1')
    .replace('{revision}', '1')
    .replace('{kind}', 'session')
    .replace('{name}', 'device:compressor')
    .replace(/\{\w+\}/g, '0');
}
/** What the ids of a path are of. */
const OF: readonly (readonly [start: string, keyof typeof things])[] = [
  ['/presets/{id}', 'preset'],
  ['/packs/of/{id}', 'preset'],
  ['/packs/taken/{id}', 'taken'],
  ['/sessions/{id}', 'session'],
  ['/drops/of/{id}', 'session'],
  ['/drops/{id}', 'drop'],
  ['/setups/{id}', 'setup'],
  ['/jobs/{id}', 'job'],
  ['/uploads/{id}', 'upload'],
  ['/trash/{kind}/{id}', 'trashed'],
  ['/shares/{id}', 'share'],
];
/** What would do something, where it were let in. */
const BODIES: Record<string, () => object> = {
  'post /presets/{id}/versions': () => ({ preset: strip('shanty', -31) }),
  'patch /presets/{id}': () => ({ name: 'Taken over' }),
  'post /presets/{id}/merge': () => ({ others: ['another'], as: 'versions' }),
  'post /presets/{id}/update': () => ({ sessions: [things.session] }),
  'patch /sessions/{id}': () => [{ op: 'replace', path: '/note', value: 'Taken over' }],
  'put /sessions/{id}/folder': () => ({ folder: 'Taken over' }),
  'post /setups/{id}/versions': () => ({ studio: { ...cabin(), name: 'Taken over' } }),
};
/** Asks for it as somebody, based on the first version. */
const tried = (who: Signed, method: Method, path: string, body: object) => {
  const isPiece = method === 'put' && path.startsWith('/uploads');
  const to = filled(path) + (isPiece ? '?at=0' : '');
  const r = as(who, method, to).set('If-Match', '"1"');
  return isPiece ? r.type('application/octet-stream').send(Buffer.alloc(10)) : r.send(body);
};

/** What somebody may do with things of another account; all else says that it is not there, or not theirs. */
const MAY: Record<'reader' | 'member', Set<string>> = {
  reader: new Set([
    'get /presets/{id}',
    'get /presets/{id}/versions/{version}',
    'get /presets/{id}/tags',
    'get /presets/{id}/likeness',
    'get /packs/of/{id}',
    'get /packs/of/{id}/json',
    'get /setups/{id}',
    'get /setups/{id}/versions/{version}',
  ]),
  member: new Set([
    'get /presets/{id}',
    'get /presets/{id}/versions/{version}',
    'get /presets/{id}/tags',
    'get /presets/{id}/likeness',
    'post /presets/{id}/versions',
    'get /packs/of/{id}',
    'get /packs/of/{id}/json',
    'get /setups/{id}',
    'get /setups/{id}/versions/{version}',
    'get /sessions/{id}',
    'patch /sessions/{id}',
    'post /sessions/{id}/opened',
    'get /sessions/{id}/events',
    'post /sessions/{id}/here',
    'get /sessions/{id}/history',
    'get /sessions/{id}/history/{revision}',
    'get /sessions/{id}/export',
    'get /sessions/{id}/export/notes',
    'get /sessions/{id}/recall.pdf',
    'get /drops/of/{id}',
    'get /drops/{id}',
  ]),
};
/** Operations that name a thing of the first account. */
const OF_THINGS = OPERATIONS.filter(([, path]) => OF.some(([start]) => path.startsWith(start)));
const STREAM = '/sessions/{id}/events';
/** Whoever is shared a shelf or a session with sees these, and is told whose they are; all else is not found. */
const SEEN = {
  reader: /^\/(presets|packs\/of|setups)/,
  member: /^\/(presets|packs\/of|setups|sessions|drops)/,
};
const bodyOf = (method: Method, path: string) => BODIES[`${method} ${path}`]?.() ?? {};

test('every path with an id is tried', () => {
  const own = ['/media/{id}', '/backups/{name}', '/defaults/{name}', '/searches/{name}'];
  const paths = new Set(OPERATIONS.map(([, path]) => path).filter((path) => path.includes('{')));
  const left = [...paths].filter((path) => !OF_THINGS.some(([, of]) => of === path));
  expect(left.sort()).toEqual(own.sort());
});

test.each(OF_THINGS)('as another account: %s %s is not found, and nothing is done', async (method, path) => {
  const before = await everything();
  const r = await tried(purser, method, path, bodyOf(method, path));
  // lists of what has an id may answer that there is nothing
  if (r.status === 200) expect(r.body).toEqual([]);
  else expect([r.status, codeOf(r)]).toEqual([404, 'not-found']);
  expect(await everything()).toEqual(before);
});

test.each((['reader', 'member'] as const).flatMap((who) => OF_THINGS.map(([m, p]) => [who, m, p] as const)))(
  'as %s: %s %s is allowed or not as the table says',
  async (who, method, path) => {
    const person = who === 'reader' ? reader : helm;
    // they stay open, and are tried by themselves; shares are theirs to end, too
    if (path === STREAM || path === '/shares/{id}') return;
    if (MAY[who].has(`${method} ${path}`)) {
      expect([401, 403, 404]).not.toContain((await tried(person, method, path, {})).status);
      return;
    }
    const before = await everything();
    const r = await tried(person, method, path, bodyOf(method, path));
    if (SEEN[who].test(path)) expect([r.status, codeOf(r)]).toEqual([403, 'not-yours']);
    else if (r.status === 200) expect(r.body).toEqual([]);
    else expect([r.status, codeOf(r)]).toEqual([404, 'not-found']);
    expect(await everything()).toEqual(before);
  },
);

/** What names things of the first account in its body, or none at all. */
const IN_BODIES: [Method, path: string, body: () => object][] = [
  ['delete', '/trash', () => ({})],
  ['post', '/presets', () => ({ preset: strip('shanty', -31) })],
  ['post', '/setups', () => ({ studio: { ...cabin(), name: 'Taken over' } })],
  ['post', '/sessions', () => ({ name: 'Copy', copyOf: things.session })],
  ['post', '/sessions', () => ({ name: 'Start', preset: things.preset })],
  ['post', '/jobs', () => ({ songs: [{ session: things.session }] })],
  ['post', '/packs', () => ({ presets: [things.preset], sessions: [things.session] })],
  ['post', '/packs/look', () => ({ upload: '0'.repeat(64) })],
  ['post', '/presets/many', () => ({ ids: [things.preset], category: 'Taken over' })],
  [
    'put',
    '/presets/many',
    () => [{ id: things.preset, category: 'X', colour: 'rope', pinned: true, tags: [] }],
  ],
  ['post', '/presets/many/delete', () => ({ ids: [things.preset] })],
  ['post', '/presets/many/restore', () => ({ ids: [things.preset] })],
  ['put', '/defaults/track:audio', () => ({ preset: things.preset })],
  ['put', '/shares', () => ({ person: helm.id, kind: 'session', thing: things.session, right: 'edit' })],
  [
    'post',
    '/drops',
    () => ({ id: 'new-drop', session: things.session, preset: 'shanty', version: 1, record: {} }),
  ],
];
test.each(IN_BODIES)(
  'as another account: %s %s with ids of the first one changes nothing of it',
  async (method, path, body) => {
    const mine = () => db.query('SELECT id, session, record FROM drop_record WHERE owner = ?', [bosun.id]);
    const before = [await everything(), await mine()];
    const r = await as(purser, method, path).send(body());
    expect(r.status).not.toBe(500);
    expect(JSON.stringify(r.body)).not.toContain('Lantern Room');
    expect([await everything(), await mine()]).toEqual(before);
  },
);
test('a drop of another session is not written over, whoever knows its id', async () => {
  const own = await as(helm, 'post', '/sessions').send({ name: 'Mine' }).expect(201);
  const { id: session } = own.body as { id: string };
  const drop = { id: things.drop, session, preset: 'x', version: 1, record: { theirs: true } };
  const r = await as(helm, 'post', '/drops').send(drop);
  expect([r.status, codeOf(r)]).toEqual([409, 'exists']);
});

/** What the first account has, and that it is as it was. */
const everything = async (): Promise<unknown> => {
  const tables = {
    preset: 'id, name, category, colour, currentVersion, deletedAt, pinned',
    session: 'id, name, revision, folder, deletedAt',
    setup: 'id, name, currentVersion, deletedAt',
    job: 'id, state',
    upload: 'id, received',
    share: 'id',
    pack_taken: 'id',
    default_setting: 'name, value',
  };
  const read = Object.entries(tables).map(([table, columns]) =>
    db.query(`SELECT ${columns} FROM \`${table}\` WHERE owner = ? ORDER BY 1`, [bosun.id]),
  );
  return Promise.all(read);
};

test('lists, trash, prints, sounds, defaults and backups of others are not told', async () => {
  await as(bosun, 'put', '/searches/mine')
    .send({ search: { q: 'rope' } })
    .expect(204);
  const wav = writeWav([new Float32Array(480).fill(0.1)], 48000, 24);
  await as(bosun, 'post', '/media?name=choir.wav').type('audio/wav').send(Buffer.from(wav)).expect(201);
  for (const path of ['/sessions', '/trash', '/jobs', '/media', '/defaults', '/searches', '/setups']) {
    const { body } = await as(purser, 'get', path).expect(200);
    const list = (body as { items?: unknown[] }).items ?? (body as unknown[]);
    expect([path, Array.isArray(list) ? list : Object.keys(list as object)]).toEqual([path, []]);
  }
  // a shelf that is not shared looks like the own one
  const { body } = await as(purser, 'get', `/presets?of=${bosun.id}`).expect(200);
  expect((body as { items: unknown[] }).items).toEqual([]);
  // the same sound sent by another is in the list of both
  await as(helm, 'post', '/media?name=mine.wav').type('audio/wav').send(Buffer.from(wav)).expect(201);
  const names = async (who: Signed) =>
    ((await as(who, 'get', '/media').expect(200)).body as { name: string }[]).map((m) => m.name);
  expect([await names(bosun), await names(helm), await names(purser)]).toEqual([
    ['choir.wav'],
    ['mine.wav'],
    [],
  ]);
});

test('a shelf that is shared: read with its own lists; versions by who may add them, and who did', async () => {
  const list = await as(reader, 'get', `/presets?of=${bosun.id}`).expect(200);
  expect((list.body as { items: { id: string }[] }).items.map((p) => p.id)).toEqual(['shanty']);
  const facets = await as(reader, 'get', `/presets/facets?of=${bosun.id}`).expect(200);
  expect((facets.body as Facets).tags).toEqual([{ name: 'warm', n: 1 }]);
  const current = await as(reader, 'post', '/presets/current')
    .send({ ids: ['shanty'] })
    .expect(200);
  expect(Object.keys(current.body as object)).toEqual(['shanty']);
  expect((await as(purser, 'post', '/presets/current').send({ ids: ['shanty'] })).body).toEqual({});

  const next = { preset: strip('shanty', -30) };
  const refused = await as(reader, 'post', '/presets/shanty/versions').set('If-Match', '"1"').send(next);
  expect([refused.status, (refused.body as ProblemBody).detail]).toEqual([
    403,
    expect.stringMatching(/shelf of bosun.*Put a copy on your own shelf/),
  ]);
  await as(helm, 'post', '/presets/shanty/versions').set('If-Match', '"1"').send(next).expect(201);
  const detail = (await as(reader, 'get', '/presets/shanty').expect(200)).body as PresetDetail;
  expect(detail.versions.map((v) => v.by)).toEqual(['helm', 'bosun']);
  expect([detail.owner.name, detail.right]).toEqual(['bosun', 'read']);
  // a session of one's own from it
  const own = await as(reader, 'post', '/sessions').send({ name: 'Mine', preset: 'shanty' }).expect(201);
  await as(bosun, 'get', `/sessions/${(own.body as { id: string }).id}`).expect(404);
});

test('a session that is shared: both change it, and the history says who', async () => {
  const read = async (who: Signed) =>
    (await as(who, 'get', `/sessions/${things.session}`).expect(200)).body as SessionOpened;
  const change = async (who: Signed, note: string) => {
    const { revision } = await read(who);
    await as(who, 'patch', `/sessions/${things.session}`)
      .set('If-Match', `"${revision}"`)
      .type('application/json-patch+json')
      .send(JSON.stringify([{ op: 'replace', path: '/note', value: note }]))
      .expect(200);
  };
  await change(helm, 'from the helm');
  await change(bosun, 'from the bosun');
  const opened = await as(helm, 'get', `/sessions/${things.session}`);
  expect(opened.headers['cache-control']).toBe('no-store');
  const list = await as(helm, 'get', '/sessions');
  expect([list.headers['cache-control'], list.headers.vary]).toEqual([
    'private, no-cache',
    expect.stringMatching(/Cookie/),
  ]);
  const { document, owner } = await read(helm);
  expect([document.note, owner.name]).toEqual(['from the bosun', 'bosun']);
  const history = (await as(bosun, 'get', `/sessions/${things.session}/history`)).body as { by: string }[];
  expect(history.slice(0, 2).map((h) => h.by)).toEqual(['bosun', 'helm']);
  // it is printed by whoever works on it, and the print is theirs
  const { got } = (await as(helm, 'get', '/shares').expect(200)).body as Shares;
  expect(got.map((s) => [s.kind, s.right, s.name])).toEqual([
    ['shelf', 'add', ''],
    ['session', 'edit', 'Lantern Room'],
  ]);
});

test('an open stream ends with the sharing, and with the sign-in', async () => {
  const server = app.listen(0, '127.0.0.1');
  await once(server, 'listening');
  const { port } = server.address() as AddressInfo;
  const guest = await signIn('purser');
  const share = { person: guest.id, kind: 'session', thing: things.session, right: 'edit' };
  const shares = (await as(bosun, 'put', '/shares').send(share).expect(200)).body as Shares;
  const { id } = shares.given.find((g) => g.person.id === guest.id)!;
  const other = await signIn('helm');
  const opened = async (who: Signed) => {
    const to = `http://127.0.0.1:${port}/api/sessions/${things.session}/events`;
    const answer = await fetch(to, { headers: { cookie: who.cookie } });
    expect(answer.status).toBe(200);
    return answer;
  };
  const streams = await Promise.all([opened(guest), opened(other)]);
  await as(bosun, 'delete', `/shares/${id}`).expect(204);
  await as(other, 'post', '/sign-out').expect(204);
  // each is read to its end
  await Promise.all(streams.map((stream) => stream.text()));
  server.closeAllConnections();
  server.close();
});

test('a share ends: by who gave it, or who got it, and by nobody else', async () => {
  const { got } = (await as(reader, 'get', '/shares')).body as Shares;
  await as(purser, 'delete', `/shares/${got[0].id}`).expect(404);
  await as(reader, 'delete', `/shares/${got[0].id}`).expect(204);
  await as(reader, 'get', '/presets/shanty').expect(404);
  // what is another's is not shared on
  const onward = { person: purser.id, kind: 'session', thing: things.session, right: 'edit' };
  await as(helm, 'put', '/shares').send(onward).expect(404);
});

test('a pack of another account on the same server comes in as one’s own, and twice is once', async () => {
  const file = await as(bosun, 'get', '/packs/of/shanty').buffer(true).parse(binary).expect(200);
  const take = async () => {
    const bytes = file.body as Buffer;
    const upload = await as(purser, 'post', '/uploads').send({ name: 'x.ropeshelf.zip', size: bytes.length });
    const { id } = upload.body as { id: string };
    await as(purser, 'put', `/uploads/${id}?at=0`).type('application/octet-stream').send(bytes).expect(200);
    const taken = await as(purser, 'post', '/packs/take').send({ upload: id }).expect(201);
    return (taken.body as { items: { fate: string }[] }).items.map((i) => i.fate);
  };
  expect(await take()).toEqual(['new']);
  expect(await take()).toEqual(['same']);
  const { items } = (await as(purser, 'get', '/presets').expect(200)).body as { items: { name: string }[] };
  expect(items.map((i) => i.name)).toEqual(['shanty']);
  const demo = await as(purser, 'post', '/packs/demo').expect(201);
  const fates = new Set((demo.body as { items: { fate: string }[] }).items.map((i) => i.fate));
  expect([...fates]).toEqual(['new']);
  await as(helm, 'post', '/packs/demo').expect(201);
  const mine = (await as(helm, 'get', '/sessions').expect(200)).body as { items: { id: string }[] };
  for (const { id } of mine.items) await as(helm, 'get', `/sessions/${id}`).expect(200);
});
const binary = (res: request.Response, done: (e: Error | null, body: Buffer) => void) => {
  const parts: Buffer[] = [];
  (res as unknown as NodeJS.ReadableStream)
    .on('data', (part: Buffer) => parts.push(part))
    .on('end', () => done(null, Buffer.concat(parts)));
};

describe('signing in (OWASP ASVS 4.0, chapters 2 and 3)', () => {
  test('passwords: hashed with their own salt, long enough, not among those guessed first', async () => {
    const [one, two] = [await hashedPassword(PASSWORD), await hashedPassword(PASSWORD)];
    expect(one).not.toBe(two);
    expect(one).not.toContain(PASSWORD);
    expect([await isPassword(PASSWORD, one), await isPassword(`${PASSWORD} `, one)]).toEqual([true, false]);
    for (const bad of ['short', 'elevenchars', 'unbelievable', 'x'.repeat(129)]) {
      expect([bad, passwordProblem(bad, 'helm')]).toEqual([bad, expect.any(String)]);
    }
    for (const good of [PASSWORD, 'ночь над морем', '🌊'.repeat(12), 'x'.repeat(128)]) {
      expect([good, passwordProblem(good, 'helm')]).toEqual([good, null]);
    }
  });

  test('the cookie is for this server alone; behind TLS it never goes without', async () => {
    const plain = await request(app).post('/api/sign-in').send({ name: 'helm', password: PASSWORD });
    expect(plain.headers['set-cookie'][0]).toMatch(
      /^rope-shelf=[\w-]{43}; .*Path=\/.*; HttpOnly; SameSite=Strict$/,
    );
    const { app: behind } = makeApp(db, { signIn: true, proxies: ['loopback'] });
    const tls = await request(behind)
      .post('/api/sign-in')
      .set('X-Forwarded-Proto', 'https')
      .send({ name: 'helm', password: PASSWORD });
    expect(tls.headers['set-cookie'][0]).toMatch(/^__Host-rope-shelf=.*; HttpOnly; Secure; SameSite=Strict$/);
    // nobody is believed who is no such proxy
    const forged = await request(app)
      .post('/api/sign-in')
      .set('X-Forwarded-Proto', 'https')
      .send({ name: 'helm', password: PASSWORD });
    expect(forged.headers['set-cookie'][0]).not.toMatch(/Secure/);
  });

  test('signing out ends one browser, or all; another password ends the others', async () => {
    const [one, two] = [await signIn('helm'), await signIn('helm')];
    await as(one, 'post', '/sign-out').expect(204);
    await as(one, 'get', '/me').expect(401);
    await as(two, 'get', '/me').expect(200);
    await as(two, 'post', '/sign-out-everywhere').expect(204);
    await as(two, 'get', '/me').expect(401);
    await as(helm, 'get', '/me').expect(401);
    helm = await signIn('helm');
    const other = await signIn('helm');
    await as(other, 'post', '/password')
      .send({ old: 'wrong old password', password: 'x'.repeat(12) })
      .expect(401);
    await as(other, 'post', '/password').send({ old: PASSWORD, password: 'short' }).expect(400);
    const changed = await as(other, 'post', '/password')
      .send({ old: PASSWORD, password: 'ten ropes and a bell' })
      .expect(200);
    await as(helm, 'get', '/me').expect(401);
    await as(other, 'get', '/me').expect(401);
    const now = { id: helm.id, cookie: changed.headers['set-cookie'][0].split(';')[0] };
    await as(now, 'get', '/me').expect(200);
    await setPassword(db, 'helm', PASSWORD);
    await as(now, 'get', '/me').expect(401);
    helm = await signIn('helm');
  });

  test('a sign-in is over after 30 days; a closed account is nobody’s, and opens again with what it had', async () => {
    const old = await signIn('reader');
    await db.query('UPDATE sign_in SET createdAt = NOW() - INTERVAL 31 DAY WHERE person = ?', [old.id]);
    await as(old, 'get', '/me').expect(401);
    const fresh = await signIn('reader');
    await closeAccount(db, 'reader');
    await as(fresh, 'get', '/me').expect(401);
    const refused = await request(app).post('/api/sign-in').send({ name: 'reader', password: PASSWORD });
    expect([refused.status, codeOf(refused)]).toEqual([401, 'sign-in-refused']);
    expect((await addAccount(db, 'reader', PASSWORD)).id).toBe(old.id);
  });

  test('tries are counted for an account and an address, by all processes together: too many wait, whatever the password', async () => {
    const processes = [1, 2].map(() => makeApp(db, { signIn: true }).app);
    let n = 0;
    const attempt = (password: string) =>
      request(processes[n++ % 2])
        .post('/api/sign-in')
        .send({ name: 'purser', password });
    await db.query('DELETE FROM sign_in_try');
    // a right one does not count
    await attempt(PASSWORD).expect(200);
    const wrong = await Promise.all(Array.from({ length: 25 }, () => attempt('not the password')));
    const statuses = wrong.map((r) => r.status).sort();
    expect([statuses[0], statuses.filter((s) => s === 401).length]).toEqual([401, 20]);
    const late = await attempt(PASSWORD);
    expect([late.status, codeOf(late)]).toEqual([429, 'too-many-tries']);
    expect(Number(late.headers['retry-after'])).toBeGreaterThan(60);
    // a start anew forgets none of it; when the time is over, it is cleared out
    const again = makeApp(db, { signIn: true }).app;
    await request(again).post('/api/sign-in').send({ name: 'purser', password: PASSWORD }).expect(429);
    await tidy(db, new Date(Date.now() + 3_700_000));
    expect(await db.query('SELECT * FROM sign_in_try')).toEqual([]);
    await attempt(PASSWORD).expect(200);
  });

  test('with nobody to sign in, there is one account and no way in', async () => {
    const { app: alone } = makeApp(db);
    const { body } = await request(alone).get('/api/me').expect(200);
    expect([(body as Me).signIn, (body as Me).person.id]).toEqual([false, 'owner']);
    await request(alone).post('/api/sign-in').send({ name: 'helm', password: PASSWORD }).expect(404);
  });
});
