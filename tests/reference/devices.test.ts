/**
 * Devices against published values. Sources: R. Bristow-Johnson, Audio EQ Cookbook (W3C Note 2021); D.
 * Giannoulis, M. Massberg, J. Reiss, JAES 60(6), 2012;
 * M. R. Schroeder 1965 / ISO 3382-1 (decay); a quarter note lasts 60000 / bpm ms (common practice).
 */
import {
  DEVICE_TYPES,
  noteMs,
  renderNow,
  responseCurve,
  rt60,
  type Device,
  type Params,
} from '../../core/index.ts';
import { cookbook, sectionAt, slopeSections } from '../../core/devices/biquad.ts';
import { exp2, log2 } from '../../core/devices/math.ts';
import { staticCurve } from '../../core/devices/compressor.ts';
import {
  both,
  clipOf,
  db,
  device,
  impulse,
  noise,
  peak,
  rms,
  sessionWith,
  sine,
  toneAt,
} from '../support/build.ts';

const through = (chain: Device[], x: Float32Array, over = {}) => {
  const s = sessionWith([{ id: 'a', clips: [clipOf()], chain }], over);
  return renderNow(s, { sounds: new Map([['x', both(x)]]), to: x.length / s.sampleRate, taps: ['a:pre'] })[
    'a:pre'
  ][0];
};
const at = (s: [number, number, number, number, number], f: number) =>
  db(Math.hypot(...sectionAt(s, f, 48000)));

test('table log2 and exp2 stay within 0.0001 dB', () => {
  let worst = 0;
  for (let x = 1e-7; x < 100; x *= 1.0137) {
    worst = Math.max(worst, Math.abs(log2(x) - Math.log2(x)), Math.abs(exp2(Math.log2(x)) / x - 1));
  }
  expect(worst * 6.0206).toBeLessThan(0.0001);
});

describe('EQ (Audio EQ Cookbook)', () => {
  test('bell: the gain at the centre, none far away, coefficients by the formulas', () => {
    // worked by hand for fs 48000, f0 1000, +6 dB, Q 1: w0 = 0.1309, alpha = 0.06526, A = 1.41254
    const [b0, b1, b2, a1, a2] = cookbook('bell', 1000, 6, 1, 48000);
    const w = (2 * Math.PI * 1000) / 48000;
    const alpha = Math.sin(w) / 2;
    const A = 10 ** (6 / 40);
    const a0 = 1 + alpha / A;
    expect([b0, b1, b2, a1, a2]).toEqual([
      (1 + alpha * A) / a0,
      (-2 * Math.cos(w)) / a0,
      (1 - alpha * A) / a0,
      (-2 * Math.cos(w)) / a0,
      (1 - alpha / A) / a0,
    ]);
    expect(at(cookbook('bell', 1000, 6, 1, 48000), 1000)).toBeCloseTo(6, 6);
    expect(at(cookbook('bell', 1000, 6, 1, 48000), 20)).toBeCloseTo(0, 1);
  });
  test('shelves: half the gain in dB at the corner, all of it beyond', () => {
    expect(at(cookbook('lowShelf', 200, 8, Math.SQRT1_2, 48000), 200)).toBeCloseTo(4, 3);
    expect(at(cookbook('lowShelf', 200, 8, Math.SQRT1_2, 48000), 5)).toBeCloseTo(8, 2);
    expect(at(cookbook('highShelf', 4000, -6, Math.SQRT1_2, 48000), 4000)).toBeCloseTo(-3, 3);
    expect(at(cookbook('highShelf', 4000, -6, Math.SQRT1_2, 48000), 23900)).toBeCloseTo(-6, 2);
  });
  test.each([6, 12, 18, 24, 30, 36, 42, 48])(
    '%i dB/oct: Butterworth corner −3.01 dB and that slope an octave on',
    (slope) => {
      const sum = (f: number) =>
        slopeSections('highPass', 1000, slope, Math.SQRT1_2, 192000).reduce(
          (h, s) => h + db(Math.hypot(...sectionAt(s, f, 192000))),
          0,
        );
      expect(sum(1000)).toBeCloseTo(-3.01, 2);
      expect(sum(62.5) - sum(31.25)).toBeCloseTo(slope, 0);
    },
  );
  test('notch takes its centre out, band-pass leaves only it', () => {
    expect(at(cookbook('notch', 500, 0, 4, 48000), 500)).toBeLessThan(-100);
    expect(at(cookbook('bandPass', 500, 0, 4, 48000), 500)).toBeCloseTo(0, 6);
  });
  test('the processed sound has the computed curve', () => {
    const chain = [
      device('eq', {
        in: -2,
        'b1.on': true,
        'b1.slope': '24',
        'b1.freq': 100,
        'b4.on': true,
        'b4.gain': 7,
        'b4.q': 3,
        'b7.on': true,
        'b7.gain': -5,
      }),
    ];
    const fs = [60, 100, 700, 3000, 12000];
    const curve = responseCurve(chain, fs, 48000);
    const out = through(chain, impulse(1));
    fs.forEach((f, i) => expect(db((toneAt(out, f) * out.length) / 2)).toBeCloseTo(curve[i], 2));
  });
});

