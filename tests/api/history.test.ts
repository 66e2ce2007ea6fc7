/** Steps of a session: kept with their words, and the session as it was after each. */
import type { Express } from 'express';
import fc from 'fast-check';
import jsonpatch, { type Operation } from 'fast-json-patch';
import request from 'supertest';
import type { HistoryEntry, SessionDocument } from '../../contract/index.ts';
import { clone, createTrack, type Session } from '../../core/index.ts';
import { withWayBack } from '../../server/work/way-back.ts';
import { startApi } from '../support/server.ts';
import { anySession } from '../support/generate.ts';
import { sessionWith } from '../support/build.ts';

let app: Express;
let stop: () => Promise<void>;
beforeAll(async () => {
  ({ app, stop } = await startApi('ropeshelf_history'));
});
afterAll(() => stop());

const read = async (path: string) =>
  (await request(app).get(`/api/sessions/${path}`).expect(200)).body as unknown;
const patch = (id: string, revision: number, ops: unknown, words = '', kind = 'do') =>
  request(app)
    .patch(`/api/sessions/${id}`)
    .set('Content-Type', 'application/json-patch+json')
    .set('If-Match', `"${revision}"`)
    .set('X-Client', 'window')
    .set('X-Step', encodeURIComponent(words))
    .set('X-Step-Kind', kind)
    .send(JSON.stringify(ops));
const started = async () =>
  (await request(app).post('/api/sessions').send({ name: 'Log', copyOf: undefined }).expect(201)).body
    .id as string;

test('each step is kept with its words, its window and its time; the session can be read as it was after any', async () => {
  const id = await started();
  const seen: Session[] = [((await read(id)) as SessionDocument).document];
  const words = ['Tempo → 96 “slow”', 'Add “Übung”', 'Undone: Add “Übung”'];
  const changes = [
    [{ op: 'replace', path: '/tempo', value: 96 }],
    jsonpatch
      .compare(seen[0], {
        ...seen[0],
        tracks: [createTrack('bus', { id: 'b', output: { kind: 'none' } }), ...seen[0].tracks],
      })
      .filter((o) => o.path !== '/tempo'),
    null,
  ];
  for (const [k, ops] of changes.entries()) {
    const now = seen.at(-1)!;
    const change = ops ?? jsonpatch.compare(now, seen[1]);
    await patch(id, k + 1, change, words[k], k === 2 ? 'undo' : 'do').expect(200);
    seen.push(((await read(id)) as SessionDocument).document);
  }
  const entries = (await read(`${id}/history`)) as HistoryEntry[];
  expect(entries.map((e) => [e.revision, e.label, e.kind, e.client])).toEqual([
    [4, words[2], 'undo', 'window'],
    [3, words[1], 'do', 'window'],
    [2, words[0], 'do', 'window'],
  ]);
  expect(entries.every((e) => Date.now() - Date.parse(e.at) < 60_000 && e.back === undefined)).toBe(true);
  for (const [k, document] of seen.entries()) {
    expect(((await read(`${id}/history/${k + 1}`)) as SessionDocument).document).toEqual(document);
  }
  const paged = (await read(`${id}/history?from=3&limit=1&with=back`)) as HistoryEntry[];
  expect(paged.map((e) => e.revision)).toEqual([3]);
  expect(jsonpatch.applyPatch(clone(seen[2]), paged[0].back as Operation[]).newDocument).toEqual(seen[1]);
});

test.each(['0', '99', 'x', '1.5', '-3'])('a revision that is not there (%s) is said', async (revision) => {
  const id = await started();
  const r = await request(app).get(`/api/sessions/${id}/history/${revision}`).expect(404);
  expect((r.body as { detail: string }).detail).toContain('does not reach back');
});

/** Nothing in it can be changed: a change that shares with it would throw. */
function frozen<T>(value: T): T {
  if (typeof value === 'object' && value !== null) Object.values(Object.freeze(value)).forEach(frozen);
  return value;
}

test('any change of any session has its way back, and leaves the session that it began from alone', () => {
  fc.assert(
    fc.property(anySession(), anySession(), (a, b) => {
      const before = frozen(clone(a));
      const ops = jsonpatch.compare(before, clone(b));
      const { next, back } = withWayBack(before, ops);
      expect(before).toEqual(clone(a));
      expect(next).toEqual(clone(b));
      expect(jsonpatch.applyPatch(next, back).newDocument).toEqual(clone(a));
    }),
    { numRuns: 60 },
  );
  // what compare does not write, but another program may: a value put over one, at the end, and into a fresh one
  const s = clone(sessionWith([{ id: 'a' }]));
  const ops: Operation[] = [
    { op: 'add', path: '/tempo', value: 99 },
    { op: 'add', path: '/media/-', value: { id: 'x', list: [] } },
    { op: 'add', path: '/media/0/list/-', value: 1 },
    { op: 'add', path: '/a~1b', value: { deep: true } },
  ];
  const kept = JSON.stringify(ops);
  const { next, back } = withWayBack(s, ops);
  expect(JSON.stringify(ops)).toBe(kept);
  expect(jsonpatch.applyPatch(next, back).newDocument).toEqual(s);
});
