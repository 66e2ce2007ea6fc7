/** Files of any size: sent in pieces, cut off and gone on with; in and out again byte for byte. */
import { execFileSync } from 'node:child_process';
import { mkdtempSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { Express } from 'express';
import request from 'supertest';
import type { DataSource } from 'typeorm';
import type { Imported, Notes, Upload } from '../../contract/index.ts';
import { createSession, createTrack, readZip, sha256Hex, writeWav, type MediaRef } from '../../core/index.ts';
import { MediaChunkRow, MediaRow, UploadRow } from '../../server/db/entities.ts';
import { tidy } from '../../server/db/tidy.ts';
import { noise } from '../support/build.ts';
import { startApi } from '../support/server.ts';

const MIB = 1024 * 1024;
let app: Express;
let db: DataSource;
let stop: () => Promise<void>;
beforeAll(async () => {
  ({ app, db, stop } = await startApi('ropeshelf_files'));
});
afterAll(() => stop());

const begin = async (name: string, size: number): Promise<Upload> =>
  (await request(app).post('/api/uploads').send({ name, size }).expect(201)).body as Upload;
const put = (id: string, at: number, bytes: Uint8Array) =>
  request(app)
    .put(`/api/uploads/${id}?at=${at}`)
    .set('Content-Type', 'application/octet-stream')
    .send(Buffer.from(bytes));
/** Sends a file piece by piece. */
async function sent(name: string, bytes: Uint8Array): Promise<string> {
  const { id, piece } = await begin(name, bytes.length);
  for (let at = 0; at < bytes.length; at += piece) {
    await put(id, at, bytes.subarray(at, at + piece)).expect(200);
  }
  return id;
}
const bodyOf = async (path: string): Promise<Buffer> =>
  (await request(app).get(path).buffer(true).parse(binary).expect(200)).body as Buffer;
function binary(res: unknown, done: (e: Error | null, bytes: Buffer) => void): void {
  const from = res as NodeJS.ReadableStream;
  const parts: Buffer[] = [];
  from.on('data', (part: Buffer) => parts.push(part));
  from.on('end', () => done(null, Buffer.concat(parts)));
}
const SOUND = writeWav([noise(70, 0.2, 1), noise(70, 0.2, 2)], 48000, 24);

test('a sound in pieces is the sound; a piece that comes twice or too early does nothing', async () => {
  const { id, piece } = await begin('bell.wav', SOUND.length);
  expect(SOUND.length).toBeGreaterThan(2 * piece);
  const early = await put(id, piece, SOUND.subarray(piece, 2 * piece)).expect(409);
  expect(early.body).toMatchObject({ code: 'upload-place', received: 0 });
  await request(app).post(`/api/media?upload=${id}`).expect(400);
  await put(id, 0, SOUND.subarray(0, piece)).expect(200);
  // its answer was lost: it is sent again
  const again = await put(id, 0, SOUND.subarray(0, piece)).expect(200);
  expect((again.body as Upload).received).toBe(piece);
  await put(id, piece, SOUND.subarray(piece, piece + 1000)).expect(400);
  await put(id, piece, SOUND.subarray(piece, piece + MIB)).expect(200);
  const { received } = (await request(app).get(`/api/uploads/${id}`).expect(200)).body as Upload;
  expect(received).toBe(piece + MIB);
  for (let at = received; at < SOUND.length; at += piece) {
    await put(id, at, SOUND.subarray(at, at + piece)).expect(200);
  }
  const ref = (await request(app).post(`/api/media?upload=${id}`).expect(201)).body as MediaRef;
  expect(ref).toEqual({
    id: sha256Hex(SOUND),
    name: 'bell.wav',
    sampleRate: 48000,
    channels: 2,
    frames: 70 * 48000,
  });
  expect((await bodyOf(`/api/media/${ref.id}`)).equals(Buffer.from(SOUND))).toBe(true);
  await request(app).get(`/api/uploads/${id}`).expect(404);
  // the same again is kept once
  const second = await sent('again.wav', SOUND);
  await request(app).post(`/api/media?upload=${second}`).expect(201);
  expect(await db.getRepository(MediaChunkRow).countBy({ media: ref.id })).toBe(
    Math.ceil(SOUND.length / MIB),
  );
  expect(await db.getRepository(MediaChunkRow).countBy({ media: second })).toBe(0);
});

test('what is no sound is refused and stays to be let go of; what is called off or left is cleared away', async () => {
  const broken = await sent('broken.wav', SOUND.subarray(0, 9 * MIB));
  const { body } = await request(app).post(`/api/media?upload=${broken}`).expect(422);
  expect((body as { detail: string }).detail).toMatch(/broken\.wav.*cut short/);
  await request(app).delete(`/api/uploads/${broken}`).expect(204);
  const left = await sent('left.wav', SOUND.subarray(0, MIB));
  await db.getRepository(UploadRow).update({ id: left }, { createdAt: new Date(Date.now() - 2 * 86400e3) });
  await tidy(db);
  for (const id of [broken, left]) {
    await request(app).get(`/api/uploads/${id}`).expect(404);
    expect(await db.getRepository(MediaChunkRow).countBy({ media: id })).toBe(0);
  }
  await request(app).post('/api/uploads').send({ name: 'x', size: 65e9 }).expect(400);
  await request(app).post('/api/media?upload=none').expect(400);
});

/** A session of some sounds, exported and imported again. */
async function session(name: string): Promise<string> {
  const { id: media } = (
    await request(app).post('/api/media?name=bell.wav').send(Buffer.from(SOUND)).expect(201)
  ).body as MediaRef;
  const ref: MediaRef = { id: media, name: 'bell.wav', sampleRate: 48000, channels: 2, frames: 70 * 48000 };
  const clip = { id: 'c1', media, start: 0, offset: 0, length: 70, gain: 0 };
  const line = createTrack('audio', { id: 'bell', name: 'Bell', clips: [clip] });
  const { id } = (await request(app).post('/api/sessions').send({ name }).expect(201)).body as { id: string };
  const document = createSession({ name, tracks: [line, createTrack('master', { id: 'm' })], media: [ref] });
  await request(app)
    .patch(`/api/sessions/${id}`)
    .set('Content-Type', 'application/json-patch+json')
    .set('If-Match', '1')
    .send([
      { op: 'replace', path: '/tracks', value: document.tracks },
      { op: 'replace', path: '/media', value: document.media },
    ])
    .expect(200);
  return id;
}

test('out, in by pieces, out again: the sound is stored as it is, and nothing changes; its sounds are read once', async () => {
  const id = await session('Bell watch');
  const out = await bodyOf(`/api/sessions/${id}/export`);
  expect(sha256Hex(readZip(out, 'out')['audio/bell.wav'])).toBe(sha256Hex(SOUND));
  const folder = mkdtempSync(join(tmpdir(), 'rope-shelf-files-'));
  writeFileSync(join(folder, 'out.zip'), out);
  // Info-ZIP: packing of each entry, and whether it is whole
  expect(execFileSync('unzip', ['-v', join(folder, 'out.zip')]).toString()).toMatch(
    /Stored.*audio\/bell\.wav/,
  );
  execFileSync('unzip', ['-tq', join(folder, 'out.zip')]);
  const upload = await sent('Bell watch.dawproject', out);
  const { body } = await request(app).post(`/api/sessions/import?upload=${upload}`).expect(201);
  const source = await db
    .createQueryBuilder(MediaRow, 'm')
    .addSelect('m.sounds')
    .where({ id: sha256Hex(out) })
    .getOneOrFail();
  expect(source.sounds).toMatchObject({ 'audio/bell.wav': { id: sha256Hex(SOUND) } });
  const again = (body as Imported).id;
  expect((await bodyOf(`/api/sessions/${again}/export`)).equals(out)).toBe(true);
  const { notes } = (await request(app).get(`/api/sessions/${again}/export/notes`).expect(200)).body as Notes;
  expect(notes).toEqual(
    ((await request(app).get(`/api/sessions/${id}/export/notes`).expect(200)).body as Notes).notes,
  );
});