describe('Compressor (Giannoulis, Massberg, Reiss 2012)', () => {
  const p = (over: Params = {}): Params => ({
    ...DEVICE_TYPES.compressor.defaults,
    threshold: -20,
    ratio: 4,
    knee: 0,
    attack: 5,
    release: 100,
    ...over,
  });
  test('static curve: −8 dB in at threshold −20 and 4:1 gives −17 dB; ∞:1 holds the threshold; the knee is eq. 4', () => {
    expect(staticCurve(-8, p())).toBe(-17);
    expect(staticCurve(0, p({ ratio: 100 }))).toBe(-20);
    expect(staticCurve(-20, p({ knee: 10 }))).toBeCloseTo(-20 + (-0.75 * 25) / 20, 10);
    expect(staticCurve(-31, p({ knee: 10 }))).toBe(-31);
  });
  test.each([
    [-8, 4, 0],
    [-14, 2, 6],
    [-2, 100, 12],
  ])('a steady tone of %i dB at %i:1, knee %i settles on the curve', (level, ratio, knee) => {
    // a square wave has one level, so a peak detector settles exactly
    const x = Float32Array.from(
      { length: 96000 },
      (_, i) => (Math.floor(i / 50) % 2 ? 1 : -1) * 10 ** (level / 20),
    );
    const out = through([device('compressor', p({ ratio, knee }))], x);
    expect(db(Math.abs(out[95000]))).toBeCloseTo(staticCurve(level, p({ ratio, knee })), 2);
  });
  test('attack and release are time constants: 63 % of the way in the given time', () => {
    const x = Float32Array.from({ length: 96000 }, (_, i) => {
      if (i < 24000) return 0.01;
      if (i < 48000) return 1;
      return 0.01;
    });
    const out = through([device('compressor', p({ attack: 20, release: 150 }))], x);
    const reduction = (i: number) => db(Math.abs(out[i] / x[i]));
    expect(reduction(47000)).toBeCloseTo(-15, 1);
    expect(reduction(24000 + 960)).toBeCloseTo(-15 * (1 - Math.exp(-1)), 1);
    expect(reduction(48000 + 7200)).toBeCloseTo(-15 * Math.exp(-1), 1);
  });
  test('lookahead, mix, link and the key filter do what they say', () => {
    const tone = sine(100, 0.9, 1);
    expect(DEVICE_TYPES.compressor.latency(p({ lookahead: 5 }), 48000)).toBe(240);
    expect(rms(through([device('compressor', p({ threshold: -40, mix: 0 }))], tone))).toBeCloseTo(
      rms(tone),
      5,
    );
    const filtered = through(
      [device('compressor', p({ threshold: -30, ratio: 100, keyFilter: true, keyLow: 2000 }))],
      tone,
    );
    expect(db(rms(filtered, 24000) / rms(tone, 24000))).toBeGreaterThan(-0.5);
    const s = sessionWith([
      { id: 'a', clips: [clipOf()], chain: [device('compressor', p({ threshold: -40, link: 0 }))] },
    ]);
    const out = renderNow(s, {
      sounds: new Map([['x', { l: sine(500, 0.9, 1), r: sine(500, 0.005, 1) }]]),
      to: 1,
    }).master;
    expect(db(rms(out[1], 24000)) - db(0.005 / Math.SQRT2)).toBeCloseTo(0, 1);
    expect(db(rms(out[0], 24000)) - db(0.9 / Math.SQRT2)).toBeLessThan(-15);
  });
});

