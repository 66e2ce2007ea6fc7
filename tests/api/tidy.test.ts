/** What is cleared out in the background, and what stays: by rows with dates of their own. */
import type { Express } from 'express';
import fc from 'fast-check';
import jsonpatch from 'fast-json-patch';
import request from 'supertest';
import type { DataSource } from 'typeorm';
import { bundle } from '../../server/db/bundle.ts';
import { thin } from '../../server/db/thin.ts';
import { tidy } from '../../server/db/tidy.ts';
import { actAsOwner } from '../../server/db/acting.ts';
import { OWNER, SessionRow } from '../../server/db/entities.ts';
import { Bundles1797900000000 } from '../../server/db/migrations/0024-bundles.ts';
import { putMedia } from '../../server/db/media.ts';
import { putRevision, putSession } from '../../server/db/store.ts';
import { WITH_DOCUMENT, documentOf, writeDocument } from '../../server/db/session-document.ts';
import { withWayBack } from '../../server/work/way-back.ts';
import type { HistoryEntry, SessionDocument } from '../../contract/index.ts';
import {
  MAX_DEPTH,
  capture,
  clone,
  createDevice,
  createPreset,
  createRack,
  createSession,
  createTrack,
  validateSession,
  writeWav,
  type Session,
  type Slot,
} from '../../core/index.ts';
import { mediaRef, sessionWith, sine } from '../support/build.ts';
import { startApi } from '../support/server.ts';

let app: Express;
let db: DataSource;
let stop: () => Promise<void>;
beforeAll(async () => {
  ({ app, db, stop } = await startApi('ropeshelf_tidy'));
});
afterAll(() => stop());

const NOW = new Date('2026-06-15T12:00:00Z');
const ago = (days: number, hours = 0) => new Date(NOW.getTime() - (days * 24 + hours) * 3600 * 1000);
const count = async (sql: string, values: unknown[] = []) =>
  Number(((await db.query(`SELECT COUNT(*) AS n FROM ${sql}`, values)) as { n: string }[])[0].n);

/** Levels, names and whole lines: what people do to a session, a step at a time. */
const doing = fc.oneof(
  fc.record({ line: fc.nat(3), level: fc.integer({ min: -600, max: 60 }) }).map(({ line, level }) => {
    return (s: Session) => void (s.tracks[line % s.tracks.length].level = level / 10);
  }),
  fc.integer({ min: 40, max: 220 }).map((tempo) => (s: Session) => void (s.tempo = tempo)),
  fc.string({ minLength: 1, maxLength: 8 }).map((name) => (s: Session) => {
    const at = Math.max(0, s.tracks.length - 1);
    s.tracks.splice(at, 0, createTrack('audio', { name }));
  }),
  fc.constant((s: Session) => void (s.tracks.length > 3 && s.tracks.splice(0, 1))),
);

/** A session to which something was done at these times, and what it was after each revision. */
async function worked(id: string, times: Date[], steps: ((s: Session) => void)[]): Promise<Session[]> {
  const documents = [createSession({ tracks: [createTrack('audio'), createTrack('master')] })];
  await actAsOwner(OWNER, async () => {
    await putSession(db.manager, id, documents[0]);
    for (const [i, step] of steps.entries()) {
      const before = documents[i];
      const after = clone(before);
      step(after);
      const patch = jsonpatch.compare(before, after);
      const { next, back } = withWayBack(before, patch);
      const made = { patch, back, client: 'w', label: `Step ${i + 2}`, kind: 'do' as const };
      await putRevision(db.manager, id, i + 1, next, made);
      await db.query('UPDATE session_revision SET createdAt = ? WHERE session = ? AND revision = ?', [
        times[i],
        id,
        i + 2,
      ]);
      documents.push(next);
    }
    const last = documents.length;
    await writeDocument(db.manager, id, last, JSON.stringify(documents[last - 1]));
  });
  return documents;
}

/** All of a session's history, as its sheet asks for it. */
async function historyOf(id: string, asked = ''): Promise<HistoryEntry[]> {
  const all: HistoryEntry[] = [];
  for (let query = 'limit=7'; ;) {
    const page = (await request(app).get(`/api/sessions/${id}/history?${query}${asked}`))
      .body as HistoryEntry[];
    all.push(...page);
    const last = page.at(-1);
    if (!last) return all;
    query = `limit=7&from=${last.revision - last.steps}`;
  }
}

