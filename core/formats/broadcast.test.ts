import { execFileSync } from 'node:child_process';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import {
  MemoryStore,
  gainFor,
  gainsTogether,
  integratedLoudness,
  namesBy,
  planPrint,
  printFiles,
  printStems,
  readBroadcastExtension,
  readWav,
  stemsBy,
  truePeak,
  writeBroadcastWav,
  type BroadcastOptions,
  type PrintLevel,
} from '../index.ts';
import { Quantiser } from './quantise.ts';
import { clipOf, db, noise, rms, sessionWith, sine, toneAt } from '../../tests/support/build.ts';

const OPTIONS: BroadcastOptions = {
  sampleRate: 48000,
  bits: 24,
  dither: 'triangular',
  cues: [
    { at: 4800, name: 'Verse' },
    { at: 9600, name: 'Refrain – louder' },
  ],
  extension: {
    description: 'Kelp and Copper: Voices',
    originator: 'Rope Shelf',
    reference: 'KELP-0001',
    date: '2026-03-04',
    time: '12:34:56',
    timeReference: 2 ** 33 + 17,
    loudness: -23.04,
    range: 6.5,
    truePeak: -1.02,
    momentary: -18.2,
    shortTerm: null,
    history: 'A=PCM,F=48000,W=24,M=stereo,T=printed\r\n',
  },
};

test('the extension is read back field by field, by us and by an independent reader (ffprobe)', () => {
  const bytes = writeBroadcastWav([sine(440, 0.5, 0.5), sine(660, 0.5, 0.5)], OPTIONS);
  expect(readBroadcastExtension(bytes)).toEqual(OPTIONS.extension);
  const wav = readWav(bytes);
  expect([wav.bits, wav.channels.length, wav.channels[0].length]).toEqual([24, 2, 24000]);
  const folder = mkdtempSync(join(tmpdir(), 'rope-shelf-bext-'));
  try {
    const file = join(folder, 'a.wav');
    writeFileSync(file, bytes);
    const asked = ['-v', 'error', '-show_format', '-show_streams', '-show_chapters', '-of', 'json', file];
    const found = JSON.parse(execFileSync('ffprobe', asked, { encoding: 'utf8' })) as {
      format: { tags: Record<string, string> };
      streams: { codec_name: string; sample_rate: string; channels: number }[];
    };
    expect(found.streams[0]).toMatchObject({ codec_name: 'pcm_s24le', sample_rate: '48000', channels: 2 });
    expect(found.format.tags).toMatchObject({
      comment: 'Kelp and Copper: Voices',
      encoded_by: 'Rope Shelf',
      originator_reference: 'KELP-0001',
      date: '2026-03-04',
      creation_time: '12:34:56',
      time_reference: String(2 ** 33 + 17),
      coding_history: OPTIONS.extension.history,
    });
  } finally {
    rmSync(folder, { recursive: true });
  }
});

test('what is cut short is told by its place; a file without the extension has none', () => {
  const bytes = writeBroadcastWav([sine(440, 0.5, 0.1)], OPTIONS);
  expect(() => readBroadcastExtension(bytes.subarray(0, 300))).toThrow(
    expect.objectContaining({ place: 'offset 12' }) as Error,
  );
  expect(() => readBroadcastExtension(new Uint8Array(20))).toThrow('not a WAV');
  expect(readBroadcastExtension(bytes.subarray(0, 12))).toBeNull();
});

test('dither takes the harmonics of a quiet tone away: noise in their place, as low as the theory says', () => {
  // a tone of −90 dBFS at 16 bit: little more than one step; without dither it is a stair
  const [f, seconds] = [1000, 4];
  const tone = sine(f, 10 ** (-90 / 20), seconds);
  const written = (dither: BroadcastOptions['dither']) =>
    readWav(writeBroadcastWav([tone], { ...OPTIONS, bits: 16, dither, cues: [] })).channels[0];
  const harmonic = (x: Float32Array, k: number) => db(toneAt(x, k * f));
  const bare = written('none');
  const soft = written('triangular');
  expect(harmonic(bare, 3)).toBeGreaterThan(-115);
  for (const k of [2, 3, 5, 7]) expect(harmonic(soft, k)).toBeLessThan(-128);
  expect(harmonic(soft, 1)).toBeCloseTo(-90, 0);
  // triangular of two steps and rounding: three times the power of rounding, q²/4, so −96.3 dBFS RMS
  const error = soft.map((v, i) => v - tone[i]);
  expect(db(rms(error))).toBeCloseTo(20 * Math.log10(2 ** -15 / 2), 0);
  // shaped, there is less of it where it is heard most (3 kHz) and more in the highs
  const shaped = written('shaped').map((v, i) => v - tone[i]);
  const at = (x: Float32Array, hz: number) => {
    let power = 0;
    for (let k = 0; k < 40; k++) power += toneAt(x, hz + 7 * k) ** 2;
    return 10 * Math.log10(power);
  };
  expect(at(shaped, 3000)).toBeLessThan(at(error, 3000) - 6);
  expect(at(shaped, 20000)).toBeGreaterThan(at(error, 20000) + 6);
});

