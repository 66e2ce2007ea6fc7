/**
 * Pitch devices on a sung test tone. Independent check of the pitch: the registry’s “pitchy” (McLeod pitch
 * method). Equal temperament with A4 = 440 Hz (ISO 16), a semitone is 2^(1/12).
 */
import { PitchDetector } from 'pitchy';
import { DEVICE_TYPES, type Params } from '../../core/index.ts';
import { PitchTracker } from '../../core/devices/pitch.ts';
import { nearestNote, SCALES } from '../../core/devices/pitchcorrect.ts';
import { db, noise, rms, runDevice, toneAt } from '../support/build.ts';

const { PI, abs, cos, exp, log2, sin } = Math;

/** A sung tone: harmonics under two formants (700 and 1100 Hz: an open vowel), with a little breath. */
function sung(f0: number | ((t: number) => number), seconds = 1.5, breath = 0): Float32Array {
  const out = new Float32Array(seconds * 48000);
  const air = noise(seconds, breath, 5);
  let phase = 0;
  for (let i = 0; i < out.length; i++) {
    const f = typeof f0 === 'number' ? f0 : f0(i / 48000);
    phase += (2 * PI * f) / 48000;
    let s = 0;
    for (let k = 1; k * f < 6000; k++) {
      s +=
        (sin(k * phase) *
          (0.06 + exp(-(((k * f - 700) / 180) ** 2)) + 0.7 * exp(-(((k * f - 1100) / 220) ** 2)))) /
        (1 + k * 0.05);
    }
    out[i] = 0.15 * s + air[i];
  }
  return out;
}
const heard = (x: Float32Array, from: number): number =>
  PitchDetector.forFloat32Array(8192).findPitch(x.subarray(from, from + 8192), 48000)[0];
const cents = (a: number, b: number) => 1200 * log2(a / b);
const correct = (over: Params = {}): Params => ({ ...DEVICE_TYPES.pitchcorrect.defaults, ...over });
const shift = (over: Params = {}): Params => ({ ...DEVICE_TYPES.pitchshift.defaults, ...over });
/** What is not at a multiple of the tone, against what is: the cost of splices and grains in dB. */
function dirt(x: Float32Array, f: number, from: number): number {
  const n = 24000;
  const rest = Float64Array.from(
    x.subarray(from, from + n),
    (v, i) => v * (0.5 - 0.5 * cos((2 * PI * i) / n)),
  );
  let tone = 0;
  let all = 0;
  for (const v of rest) all += v * v;
  // energy within ±12 Hz of each harmonic, from bins 2 Hz apart of a Hann-windowed DFT (each bin's energy is
  // |X|² ÷ n, the window spreads it over 3)
  for (let k = 1; k * f < 7000; k++) {
    for (let b = -6; b <= 6; b++) {
      const w = (2 * PI * (Math.round((k * f) / 2) * 2 + b * 2)) / 48000;
      const c = cos(w);
      const s = sin(w);
      let re = 0;
      let im = 0;
      let u = 1;
      let v = 0;
      for (let i = 0; i < n; i++) {
        re += rest[i] * u;
        im += rest[i] * v;
        const t = u * c - v * s;
        v = u * s + v * c;
        u = t;
      }
      tone += (2 * (re * re + im * im)) / n;
    }
  }
  return 10 * Math.log10(Math.max(1e-12, (all - tone) / tone));
}

test.each([82.4, 146.8, 220, 440, 783])('the tracker finds %f Hz within 2 cents', (f) => {
  const t = new PitchTracker(48000);
  for (const v of sung(f, 0.3, 0.004)) t.push(v);
  expect(abs(cents(t.frequency, f))).toBeLessThan(2);
});

test('breath alone has no pitch', () => {
  const t = new PitchTracker(48000);
  let voiced = 0;
  for (const v of noise(0.5, 0.2, 9)) if (t.push(v) && t.frequency > 0) voiced++;
  expect(voiced).toBeLessThan(6);
});

test.each([
  [31, 220],
  [-38, 146.83],
  [44, 330],
])('correction: %i cents beside the note %f Hz is within 5 cents after settling', (off, note) => {
  const out = runDevice('pitchcorrect', correct({ speed: 30 }), sung(note * 2 ** (off / 1200), 1.5, 0.003));
  for (const from of [30000, 50000]) expect(abs(cents(heard(out, from), note))).toBeLessThan(5);
  expect(dirt(out, note, 40000)).toBeLessThan(-26);
});