test('history: every step of a day, one an hour for a month, one a day: each is the session as it was', async () => {
  const hours = fc.oneof(
    fc.double({ min: 0, max: 24, noNaN: true }),
    fc.double({ min: 24, max: 60, noNaN: true }),
    fc.double({ min: 24 * 28, max: 24 * 40, noNaN: true }),
  );
  const step = fc.record({ hours, does: doing });
  let run = 0;
  await fc.assert(
    fc.asyncProperty(fc.array(step, { minLength: 5, maxLength: 40 }), async (list) => {
      const id = `h${run++}`;
      const times = list.map((x) => ago(0, x.hours)).sort((a, b) => a.getTime() - b.getTime());
      const documents = await worked(
        id,
        times,
        list.map((x) => x.does),
      );
      for (const days of [0, 0, 3, 45]) {
        const now = new Date(NOW.getTime() + days * 24 * 3600 * 1000);
        await tidy(db, now);
        await bundle(db, now, { least: { steps: 3, characters: 1e9 } });
        const entries = await historyOf(id);
        const slot = (t: Date) => {
          const age = now.getTime() - t.getTime();
          const hour = Math.floor(t.getTime() / 3600e3);
          if (age <= 24 * 3600e3) return `${t.getTime()} ${hour}`;
          return age > 30 * 24 * 3600e3 ? `day ${Math.floor(hour / 24)}` : `hour ${hour}`;
        };
        const kept = times.flatMap((t, i) => {
          const isLast = i === times.length - 1 || slot(t) !== slot(times[i + 1]);
          return isLast || now.getTime() - t.getTime() <= 24 * 3600e3 ? [i + 2] : [];
        });
        expect(entries.map((e) => e.revision).reverse()).toEqual(kept);
        expect(entries.reduce((sum, e) => sum + e.steps, 0)).toBe(list.length);
        for (const revision of [1, ...kept]) {
          const then = await request(app).get(`/api/sessions/${id}/history/${revision}`).expect(200);
          expect((then.body as SessionDocument).document).toEqual(documents[revision - 1]);
        }
        const gone = times.findIndex((_, i) => !kept.includes(i + 2));
        if (gone < 0) continue;
        const r = await request(app)
          .get(`/api/sessions/${id}/history/${gone + 2}`)
          .expect(404);
        expect(r.body.detail).toMatch(/only the end is kept\. Choose a step/);
      }
    }),
    { numRuns: 12 },
  );
});

test('history: what no document has yet is not joined; of a busy day the last 5,000 steps stay apart', async () => {
  const put = async (session: string, count: number, at: Date, written: number) => {
    await actAsOwner(OWNER, () => putSession(db.manager, session, createSession()));
    await db.query('UPDATE session SET revision = ?, written = ? WHERE id = ?', [
      count + 1,
      written,
      session,
    ]);
    const row = `(?, ?, 'owner', '', '[]', '[{"op":"replace","path":"/tempo","value":100}]', ?)`;
    for (let k = 0; k < count; k += 500) {
      const part = Array.from({ length: Math.min(500, count - k) }, (_, i) => k + i + 2);
      await db.query(
        `INSERT INTO session_revision (session, revision, owner, client, patch, back, createdAt)
         VALUES ${part.map(() => row).join(', ')}`,
        part.flatMap((revision) => [session, revision, at]),
      );
    }
  };
  await put('unwritten', 10, ago(120), 1);
  await put('busy', 5200, ago(0, 2), 5201);
  expect(await thin(db, NOW)).toBe(199);
  expect(await count(`session_revision WHERE session = 'unwritten'`)).toBe(10);
  const [first] = await db.query<{ revision: number; steps: number; back: string }[]>(
    `SELECT revision, steps, back FROM session_revision WHERE session = 'busy' ORDER BY revision LIMIT 1`,
  );
  // one value that was moved 200 times has one way back
  expect(first).toEqual({
    revision: 201,
    steps: 200,
    back: '[{"op":"replace","path":"/tempo","value":100}]',
  });
  expect((await tidy(db, NOW)).revisions).toBe(0);
});

test('history: steps that rest lie together, what is young or unwritten by itself; all is read as before', async () => {
  const line = createTrack('audio', {
    id: 'again',
    chain: ['eq', 'compressor', 'reverb'].map((type) => createDevice(type)),
  });
  const flip = (s: Session) => {
    const at = s.tracks.findIndex((t) => t.id === line.id);
    if (at < 0) s.tracks.unshift(clone(line));
    else s.tracks.splice(at, 1);
  };
  await db.query(`DELETE FROM session_revision WHERE session = 'busy'`);
  const times = Array.from({ length: 60 }, (_, i) => ago(0, i < 50 ? 1 : 0.01));
  const documents = await worked(
    'flips',
    times,
    times.map(() => flip),
  );
  const row = () =>
    db.getRepository(SessionRow).findOneOrFail({ where: { id: 'flips' }, select: WITH_DOCUMENT });
  // a reader that began before the document was written, and goes on when the steps lie together
  const late = { ...(await row()), written: 1, document: clone(documents[0]) };
  await db.query(`UPDATE session SET written = 41 WHERE id = 'flips'`);
  const before = await historyOf('flips', '&with=back');
  const bytes = async () =>
    (
      await db.query<{ n: string }[]>(
        `SELECT SUM(LENGTH(patch) + LENGTH(back) + COALESCE(LENGTH(ways), 0)) AS n FROM session_revision
          WHERE session = 'flips' AND revision <= 41`,
      )
    )[0].n;
  const loose = Number(await bytes());
  await bundle(db, NOW, { least: { steps: 40, characters: 1e9 } });
  expect(await count(`session_revision WHERE session = 'flips' AND bundle IS NULL`)).toBe(20);
  expect(loose / Number(await bytes())).toBeGreaterThan(20);
  expect(await bundle(db, NOW)).toBe(0);
  expect(await historyOf('flips', '&with=back')).toEqual(before);
  expect(await actAsOwner(OWNER, () => documentOf(db.manager, late))).toEqual(documents[60]);
  for (const revision of [1, 2, 40, 41, 42, 60]) {
    const then = await request(app).get(`/api/sessions/flips/history/${revision}`).expect(200);
    expect((then.body as SessionDocument).document).toEqual(documents[revision - 1]);
  }
  // the program before this one finds its steps where it looks for them
  const runner = db.createQueryRunner();
  await new Bundles1797900000000().down(runner);
  const rows = await db.query<{ revision: number; back: string }[]>(
    `SELECT revision, back FROM session_revision WHERE session = 'flips' ORDER BY revision DESC`,
  );
  expect(rows.map((r) => JSON.parse(r.back) as unknown)).toEqual(before.map((e) => e.back));
  await new Bundles1797900000000().up(runner);
  await runner.release();
});