test('full scale is held, the same sound gives the same numbers, silence stays within the dither', () => {
  const held = new Quantiser(16, 'none', 1).block(Float32Array.of(2, -2, 0.5));
  expect([...held]).toEqual([32767, -32768, 16384]);
  const list = (seed: number) => [...new Quantiser(16, 'triangular', seed).block(new Float32Array(50))];
  expect(list(1)).toEqual(list(1));
  expect(Math.max(...list(1).map(Math.abs))).toBeLessThanOrEqual(1);
});

test('names are safe on every file system, never twice, and fields that are empty leave no gap', () => {
  const field = (stem: string) => ({ nn: 1, song: 'A/B: “C”', stem, bpm: 96, key: '', date: '2026-01-02' });
  const { names, collided } = namesBy('{nn} {song} {stem} {bpm}bpm {key}', [
    field('Voices'),
    field('voices'),
    field('CON'),
    field('x'.repeat(300)),
  ]);
  expect(names[0]).toBe('01 A B “C” Voices 96bpm');
  expect(names[1]).toBe('01 A B “C” voices 96bpm (2)');
  expect(collided).toEqual(['01 A B “C” voices 96bpm']);
  expect(names[3].length).toBeLessThanOrEqual(120);
  expect(namesBy('{stem}', [field('aux.'), field('. .')]).names).toEqual(['aux_', 'untitled']);
});

test('levels by one gain for all: to a peak, to a loudness, never over the ceiling; mono where both sides are one', async () => {
  const s = sessionWith([
    { id: 'a', name: 'A', clips: [clipOf('x', 4)] },
    { id: 'b', name: 'B', clips: [clipOf('y', 4)], level: -6 },
  ]);
  const [l, r, once] = [1, 2, 3].map((seed) => noise(4, 0.1, seed));
  const sounds = new Map([
    ['x', { l, r }],
    ['y', { l: once, r: once }],
  ]);
  const at = async (level: PrintLevel) => {
    const store = new MemoryStore();
    const plan = { ...planPrint(s), stems: stemsBy(s, 'line'), level };
    const { files } = await printFiles(s, plan, { sounds, store, at: new Date('2026-03-04T12:00:00Z') });
    return { files, bytes: files.map((f) => store.files.get(f.name)!) };
  };
  const soundOf = (bytes: Uint8Array) => readWav(bytes).channels;
  const peaked = await at({ kind: 'peak', ceiling: -1 });
  expect(Math.max(...peaked.files.map((f) => f.loudness.truePeak))).toBeCloseTo(-1, 5);
  for (const f of peaked.files) expect(f.loudness.truePeak).toBeLessThanOrEqual(-1 + 1e-9);
  const loud = await at({ kind: 'loudness', target: -23, ceiling: -1 });
  expect(integratedLoudness(soundOf(loud.bytes[0]), 48000)).toBeCloseTo(-23, 1);
  expect(readBroadcastExtension(loud.bytes[0])!.loudness).toBeCloseTo(-23, 1);
  expect(loud.files.map((f) => [f.name, f.channels, f.size])).toEqual([
    ['01 Untitled session Mix.wav', 2, loud.bytes[0].length],
    ['02 Untitled session A.wav', 2, loud.bytes[1].length],
    ['03 Untitled session B.wav', 1, loud.bytes[2].length],
  ]);
  expect(loud.files[0].outline.some((x) => x > 0)).toBe(true);
  const own = await at({ kind: 'as it is' });
  const { mix } = await printStems(s, { ...planPrint(s), stems: [] }, { sounds });
  expect(truePeak(soundOf(own.bytes[0]), 48000)).toBeCloseTo(truePeak([mix!.l, mix!.r], 48000), 2);
  // a ceiling that would be broken holds the gain back
  expect(gainFor({ kind: 'loudness', target: 0, ceiling: -1 }, { integrated: -20 }, -6)).toBe(5);
});

test('several songs come to one loudness: the target, or what the one with the least room allows', () => {
  const songs = [
    { integrated: -20, loudest: -3 },
    { integrated: -30, loudest: -4 },
    { integrated: -Infinity, loudest: -Infinity },
  ];
  expect(gainsTogether(songs, { target: -28, ceiling: -1 })).toEqual([-8, 2, 0]);
  // the second one reaches −27 LUFS under −1 dBTP
  expect(gainsTogether(songs, { target: -14, ceiling: -1 })).toEqual([-7, 3, 0]);
});