test('key and scale decide which note; amount leaves a share; vibrato slower than the speed is pulled in', () => {
  // 60 cents over C♯4 (C major: between C4 and D4) goes to D4, 20 under C♯4 to C4; the note that is held
  // keeps a pitch just over the boundary
  expect(nearestNote(61.6, 0, SCALES.major.steps)).toBe(62);
  expect(nearestNote(60.8, 0, SCALES.major.steps)).toBe(60);
  expect(nearestNote(61.6, 0, SCALES.major.steps, 60)).toBe(62);
  expect(nearestNote(61.1, 0, SCALES.major.steps, 60)).toBe(60);
  const half = runDevice('pitchcorrect', correct({ amount: 50, speed: 10 }), sung(220 * 2 ** (40 / 1200)));
  expect(cents(heard(half, 40000), 220)).toBeCloseTo(20, -1);
  const wobble = sung((t) => 220 * 2 ** ((35 * sin(2 * PI * 1.5 * t)) / 1200), 2.5);
  const still = runDevice('pitchcorrect', correct({ speed: 0 }), wobble);
  const spread = (x: Float32Array) => {
    const c = Array.from({ length: 12 }, (_, i) =>
      cents(
        PitchDetector.forFloat32Array(4096).findPitch(
          x.subarray(36000 + i * 6000, 40096 + i * 6000),
          48000,
        )[0],
        220,
      ),
    );
    return Math.max(...c) - Math.min(...c);
  };
  expect(spread(wobble)).toBeGreaterThan(50);
  expect(spread(still)).toBeLessThan(25);
});

describe.each(['move', 'keep'])('shift, formants %s', (formants) => {
  test.each([-12, -5, -1, 1, 4, 7, 12])('%i semitones within 5 cents, without tearing', (semitones) => {
    const f = 196;
    const out = runDevice('pitchshift', shift({ semitones, formants }), sung(f, 1.6, 0.002));
    const want = f * 2 ** (semitones / 12);
    expect(abs(cents(heard(out, 40000), want))).toBeLessThan(5);
    expect(dirt(out, want, 36000)).toBeLessThan(-20);
    // no holes: the level of every 20 ms stays near the mean
    const all = rms(out, 24000, 72000);
    for (let at = 24000; at < 70000; at += 960) {
      expect(abs(db(rms(out, at, at + 960) / all))).toBeLessThan(4.5);
    }
  });
});

test('formants stay where they are or move along: the loudest harmonics of an octave up', () => {
  const at = (out: Float32Array, f: number) => toneAt(out, f, 48000, 36000, 60000);
  const x = sung(175, 1.5);
  const kept = runDevice('pitchshift', shift({ semitones: 12, formants: 'keep' }), x);
  const moved = runDevice('pitchshift', shift({ semitones: 12 }), x);
  // harmonics of 350 Hz: the second lies on the first formant (700 Hz), the fourth where it would move to
  // (1400 Hz)
  expect(db(at(kept, 700) / at(kept, 1400))).toBeGreaterThan(6);
  expect(db(at(moved, 700) / at(moved, 1400))).toBeLessThan(-3);
});

test('at zero the sound is only late, by the latency that is reported', () => {
  const x = sung(200, 0.5, 0.01);
  for (const [type, params] of [
    ['pitchshift', shift()],
    ['pitchcorrect', correct({ amount: 0 })],
  ] as const) {
    const out = runDevice(type, params, x);
    for (let i = 9000; i < 20000; i += 7) expect(out[i]).toBeCloseTo(x[i], 5);
  }
});

