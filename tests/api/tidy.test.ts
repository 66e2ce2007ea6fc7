/** What is cleared out in the background, and what stays: by rows with dates of their own. */
import type { Express } from 'express';
import request from 'supertest';
import type { DataSource } from 'typeorm';
import { tidy } from '../../server/db/tidy.ts';
import { putMedia } from '../../server/db/media.ts';
import { putSession } from '../../server/db/store.ts';
import {
  MAX_DEPTH,
  capture,
  createDevice,
  createPreset,
  createRack,
  createSession,
  validateSession,
  writeWav,
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

test('history: a quarter of a year and 5,000 steps of a session stay, the last ones', async () => {
  const put = async (session: string, revisions: [number, Date][], written: number) => {
    await putSession(db.manager, session, createSession());
    await db.query('UPDATE session SET written = ? WHERE id = ?', [written, session]);
    for (let k = 0; k < revisions.length; k += 500) {
      const part = revisions.slice(k, k + 500);
      await db.query(
        `INSERT INTO session_revision (session, revision, owner, client, patch, createdAt)
         VALUES ${part.map(() => "(?, ?, 'owner', '', '[]', ?)").join(', ')}`,
        part.flatMap(([revision, at]) => [session, revision, at]),
      );
    }
  };
  const days = [120, 91, 89, 10, 0.5];
  await put(
    's',
    days.map((day, i): [number, Date] => [i + 2, ago(day)]),
    6,
  );
  // its document does not have what its steps say: they are all that there is of it
  await put('unwritten', [[2, ago(120)]], 1);
  await put(
    'busy',
    Array.from({ length: 5200 }, (_, i): [number, Date] => [i + 2, ago(1)]),
    5201,
  );
  expect((await tidy(db, NOW)).revisions).toBe(2 + 200);
  const first = async (session: string) =>
    (
      (await db.query('SELECT MIN(revision) AS n FROM session_revision WHERE session = ?', [session])) as {
        n: number;
      }[]
    )[0].n;
  expect([await first('s'), await first('unwritten'), await first('busy')]).toEqual([4, 2, 202]);
  expect((await tidy(db, NOW)).revisions).toBe(0);
});

test('the trash keeps for a month; sounds stay while a session, a preset or the trash speaks of them', async () => {
  const made = async (name: string) =>
    (await request(app).post('/api/sessions').send({ name })).body.id as string;
  const wav = async (f: number) =>
    (await putMedia(db, Buffer.from(writeWav([sine(f, 0.1, 0.1)], 48000, 24)), `${f}.wav`, 'wav')).id;
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
  const { id: sound } = await putMedia(
    db,
    Buffer.from(writeWav([sine(300, 0.1, 0.1)], 48000, 24)),
    'x.wav',
    'wav',
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