test('the trash keeps for a month; sounds stay while a session, a preset or the trash speaks of them', async () => {
  const made = async (name: string) =>
    (await request(app).post('/api/sessions').send({ name })).body.id as string;
  const wav = async (f: number) =>
    (
      await actAsOwner(OWNER, () =>
        putMedia(db, Buffer.from(writeWav([sine(f, 0.1, 0.1)], 48000, 24)), `${f}.wav`, 'wav'),
      )
    ).id;
  const [kept, old, fresh] = [await made('Kept'), await made('Old'), await made('Fresh')];
  const [used, inTrash, unused, young] = [await wav(100), await wav(200), await wav(300), await wav(400)];
  const speak = (id: string, media: string) =>
    db.query(
      `UPDATE session SET document = JSON_SET(document, '$.media', JSON_ARRAY(JSON_OBJECT('id', ?))) WHERE id = ?`,
      [media, id],
    );
  await speak(kept, used);
  await speak(fresh, inTrash);
  await db.query('UPDATE media SET createdAt = ? WHERE id IN (?, ?, ?)', [ago(40), used, inTrash, unused]);
  await db.query('UPDATE media SET createdAt = ? WHERE id = ?', [ago(2), young]);
  await db.query('UPDATE session SET deletedAt = ? WHERE id = ?', [ago(31), old]);
  await db.query('UPDATE session SET deletedAt = ? WHERE id = ?', [ago(29), fresh]);
  expect(await tidy(db, NOW)).toMatchObject({ sessions: 1, sounds: 1 });
  expect(await count('session WHERE id IN (?, ?, ?)', [kept, old, fresh])).toBe(2);
  for (const id of [used, inTrash, young]) expect(await count('media_chunk WHERE media = ?', [id])).toBe(1);
  expect(await count('media_chunk WHERE media = ?', [unused])).toBe(0);
  // taking a sound in again makes it young: whoever uploads it has not saved yet
  await db.query('UPDATE media SET createdAt = ? WHERE id = ?', [ago(40), young]);
  await wav(400);
  expect((await tidy(db, NOW)).sounds).toBe(0);
});

test('racks as deep as they may be are kept, and so is the sound that the innermost device plays with', async () => {
  const { id: sound } = await actAsOwner(OWNER, () =>
    putMedia(db, Buffer.from(writeWav([sine(300, 0.1, 0.1)], 48000, 24)), 'x.wav', 'wav'),
  );
  await db.query('UPDATE media SET createdAt = ? WHERE id = ?', [ago(60), sound]);
  const innermost: Slot = createDevice('convolution', { impulse: sound });
  const chain = Array.from({ length: MAX_DEPTH }).reduce<Slot>(
    (inner) => createRack('Rack', [inner]),
    innermost,
  );
  const own = sessionWith([{ id: 'deep', name: 'Deep', chain: [chain] }], {
    media: [{ ...mediaRef(sound) }],
  });
  expect(validateSession(own)).toEqual([]);
  const preset = createPreset(capture(own, ['deep']), { id: 'deep', name: 'Deep' });
  await request(app).post('/api/presets').send({ preset }).expect(201);
  const { id } = (await request(app).post('/api/sessions').send({ name: 'Deep' }).expect(201)).body as {
    id: string;
  };
  await request(app)
    .patch(`/api/sessions/${id}`)
    .set({ 'Content-Type': 'application/json-patch+json', 'If-Match': '"1"' })
    .send(
      JSON.stringify([
        { op: 'replace', path: '/tracks', value: own.tracks },
        { op: 'replace', path: '/media', value: own.media },
      ]),
    )
    .expect(200);
  const written = async () =>
    (await db.query<{ written: number }[]>('SELECT written FROM session WHERE id = ?', [id]))[0].written;
  for (let n = 0; n < 100 && (await written()) < 2; n++) {
    await new Promise((resolve) => setTimeout(resolve, 100));
  }
  expect(await written()).toBe(2);
  await tidy(db, NOW);
  expect(await count('media WHERE id = ?', [sound])).toBe(1);
});
