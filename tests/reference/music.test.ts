/**
 * Tempo and key against sounds whose tempo and key are known, published profiles and scales, and another
 * program.
 */
import MusicTempo from 'music-tempo';
import { chroma, measureKey, measureSound, measureTempo, readWav, renderNow } from '../../core/index.ts';
import { makeDemo } from '../../demo/index.ts';
import { noise, sine } from '../support/build.ts';

const FS = 48000;
const { exp, round, sin, PI, log2, abs } = Math;
/** Clicks of decaying noise on every beat, every fourth one stronger, a soft one between. */
function clicks(bpm: number, seconds = 16, fs = FS): Float32Array {
  const x = new Float32Array(seconds * fs);
  const n = noise(0.1, 0.5, 3, fs);
  for (let k = 0; k * 30 < seconds * bpm; k++) {
    const at = round((k * 30 * fs) / bpm);
    const g = [1, 0.2, 0.6, 0.2, 0.6, 0.2, 0.6, 0.2][k % 8];
    for (let i = 0; i < n.length && at + i < x.length; i++) x[at + i] += g * n[i] * exp(-i / (0.02 * fs));
  }
  return x;
}
/** Notes of some partials one after the other, each a third of a second. */
const tune = (notes: number[][], fs = FS): Float32Array => {
  const len = round(fs / 3);
  const x = new Float32Array(len * notes.length);
  notes.forEach((chord, k) => {
    for (const note of chord) {
      for (let h = 1; h <= 4; h++) {
        const f = 440 * 2 ** ((note - 69) / 12) * h;
        for (let i = 0; i < len; i++) {
          x[k * len + i] += (0.1 / h) * sin((2 * PI * f * i) / fs) * exp(-i / (0.4 * fs));
        }
      }
    }
  });
  return x;
};

test.each([60, 74, 96, 113.5, 132, 174])('a tempo of %d bpm is found within a fifth of a bpm', (bpm) => {
  const t = measureTempo(clicks(bpm), FS)!;
  expect([t.bpm, ...t.others].some((b) => abs(b - bpm) < 0.2)).toBe(true);
  // near the pace at which people tap, it is told itself and not its double or half
  if (bpm > 90 && bpm < 170) expect(abs(t.bpm - bpm)).toBeLessThan(0.2);
  expect(t.clear).toBeGreaterThan(0.3);
});

test('another program finds the same tempo, as far as both agree on what a beat is', () => {
  for (const bpm of [90, 120, 140]) {
    const x = clicks(bpm);
    const theirs = Number(new MusicTempo(Array.from(x), { hopSize: 480, timeStep: 0.01 }).tempo);
    const ours = measureTempo(x, FS)!.bpm;
    const apart = log2(ours / theirs);
    expect(abs(apart - round(apart))).toBeLessThan(0.03);
  }
});

test('nothing that repeats has no tempo; nothing with a pitch has no key', () => {
  expect(measureTempo(new Float32Array(6 * FS), FS)).toBeNull();
  expect(measureTempo(clicks(100, 3), FS)).toBeNull();
  expect(measureTempo(noise(8), FS)?.clear ?? 0).toBeLessThan(0.3);
  expect(measureKey(new Float32Array(FS), FS)).toBeNull();
});

test('pitch classes by equal temperament (ISO 16): a tone counts for its own class', () => {
  for (const [f, at] of [
    [440, 9],
    [261.63, 0],
    [311.13, 3],
    [1479.98, 6],
  ]) {
    const c = chroma(sine(f, 0.3, 1), FS);
    expect(c.indexOf(1)).toBe(at);
    expect([...c].filter((v) => v > 0.2)).toHaveLength(1);
  }
});

test('a cadence in each of the 24 keys is heard as that key (profiles: Krumhansl 1990)', () => {
  for (let tonic = 0; tonic < 12; tonic++) {
    for (const mode of ['major', 'minor'] as const) {
      const third = mode === 'major' ? 4 : 3;
      const base = 48 + tonic;
      // tonic, subdominant, dominant with its leading note, tonic (harmonic minor)
      const chords = [
        [0, third, 7],
        [5, 5 + third, 12],
        [7, 11, 14],
        [0, third, 7],
        [0, third, 7, 12],
      ].map((c) => c.map((n) => base + n));
      const k = measureKey(tune(chords), FS)!;
      expect([k.tonic, k.mode]).toEqual([tonic, mode]);
      expect(k.clear).toBeGreaterThan(k.next);
    }
  }
});

test('the demo’s songs are measured as they were made; levels by definition', () => {
  const demo = makeDemo();
  for (const [i, bpm, tonic, mode] of [
    [0, 96, 2, 'minor'],
    [1, 132, 7, 'major'],
  ] as const) {
    const { session, media } = demo.sessions[i];
    const sounds = new Map(
      [...media].map(([id, bytes]) => {
        const w = readWav(bytes);
        return [id, { l: w.channels[0], r: w.channels[1] ?? w.channels[0] }];
      }),
    );
    const [l, r] = renderNow(session, { sounds }).master;
    const f = measureSound(l, r, session.sampleRate);
    expect([f.key!.tonic, f.key!.mode]).toEqual([tonic, mode]);
    expect([f.tempo!.bpm, ...f.tempo!.others].some((b) => abs(b - bpm) < 0.5)).toBe(true);
    expect(f.truePeak).toBeGreaterThanOrEqual(f.peak - 0.01);
  }
  // a sine: crest 3.01 dB, −3.01 dB RMS below its peak
  const s = measureSound(sine(997, 0.5, 5), sine(997, 0.5, 5), FS);
  expect([s.peak, s.rms, s.crest].map((v) => round(v * 100) / 100)).toEqual([-6.02, -9.03, 3.01]);
  expect(s.loudness).toBeCloseTo(-6.02, 1);
});