describe('a first formant at twice the note (M. Mauch, S. Dixon, ICASSP 2014: a path through the candidates)', () => {
  /** A voice: harmonics of a glottal pulse (−6 dB/oct at the lips) through resonances, with jitter and noise. */
  function voice(f0: number, formants: number[][], { jitter = 0, dirt: level = 0 } = {}): Float32Array {
    const gains = Array.from({ length: Math.floor(7000 / f0) }, (_, k) =>
      formants.reduce(
        (g, [f, b]) => (g * f * f) / Math.hypot(f * f - ((k + 1) * f0) ** 2, b * (k + 1) * f0),
        1 / (k + 1),
      ),
    );
    const chance = noise(0.4, 1, Math.round(f0));
    const out = new Float32Array(0.3 * 48000);
    let phase = 0;
    let bend = 0;
    for (let i = 0; i < out.length; i++) {
      if (phase > 2 * PI) {
        phase -= 2 * PI;
        bend = jitter * chance[i];
      }
      phase += (2 * PI * f0 * (1 + bend)) / 48000;
      gains.forEach((g, k) => (out[i] += g * sin((k + 1) * phase)));
    }
    const loud = rms(out);
    return out.map(
      (v, i) => (0.15 * v) / loud + 0.15 * level * Math.sqrt(3) * chance[(i * 7) % chance.length],
    );
  }
  const forms = (f: number) => [
    [
      [2 * f, 60],
      [1400, 100],
      [2600, 150],
    ],
    [
      [2.06 * f, 80],
      [2100, 120],
      [2900, 180],
    ],
    [
      [700, 90],
      [1150, 100],
      [2600, 160],
    ],
    [
      [3 * f, 90],
      [1700, 120],
      [2600, 160],
    ],
  ];
  /** share of the estimates that are more than three semitones off */
  function wrong(way: 'first' | 'path', over = {}): number {
    let [off, all] = [0, 0];
    for (let f = 150; f <= 450; f += 11.3) {
      for (const formants of forms(f)) {
        const t = new PitchTracker(48000, 65, 1000, 256, way);
        voice(f, formants, over).forEach((v, i) => {
          if (!t.push(v) || i < 3000) return;
          all++;
          if (t.frequency === 0 || abs(cents(t.frequency, f)) > 300) off++;
        });
      }
    }
    return off / all;
  }
  test('under 0.3 % of the estimates are off; the first deep dip alone was off far more often', () => {
    expect(wrong('path')).toBeLessThan(0.003);
    expect(wrong('first')).toBeGreaterThan(0.03);
  });
  test('with jitter of 1 % and noise 20 dB down, under 1 %', () => {
    expect(wrong('path', { jitter: 0.01, dirt: 0.1 })).toBeLessThan(0.01);
  });
  test('a leap of an octave that is sung is followed within 40 ms', () => {
    const t = new PitchTracker(48000);
    let phase = 0;
    let there = 0;
    for (let i = 0; i < 48000; i++) {
      phase += (2 * PI * (i < 24000 ? 220 : 440)) / 48000;
      let s = 0;
      for (let k = 1; k < 16; k++) s += sin(k * phase) / k;
      if (t.push(0.1 * s) && !there && i > 24000 && abs(cents(t.frequency, 440)) < 20) there = i;
    }
    expect(there - 24000).toBeLessThan(0.04 * 48000);
  });
});

describe('formants that stay, without a shift', () => {
  const still = shift({ formants: 'keep', semitones: 0, cents: 0 });
  const x = sung((t) => 180 + 60 * t, 2, 0.01);
  test('nothing is changed: it nulls under −60 dB, and half a mix does not comb', () => {
    const y = runDevice('pitchshift', still, x);
    const rest = y.map((v, i) => v - x[i]).subarray(9600);
    expect(db(rms(rest) / rms(x))).toBeLessThan(-60);
    const half = runDevice('pitchshift', { ...still, mix: 50 }, x).map((v, i) => v - x[i]);
    expect(db(rms(half.subarray(9600)) / rms(x))).toBeLessThan(-60);
  });
  test.each([-7, -4, 3, 5, 9])('%i semitones: the formants keep their shape', (semitones) => {
    // the same voice at the other pitch is what it is to become; both by their harmonics to 5 kHz, in dB
    const ratio = 2 ** (semitones / 12);
    const wanted = sung(160 * ratio, 1.5);
    const apart = (revision: number) => {
      const y = runDevice('pitchshift', { ...still, semitones }, sung(160, 1.5), { revision });
      const count = Math.floor(5000 / (160 * ratio));
      const off = Array.from({ length: count }, (_, k) => {
        const at = (v: Float32Array) => db(toneAt(v, (k + 1) * 160 * ratio, 48000, 24000, 72000));
        return at(y) - at(wanted);
      });
      const mean = off.reduce((a, b) => a + b, 0) / count;
      return Math.hypot(...off.map((d) => d - mean)) / Math.sqrt(count);
    };
    expect(apart(3)).toBeLessThan(3.6);
    expect(apart(3)).toBeLessThan(apart(2) + 0.3);
  });
  test.each([-7, -3, 4, 7])('%i semitones: as loud within half a decibel', (semitones) => {
    const y = runDevice('pitchshift', { ...still, semitones }, sung(220, 2, 0.004));
    expect(abs(db(rms(y, 24000) / rms(sung(220, 2, 0.004), 24000)))).toBeLessThan(0.5);
  });
});
