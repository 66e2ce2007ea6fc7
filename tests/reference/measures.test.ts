/**
 * Measures against published values. Sources: ITU-R BS.1770-5 (the 48 kHz coefficients and −3.01 LKFS for a
 * full-scale 997 Hz sine, from memory); EBU Tech 3341 and 3342 test signals
 * (from memory); ebur128-wasm 3.0.0 as an independent program; the theory of a windowed sinc for the
 * resampler (sine residual).
 */
import { measureTake } from '../../core/measure/takes.ts';
import {
  COLOURS,
  Spectrum,
  kWeighting,
  measureLoudness,
  resample,
  rt60,
  truePeak,
} from '../../core/index.ts';
import { db, difference, noise, rms, sine } from '../support/build.ts';
import { loadEbur128 } from '../support/ebur128.ts';

const stereo = (...parts: [number, number][]) => {
  const x = Float32Array.from(
    parts.flatMap(([level, seconds]) => [...sine(1000, 10 ** (level / 20), seconds)]),
  );
  return [x, x];
};

describe('loudness', () => {
  test('K-weighting at 48 kHz is the table of BS.1770', () => {
    const [a, b] = kWeighting(48000);
    [1.53512485958697, -2.69169618940638, 1.19839281085285, -1.69065929318241, 0.73248077421585].forEach(
      (v, i) => expect(a[i]).toBeCloseTo(v, 9),
    );
    [1, -2, 1, -1.99004745483398, 0.99007225036621].forEach((v, i) => expect(b[i]).toBeCloseTo(v, 9));
  });
  test('a full-scale 997 Hz sine in one channel reads −3.01 LKFS', () => {
    expect(measureLoudness([sine(997, 1, 5), new Float32Array(240000)], 48000).integrated).toBeCloseTo(
      -3.01,
      1,
    );
  });
  test.each<[string, [number, number][], number]>([
    ['case 1', [[-23, 20]], -23],
    ['case 2', [[-33, 20]], -33],
    [
      'case 3',
      [
        [-36, 10],
        [-23, 60],
        [-36, 10],
      ],
      -23,
    ],
    [
      'case 4',
      [
        [-72, 10],
        [-36, 10],
        [-23, 60],
        [-36, 10],
        [-72, 10],
      ],
      -23,
    ],
  ])('EBU Tech 3341 %s', (_, parts, want) =>
    expect(Math.abs(measureLoudness(stereo(...parts), 48000).integrated - want)).toBeLessThan(0.1),
  );
  // case 13 of Tech 3341 (from memory): a burst as long as the window reads the same wherever it begins
  test.each([0, 7, 23, 50, 61, 88])(
    'a burst of 400 ms that begins at %i ms has its whole level as momentary maximum',
    (ms) => {
      const before = new Float32Array(48000 + ms * 48);
      const burst = sine(1000, 10 ** (-23 / 20), 0.4);
      const x = Float32Array.from([...before, ...burst, ...new Float32Array(48000)]);
      expect(Math.abs(measureLoudness([x, x], 48000).momentaryMax - -23)).toBeLessThan(0.1);
    },
  );
  test('one sample that is no number costs nothing but itself', () => {
    const [l] = stereo([-23, 10]);
    for (const bad of [NaN, Infinity]) {
      const broken = l.slice();
      broken[100_000] = bad;
      const mended = l.slice();
      mended[100_000] = 0;
      expect(measureLoudness([broken, l], 48000)).toEqual(measureLoudness([mended, l], 48000));
    }
  });
  test('an evening of sound is measured without running out of anything', () => {
    // 4 hours at a rate of 500 Hz: as many steps as 4 hours have
    const x = noise(4, 0.1, 5);
    const evening = new Float32Array(4 * 3600 * 500);
    for (let at = 0; at < evening.length; at += x.length) evening.set(x.subarray(0, evening.length - at), at);
    const measured = measureLoudness([evening], 500);
    expect(Number.isFinite(measured.momentaryMax)).toBe(true);
  });
  test.each([
    [-20, -30, 10],
    [-20, -15, 5],
    [-40, -20, 20],
  ])('EBU Tech 3342: %i then %i dBFS has a range of %i LU', (a, b, want) => {
    expect(Math.abs(measureLoudness(stereo([a, 20], [b, 20]), 48000).range - want)).toBeLessThan(1);
  });
  test.each([
    [0, 0.5],
    [45, 0.5],
  ])('true peak of a quarter-rate sine at %i° is −6.0 dBTP (+0.2/−0.4)', (deg, amp) => {
    const tp = truePeak([sine(12000, amp, 1, 48000, (deg * Math.PI) / 180)], 48000);
    expect(tp).toBeLessThan(-5.8);
    expect(tp).toBeGreaterThan(-6.4);
  });
  test('skipping stretches changes nothing: the peak of noise is that of its loudest second alone, and silence has none', () => {
    const x = noise(4, 0.2);
    x.set(noise(1, 0.9, 7), 96000);
    expect(truePeak([x], 48000)).toBeCloseTo(truePeak([x.slice(95000, 145000)], 48000), 9);
    expect(measureLoudness([new Float32Array(48000)], 48000)).toMatchObject({
      integrated: -Infinity,
      truePeak: -Infinity,
    });
  });
  test('agrees with an independent program (ebur128-wasm) on noise and tones', async () => {
    const w = await loadEbur128();
    for (const [l, r] of [
      [noise(8, 0.1), noise(8, 0.3, 9)],
      [sine(60, 0.3, 6), sine(5000, 0.05, 6)],
    ]) {
      expect(measureLoudness([l, r], 48000).integrated).toBeCloseTo(w.integrated(l, r, 48000), 1);
    }
    // its true peak is a linear amplitude by a filter of its own: within the tolerance of Tech 3341
    // (+0.2/−0.4 dB)
    for (const x of [sine(12000, 0.5, 1, 48000, Math.PI / 4), sine(997, 0.3, 1), sine(7321, 0.8, 1)]) {
      const [theirs, mine] = [w.truePeak(x, 48000), truePeak([x], 48000)];
      expect(Math.abs(mine - (theirs > 0 && theirs < 2 ? db(theirs) : theirs))).toBeLessThan(0.4);
    }
  });
});