describe('Delay', () => {
  test.each([
    ['1/4', 500],
    ['1/4d', 750],
    ['1/4t', 333.333],
    ['1/8', 250],
    ['1/1', 2000],
  ])('%s at 120 bpm is %d ms', (note, ms) => expect(noteMs(note, 120)).toBeCloseTo(ms, 2));
  const taps = (params: Params) =>
    through([device('delay', { lowCut: 16, highCut: 24000, ...params })], impulse(2), { tempo: 120 });
  test('echoes fall on their times and fade by the feedback', () => {
    const out = taps({ note: '1/8', feedback: 50 });
    const near = (i: number) => peak(out.slice(i - 3, i + 4));
    expect(near(12000)).toBeGreaterThan(0.6);
    expect(db(near(24000) / near(12000))).toBeCloseTo(-6.02, 0);
    expect(peak(out.slice(100, 11900))).toBeLessThan(0.01);
  });
  test('a note lasts as long as the tempo makes it, also when it grows while something rings', () => {
    const ring = new Float32Array(48000 * 25);
    ring[0] = 1;
    const chain = [device('delay', { mode: 'note', note: '1/1d', feedback: 0, highCut: 24000, lowCut: 16 })];
    const slow = through(chain, ring, { tempo: 15 });
    expect(slow.findIndex((v) => Math.abs(v) > 0.1) / 48000).toBeCloseTo(24, 3);
    const delay = DEVICE_TYPES.delay.create(
      { ...chain[0].params, mode: 'ms', time: 100 },
      {
        sampleRate: 48000,
        maxBlock: 4800,
        tempo: 15,
      },
    );
    const block = () => [new Float64Array(4800), new Float64Array(4800)] as const;
    const first = block();
    first[0][0] = 1;
    delay.process(...first, 4800, ...first);
    delay.set({ ...chain[0].params, mode: 'note', note: '1/1' }, false);
    const next = block();
    delay.process(...next, 4800, ...next);
    expect(peak(new Float32Array(next[0]))).toBeGreaterThan(0.5);
  });
  test('ping-pong alternates the sides', () => {
    const s = sessionWith([
      {
        id: 'a',
        clips: [clipOf()],
        chain: [device('delay', { mode: 'ms', time: 100, feedback: 60, pingPong: true })],
      },
    ]);
    const [l, r] = renderNow(s, { sounds: new Map([['x', both(impulse(1))]]), to: 0.5 }).master;
    const near = (x: Float32Array, i: number) => peak(x.slice(i, i + 40));
    expect(near(l, 4800)).toBeGreaterThan(5 * near(r, 4800));
    expect(near(r, 9600)).toBeGreaterThan(5 * near(l, 9600));
  });
});

describe('Reverb (backward integration, ISO 3382-1)', () => {
  const octave = { 'b4.on': true, 'b4.type': 'bandPass', 'b4.freq': 1000, 'b4.q': 1.4 };
  test.each(
    ['room', 'plate', 'hall', 'chamber'].flatMap((type) =>
      [0, 50, 100].flatMap((damping) => [0.5, 2].map((decay) => [type, damping, decay] as const)),
    ),
  )('%s at damping %d: 1 kHz decays in %d s within 10 %%', (type, damping, decay) => {
    const verb = device('reverb', { type, decay, damping, preDelay: 0 });
    const out = through([verb, device('eq', octave)], impulse(decay * 1.1));
    expect(Math.abs(rt60(out, 48000) / decay - 1)).toBeLessThan(0.1);
  });
  test('damping shortens the highs, the pre-delay is silent, the tail ends', () => {
    const band = (damping: number) =>
      rt60(
        through(
          [
            device('reverb', { decay: 2, damping, preDelay: 0, highCut: 24000 }),
            device('eq', { 'b4.on': true, 'b4.type': 'bandPass', 'b4.freq': 8000, 'b4.q': 1.4 }),
          ],
          impulse(3),
        ),
        48000,
      );
    expect(band(0)).toBeGreaterThan(1.7);
    expect(band(80)).toBeLessThan(1.3);
    const out = through([device('reverb', { preDelay: 60, decay: 0.3 })], impulse(4));
    expect(peak(out.slice(0, 2880))).toBe(0);
    expect(peak(out.slice(150000))).toBeLessThan(1e-7);
  });
});

test('Trim: gain, polarity, mono, balance and swap', () => {
  const out = (params: Params) => {
    const s = sessionWith([{ id: 'a', clips: [clipOf()], chain: [device('trim', params)] }]);
    return renderNow(s, {
      sounds: new Map([['x', { l: new Float32Array(480).fill(0.5), r: new Float32Array(480).fill(0.1) }]]),
      to: 0.01,
    }).master.map((c) => Number(c[300].toFixed(4)));
  };
  expect(out({ gain: -6.0206 })).toEqual([0.25, 0.05]);
  expect(out({ swap: true, polarityL: true })).toEqual([-0.1, 0.5]);
  expect(out({ mono: true })).toEqual([0.3, 0.3]);
  expect(out({ balance: 100 })).toEqual([0, 0.1]);
});

test('every device: the ends of every range give finite sound, and defaults of a neutral device pass it', () => {
  const x = noise(0.2, 0.5);
  for (const spec of Object.values(DEVICE_TYPES)) {
    for (const ps of spec.params) {
      const valuesOf = () => {
        if (ps.kind === 'number') return [ps.min!, ps.max!];
        if (ps.kind === 'switch') return [true, false];
        return (ps.choices ?? []).map((c) => c.id);
      };
      const values = valuesOf();
      for (const v of values) {
        const params: Params = { [ps.id]: v };
        if (spec.type === 'eq' && ps.group.startsWith('Band')) params[`b${ps.group.slice(5)}.on`] = true;
        expect(through([device(spec.type, params)], x).every(Number.isFinite)).toBe(true);
      }
    }
  }
  for (const type of ['trim', 'eq', 'opaque']) expect(through([device(type)], x)).toEqual(x);
});
