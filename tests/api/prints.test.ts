/** Prints on the server: queued, printed by threads, called off, taken up again, sent. */
import { execFileSync, spawnSync } from 'node:child_process';
import { existsSync, mkdirSync, mkdtempSync, readdirSync, rmSync, symlinkSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import request from 'supertest';
import type { Express } from 'express';
import type { DataSource } from 'typeorm';
import type { JobDetail, JobEntry, NewJob } from '../../contract/index.ts';
import {
  MemoryStore,
  planPrint,
  printFiles,
  readBroadcastExtension,
  readWav,
  readZip,
  resample,
  stemsBy,
  writeWav,
  type MediaRef,
  type PrintPlan,
  type Session,
} from '../../core/index.ts';
import { makeApp } from '../../server/app.ts';
import { JobRow } from '../../server/db/entities.ts';
import { PrintJobs } from '../../server/jobs/prints.ts';
import { DiskStore } from '../../server/work/disk-store.ts';
import { clipOf, noise, sessionWith, sine } from '../support/build.ts';
import { loadEbur128 } from '../support/ebur128.ts';
import { startApi } from '../support/server.ts';

let db: DataSource;
let app: Express;
let jobs: PrintJobs;
let stopApi: () => Promise<void>;
let free = Infinity;
const folder = mkdtempSync(join(tmpdir(), 'rope-shelf-prints-'));

beforeAll(async () => {
  const api = await startApi('ropeshelf_prints');
  ({ db, stop: stopApi } = api);
  const disk = { folder, free: () => Promise.resolve(free) };
  ({ app, jobs } = makeApp(db, { prints: folder, disk }));
  jobs.start();
});
afterAll(async () => {
  await jobs.stop();
  await stopApi();
  rmSync(folder, { recursive: true, force: true });
});

const SECONDS = 3;
const fading = (x: Float32Array) => x.map((v, i) => v * Math.exp((-4 * i) / x.length));
/** Two lines, one at another rate than the session, with a return that rings. */
async function songOf(
  name: string,
  over: Partial<PrintPlan> = {},
  { level = 0, times = 1 } = {},
): Promise<{ id: string; doc: Session }> {
  const clips = (media: string) =>
    Array.from({ length: times }, (_, k) => ({ ...clipOf(media, SECONDS), start: k * SECONDS }));
  const upload = async (bytes: Uint8Array, file: string) =>
    (await request(app).post(`/api/media?name=${file}`).send(Buffer.from(bytes)).expect(201))
      .body as MediaRef;
  const [l, r] = [noise(SECONDS, 0.2, 1), noise(SECONDS, 0.2, 2)].map(fading);
  const wide = await upload(writeWav([l, r], 48000, 24), 'wide.wav');
  const own = await upload(writeWav([fading(sine(440, 0.3, SECONDS, 44100))], 44100, 24), 'own.wav');
  const base = sessionWith([
    { id: 'wide', name: 'Gulls', clips: clips(wide.id), level },
    { id: 'own', name: 'Whistle', channels: 1, clips: clips(own.id), level: level - 3 },
  ]);
  const doc = { ...base, name, media: [wide, own] };
  const print = { ...planPrint(doc), stems: stemsBy(doc, 'line'), tail: 1, ...over };
  const made = (await request(app).post('/api/sessions').send({ name }).expect(201)).body as { id: string };
  const was = (await request(app).get(`/api/sessions/${made.id}`)).body as {
    revision: number;
    document: Session;
  };
  const next = { ...doc, print };
  await request(app)
    .patch(`/api/sessions/${made.id}`)
    .set('If-Match', `"${was.revision}"`)
    .set('Content-Type', 'application/json-patch+json')
    .send(
      JSON.stringify([
        { op: 'replace', path: '/tracks', value: next.tracks },
        { op: 'replace', path: '/media', value: next.media },
        { op: 'add', path: '/print', value: print },
      ]),
    )
    .expect(200);
  return { id: made.id, doc: next };
}
const ask = async (body: NewJob) =>
  (await request(app).post('/api/jobs').send(body).expect(201)).body as JobEntry;
const jobNow = async (id: string) => (await request(app).get(`/api/jobs/${id}`)).body as JobDetail;
async function until(id: string, is: (job: JobDetail) => boolean): Promise<JobDetail> {
  for (let n = 0; n < 3000; n++) {
    const job = await jobNow(id);
    if (is(job)) return job;
    await new Promise((r) => setTimeout(r, 50));
  }
  throw new Error(`the print came to nothing: ${JSON.stringify(await jobNow(id))}`);
}
const ended = (job: JobDetail) => ['done', 'failed', 'cancelled'].includes(job.state);
const bytesOf = async (path: string) =>
  (await request(app).get(path).buffer().parse(binary).expect(200)).body as Buffer;
const binary = (res: request.Response, done: (e: Error | null, body: Buffer) => void) => {
  const parts: Buffer[] = [];
  const stream = res as unknown as NodeJS.ReadableStream;
  stream.on('data', (part: Buffer) => parts.push(part));
  stream.on('end', () => done(null, Buffer.concat(parts)));
};

test('a session is printed: every file is, bit for bit, what the same session gives without a server', async () => {
  const { id, doc } = await songOf('Low water');
  const { id: job, state } = await ask({ songs: [{ session: id }] });
  // the queue looks by itself too: it may have been taken in the moment between
  expect(['queued', 'running']).toContain(state);
  const done = await until(job, ended);
  expect([done.state, done.message]).toEqual(['done', '']);
  const [song] = done.printed!;
  expect(song.files.map((f) => f.name)).toEqual([
    '01 Low water Mix.wav',
    '02 Low water Gulls.wav',
    '03 Low water Whistle.wav',
  ]);
  // JSON has no −∞: nothing is left of it
  expect(song.proof).toMatchObject({ against: 'before the master', residual: null });
  const sounds = new Map(
    await Promise.all(
      doc.media.map(async (m) => {
        const wav = readWav(await bytesOf(`/api/media/${m.id}`));
        const [l, r = l] = wav.channels.map((x) =>
          wav.sampleRate === 48000 ? x : resample(x, wav.sampleRate, 48000),
        );
        return [m.id, { l, r }] as const;
      }),
    ),
  );
  const store = new MemoryStore();
  await printFiles(doc, doc.print!, { sounds, store, at: new Date(done.createdAt) });
  for (const [i, file] of song.files.entries()) {
    const bytes = await bytesOf(`/api/jobs/${job}/files/0/${i}`);
    expect(bytes.equals(store.files.get(file.name)!)).toBe(true);
    expect(bytes.length).toBe(file.size);
  }
  const zip = readZip(new Uint8Array(await bytesOf(`/api/jobs/${job}/zip`)), 'a.zip');
  expect(Object.keys(zip)).toEqual(song.files.map((f) => f.name));
  // nothing but the files stays
  expect(readdirSync(join(folder, job, '0')).sort()).toEqual(['0.wav', '1.wav', '2.wav']);
  expect(existsSync(join(folder, job, 'sounds'))).toBe(false);
  const part = await request(app).get(`/api/jobs/${job}/files/0/0`).set('Range', 'bytes=0-3').expect(206);
  expect(String(part.body)).toBe('RIFF');
});

test('the recall sheet as PDF: one page a line, fonts in it, every value and the levels of the last print to be read', async () => {
  const { id, doc } = await songOf('Low water mark');
  const { id: job } = await ask({ songs: [{ session: id }] });
  const done = await until(job, ended);
  const path = join(folder, 'sheet.pdf');
  writeFileSync(path, await bytesOf(`/api/sessions/${id}/recall.pdf`));
  const pages = execFileSync('pdftotext', ['-layout', path, '-'], { encoding: 'utf8' }).split('\f');
  doc.tracks.forEach((t, i) => expect(pages[i]).toMatch(new RegExp(`^\\s*(Low water mark[^]*)?${t.name}\n`)));
  expect(pages[0]).toMatch(/Level +0\.0 dB/);
  const [{ title, loudness }] = done.printed![0].files;
  const lufs = loudness.integrated.toFixed(1).replace('-', '−');
  expect(pages.join('\n')).toMatch(new RegExp(`${title} +${lufs} LUFS`));
  const fonts = execFileSync('pdffonts', [path], { encoding: 'utf8' }).trim().split('\n').slice(2);
  expect(fonts.every((line) => / yes yes yes /.test(line))).toBe(true);
});

test('FLAC: ffmpeg decodes it to exactly the samples of the WAV', async () => {
  const file = { ...planPrint(sessionWith([])).file, bits: 16 as const };
  const { id } = await songOf('Slack water', { file });
  const flac = await songOf('Slack water', { file: { ...file, format: 'flac' } });
  const [a, b] = [await ask({ songs: [{ session: id }] }), await ask({ songs: [{ session: flac.id }] })];
  const both = await Promise.all([until(a.id, ended), until(b.id, ended)]);
  expect(both.map((j) => j.message)).toEqual(['', '']);
  const work = mkdtempSync(join(tmpdir(), 'rope-shelf-flac-'));
  const decoded = async (job: string, i: number) => {
    const path = join(work, `${job}-${i}`);
    writeFileSync(path, await bytesOf(`/api/jobs/${job}/files/0/${i}`));
    return execFileSync('ffmpeg', ['-v', 'error', '-i', path, '-f', 's16le', '-'], { maxBuffer: 1e8 });
  };
  for (let i = 0; i < 3; i++) expect((await decoded(a.id, i)).equals(await decoded(b.id, i))).toBe(true);
  expect(both[1].printed![0].files[0].name).toBe('01 Slack water Mix.flac');
  rmSync(work, { recursive: true });
});

/** Loudness (LUFS) and true peak (dBFS) by ffmpeg’s own measure of EBU R 128. */
function ffmpegHears(path: string): { integrated: number; truePeak: number } {
  const args = ['-nostats', '-i', path, '-af', 'ebur128=peak=true', '-f', 'null', '-'];
  const text = spawnSync('ffmpeg', args, { encoding: 'utf8' }).stderr;
  const summary = text.slice(text.lastIndexOf('Summary:'));
  const figure = (name: string) => Number(new RegExp(`${name}:\\s+(-?[\\d.]+)`).exec(summary)![1]);
  return { integrated: figure('I'), truePeak: figure('Peak') };
}

test('several songs in one print come to one loudness, as ffmpeg and ebur128-wasm hear them', async () => {
  const songs = [await songOf('Flood'), await songOf('Ebb', {}, { level: -14 })];
  const { id } = await ask({
    songs: songs.map((s) => ({ session: s.id })),
    together: { target: -23, ceiling: -1 },
  });
  const done = await until(id, ended);
  expect(done.state).toBe('done');
  const work = mkdtempSync(join(tmpdir(), 'rope-shelf-loud-'));
  const ebur128 = await loadEbur128();
  for (const [i, song] of done.printed!.entries()) {
    const bytes = await bytesOf(`/api/jobs/${id}/files/${i}/0`);
    const path = join(work, `${i}.wav`);
    writeFileSync(path, bytes);
    const heard = ffmpegHears(path);
    expect(Math.abs(heard.integrated + 23)).toBeLessThanOrEqual(0.1);
    expect(heard.truePeak).toBeLessThanOrEqual(-1);
    const [left, right] = readWav(new Uint8Array(bytes)).channels;
    expect(Math.abs(ebur128.integrated(left, right, 48000) + 23)).toBeLessThanOrEqual(0.1);
    expect(readBroadcastExtension(bytes)!.loudness).toBeCloseTo(-23, 1);
    for (const f of song.files) expect(f.loudness.truePeak).toBeLessThanOrEqual(-1 + 1e-6);
  }
  const names = Object.keys(readZip(new Uint8Array(await bytesOf(`/api/jobs/${id}/zip`)), 'a.zip'));
  expect(names).toContain('Ebb/01 Ebb Mix.wav');
  rmSync(work, { recursive: true });
});

/** Long enough that something can happen while it is printed. */
const long = { times: 20 };

test('called off while it runs: it ends at once, its files are gone, the next one is printed; again, it is whole', async () => {
  const [first, next] = [await songOf('Neap', {}, long), await songOf('Spring tide')];
  const { id } = await ask({ songs: [{ session: first.id }] });
  await until(id, (job) => job.progress > 0);
  const before = Date.now();
  const { body } = await request(app).post(`/api/jobs/${id}/cancel`).expect(200);
  expect((body as JobEntry).state).toBe('cancelled');
  expect(Date.now() - before).toBeLessThan(1000);
  const after = await until((await ask({ songs: [{ session: next.id }] })).id, ended);
  expect(after.state).toBe('done');
  expect(existsSync(join(folder, id))).toBe(false);
  await request(app).get(`/api/jobs/${id}/files/0/0`).expect(404);
  await db.getRepository(JobRow).update({ id }, { request: [{ ...next.doc, print: next.doc.print }] });
  await request(app).post(`/api/jobs/${id}/again`).expect(200);
  expect((await until(id, (job) => job.state === 'done')).files).toBe(3);
  await request(app).delete(`/api/jobs/${id}`).expect(204);
  await request(app).get(`/api/jobs/${id}`).expect(404);
  expect(existsSync(join(folder, id))).toBe(false);
});

test('two at once; a session that is changed meanwhile is printed as it was when it was asked for', async () => {
  const [one, other] = [await songOf('Tide race', {}, long), await songOf('Eddy', {}, long)];
  const asked = [await ask({ songs: [{ session: one.id }] }), await ask({ songs: [{ session: other.id }] })];
  await Promise.all(asked.map(({ id }) => until(id, (job) => job.progress > 0)));
  const running = await db.getRepository(JobRow).countBy({ state: 'running' });
  expect(running).toBe(2);
  const { body: was } = await request(app).get(`/api/sessions/${one.id}`);
  const { revision, document } = was as { revision: number; document: Session };
  await request(app)
    .patch(`/api/sessions/${one.id}`)
    .set('If-Match', `"${revision}"`)
    .set('Content-Type', 'application/json-patch+json')
    .send(JSON.stringify([{ op: 'replace', path: '/tracks', value: document.tracks.slice(-1) }]))
    .expect(200);
  const done = await Promise.all(asked.map(({ id }) => until(id, ended)));
  expect(done.map((job) => [job.state, job.files, job.songs[0].revision])).toEqual([
    ['done', 3, revision],
    ['done', 3, revision],
  ]);
  expect(done.map((job) => job.printed![0].now)).toEqual([revision + 1, revision]);
  await request(app).delete(`/api/sessions/${other.id}`);
  expect((await jobNow(asked[1].id)).printed![0].now).toBeNull();
});

test('a process that is gone in the middle: another takes its print up and ends it', async () => {
  const { id: session } = await songOf('Wrack line', {}, long);
  const lost = spawnSync(process.execPath, ['-e', '']).pid;
  const { id } = await ask({ songs: [{ session }] });
  await until(id, (job) => job.state === 'running');
  // as if the process that began it had been killed: its thread ends, its name stays in the table
  const own = (await db.getRepository(JobRow).findOneByOrFail({ id })).worker!;
  await db.getRepository(JobRow).update({ id }, { worker: own.replace(/\d+$/, String(lost)) });
  const done = await until(id, ended);
  expect([done.state, done.files]).toEqual(['done', 3]);
  // one that runs, and says nothing for long
  const stuck = await ask({ songs: [{ session }] });
  await until(stuck.id, (job) => job.state === 'running');
  const beatAt = new Date(Date.now() - 180_000);
  await db.getRepository(JobRow).update({ id: stuck.id }, { worker: 'elsewhere 1', beatAt });
  expect((await until(stuck.id, ended)).state).toBe('done');
});

test('a server that stops gives back what it prints', async () => {
  const { id: session } = await songOf('Ebb tide', {}, long);
  await jobs.stop();
  const second = new PrintJobs(db, { folder, tell: () => undefined });
  const { id } = await ask({ songs: [{ session }] });
  second.start();
  await until(id, (job) => job.progress > 0);
  await second.stop();
  expect(await jobNow(id)).toMatchObject({ state: 'queued', progress: 0 });
  // what a machine that went down left behind
  mkdirSync(join(folder, 'lost.3', '0'), { recursive: true });
  jobs.start();
  expect((await until(id, ended)).state).toBe('done');
  expect(existsSync(join(folder, 'lost.3'))).toBe(false);
});

test('a full disk is told before anything is printed, and in the middle of it; a lost sound is told', async () => {
  const { id: session, doc } = await songOf('High water');
  // room for a request, none for a print
  free = 64 * 1024 * 1024 + 10_000;
  const { body } = await request(app)
    .post('/api/jobs')
    .send({ songs: [{ session }] })
    .expect(507);
  expect((body as { detail: string }).detail).toMatch(/takes up to [\d.]+ GB .* has 0\.0 GB left/);
  free = Infinity;
  const place = mkdtempSync(join(tmpdir(), 'rope-shelf-full-'));
  symlinkSync('/dev/full', join(place, '0.part'));
  expect(() => new DiskStore(place).scratch().write(new Uint8Array(8))).toThrow(/ENOSPC/);
  rmSync(place, { recursive: true });
  await db.query('DELETE FROM media_chunk WHERE media = ?', [doc.media[0].id]);
  const { id } = await ask({ songs: [{ session }] });
  const failed = await until(id, ended);
  expect([failed.state, failed.message]).toEqual([
    'failed',
    'A sound of this session is not in the database any more.',
  ]);
  expect(existsSync(join(folder, id))).toBe(false);
});

test('what cannot be printed is refused with the reason', async () => {
  const { id: session } = await songOf('Nothing', { mix: false, stems: [], versions: [] });
  const refuse = (body: object, status: number) => request(app).post('/api/jobs').send(body).expect(status);
  const { body } = await refuse({ songs: [{ session }] }, 422);
  expect((body as { detail: string }).detail).toMatch(/“Nothing”: Nothing is chosen to be printed/);
  await refuse({ songs: [] }, 400);
  await refuse({ songs: [{ session: 'gone' }] }, 404);
  await refuse({ songs: [{ session, document: { name: 'x' } }] }, 422);
});