test.each([
  [44100, 48000],
  [48000, 44100],
  [96000, 48000],
  [22050, 48000],
  [37800, 44100],
])('resampling a sine from %i to %i Hz leaves a residual under −100 dB', (from, to) => {
  const f = 3217;
  const out = resample(sine(f, 0.7, 1, from), from, to);
  const want = sine(f, 0.7, 1, to);
  const edge = Math.round(to * 0.02);
  expect(out.length).toBe(to);
  expect(db(difference(out.slice(edge, -edge), want.slice(edge, -edge)) / 0.7)).toBeLessThan(-100);
});

test('going down, what lies over half the new rate is gone', () => {
  expect(db(rms(resample(sine(30000, 0.7, 0.5, 96000), 96000, 48000), 2000, 22000))).toBeLessThan(-90);
});

test('a decay made by formula is measured as it was made, and a full-scale sine reads 0 dB in the spectrum', () => {
  const n = noise(2, 1);
  expect(
    rt60(
      n.map((v, i) => v * 10 ** ((-3 * i) / 48000 / 0.8)),
      48000,
    ),
  ).toBeCloseTo(0.8, 1);
  const s = new Spectrum(4096);
  const bins = s.analyse(sine((48000 * 100) / 4096, 1, 0.2), 0);
  expect(bins[100]).toBeCloseTo(0, 1);
  expect(bins[400]).toBeLessThan(-90);
});

test('track colours reach 3:1 against their theme (WCAG 2.2, 1.4.11)', () => {
  const lum = (h: string) =>
    [1, 3, 5]
      .map((i) => parseInt(h.slice(i, i + 2), 16) / 255)
      .map((c) => (c <= 0.04045 ? c / 12.92 : ((c + 0.055) / 1.055) ** 2.4))
      .reduce((s, c, i) => s + c * [0.2126, 0.7152, 0.0722][i], 0);
  const contrast = (a: string, b: string) => {
    const [x, y] = [lum(a), lum(b)].sort((p, q) => q - p);
    return (x + 0.05) / (y + 0.05);
  };
  for (const c of COLOURS) {
    expect(contrast(c.day, '#fbf7ef')).toBeGreaterThan(3);
    expect(contrast(c.night, '#232c3b')).toBeGreaterThan(3);
  }
});

test('a take’s level is that of its phrases, its noise floor that of its pauses (AES17: a full-scale sine has −3.01 dB RMS against its peak)', () => {
  const fs = 48000;
  const tone = sine(440, 0.1, 1);
  const hiss = noise(3, 0.002 * Math.sqrt(3), 5);
  const x = Float32Array.from(hiss, (v, i) => v + (Math.floor(i / fs) === 1 ? tone[i % fs] : 0));
  const r = measureTake(x, x, 0, x.length, fs);
  expect(r.level).toBeCloseTo(-23.01, 1);
  expect(r.floor).toBeCloseTo(-53.98, 0);
  expect(measureTake(tone, tone, 0, tone.length, fs).floor).toBeNull();
  expect(measureTake(new Float32Array(fs), new Float32Array(fs), 0, fs, fs)).toEqual({
    level: -200,
    floor: null,
  });
});
