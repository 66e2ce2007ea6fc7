/**
 * Gate, de-esser, limiter and multiband against published values. Sources: D. Giannoulis, M. Massberg, J.
 * Reiss, JAES 60(6), 2012 (static curves, time constants); ITU-R BS.1770-5 annex 2 (true peak, measured by
 * our own meter and by ebur128-wasm's definition of 4 times oversampling in measures.test.ts); S. H.
 * Linkwitz, JAES 24(1), 1976 (−6.02 dB at the corner, flat sum).
 */
import { DEVICE_TYPES, createDevice, truePeak, type Params } from '../../core/index.ts';
import fc from 'fast-check';
import { ANNEX_FILTER } from '../../core/devices/interpolate.ts';
import { gateGain } from '../../core/devices/gate.ts';
import { corners } from '../../core/devices/bands.ts';
import { db, gainAt, noise, peak, rms, runDevice, sine, toneAt } from '../support/build.ts';

describe('Gate', () => {
  const p = (over: Params = {}): Params => ({
    ...DEVICE_TYPES.gate.defaults,
    threshold: -40,
    ratio: 3,
    range: -30,
    attack: 1,
    hold: 20,
    release: 50,
    hysteresis: 6,
    ...over,
  });
  test('static curve: 3:1 under the threshold falls three times as fast, to the range at most', () => {
    expect(gateGain(-40, p())).toBe(0);
    expect(gateGain(-45, p())).toBe(-10);
    expect(gateGain(-80, p())).toBe(-30);
    expect(gateGain(-41, p({ ratio: 100 }))).toBe(-30);
  });
  test('steady sound comes out where the curve says', () => {
    for (const level of [-30, -46, -52, -70]) {
      const x = sine(1000, 10 ** (level / 20), 1.5);
      const out = runDevice('gate', p(), x);
      expect(gainAt(x, out, 1000, 60000)).toBeCloseTo(gateGain(level, p()), 0);
    }
  });
  test('hold, then release: 63 % of the way in the release time', () => {
    const x = sine(2000, 0.1, 1.2);
    for (let i = 24000; i < x.length; i++) x[i] *= 10 ** (-70 / 20);
    const out = runDevice('gate', p({ ratio: 100 }), x);
    const gain = (ms: number) => {
      const at = 24000 + Math.round(ms * 48);
      return db(rms(out, at, at + 240) / rms(x, at, at + 240));
    };
    // the detector falls 26 dB (to the threshold less the hysteresis) in 26 ÷ 8.69 × 8 = 24 ms; then 20 ms of
    // hold
    expect(gain(36)).toBeGreaterThan(-0.5);
    let open = 0;
    while (gain(open + 1) > -0.3 && open < 400) open++;
    expect(open).toBeGreaterThan(38);
    expect(open).toBeLessThan(50);
    // a time constant of 50 ms in dB: −30·(1 − 1/e) = −19 dB 50 ms later
    expect(gain(open + 50)).toBeLessThan(-16.5);
    expect(gain(open + 50)).toBeGreaterThan(-21.5);
  });
  test('hysteresis: opens at the threshold, stays open until the sound has fallen under it by that much', () => {
    const levels = [-50, -39, -44, -50, -44].map((l) => sine(1000, 10 ** (l / 20), 0.6));
    const x = new Float32Array(levels.length * 28800);
    levels.forEach((s, i) => x.set(s, i * 28800));
    const out = runDevice('gate', p({ ratio: 100 }), x);
    const at = (i: number) =>
      db(rms(out, i * 28800 + 24000, i * 28800 + 28000) / rms(x, i * 28800 + 24000, i * 28800 + 28000));
    expect([0, 1, 2, 3, 4].map((i) => Math.round(at(i)))).toEqual([-30, 0, 0, -30, -30]);
  });
});

describe('De-esser', () => {
  const p = (over: Params = {}): Params => ({
    ...DEVICE_TYPES.deesser.defaults,
    frequency: 5000,
    threshold: -30,
    range: -12,
    ...over,
  });
  const voice = () => sine(220, 0.3, 1);
  const hissing = () => {
    const s = sine(8000, 0.2, 1);
    return voice().map((v, i) => v + s[i]);
  };
  test('leaves a voice without sibilance exactly as it is', () => {
    const x = voice();
    const out = runDevice('deesser', p({ threshold: -20 }), x);
    expect(db(peak(out.map((v, i) => v - x[i])))).toBeLessThan(-200);
  });
  test('split takes only the highs down, wide takes all', () => {
    const x = hissing();
    for (const [mode, low] of [
      ['split', 0],
      ['wide', -12],
    ] as const) {
      const out = runDevice('deesser', p({ mode }), x);
      expect(db(toneAt(out, 8000, 48000, 24000, 48000) / 0.2)).toBeLessThan(mode === 'split' ? -8 : -11);
      expect(db(toneAt(out, 220, 48000, 24000, 48000) / 0.3)).toBeCloseTo(low, 0);
    }
  });
  test('listening gives what the detector hears', () => {
    const x = hissing();
    const out = runDevice('deesser', p({ listen: true }), x);
    expect(db(toneAt(out, 220, 48000, 24000, 48000) / 0.3)).toBeLessThan(-90);
    expect(db(toneAt(out, 8000, 48000, 24000, 48000) / 0.2)).toBeCloseTo(0, 0);
  });
});

/** True peak by the letter of ITU-R BS.1770-5, annex 2: its own filter of 4 phases × 12 taps, dBTP. */
function annexPeak(x: Float32Array): number {
  let top = 0;
  for (let i = 11; i < x.length; i++) {
    for (const taps of ANNEX_FILTER) {
      let sum = 0;
      for (let j = 0; j < 12; j++) sum += taps[j] * x[i - j];
      top = Math.max(top, Math.abs(sum));
    }
  }
  return 20 * Math.log10(top);
}

describe('Limiter', () => {
  const p = (over: Params = {}): Params => ({
    ...DEVICE_TYPES.limiter.defaults,
    threshold: -12,
    ceiling: -1,
    release: 20,
    lookahead: 1,
    truePeak: true,
    ...over,
  });
  /** signals that are known to be awkward for peak meters and gains that move */
  const adversarial: [string, Float32Array][] = [
    ['a quarter of the rate at 45° (EBU Tech 3341)', sine(12000, 0.99, 0.5, 48000, Math.PI / 4)],
    ['full-scale noise', noise(0.7, 1, 3)],
    [
      'samples that alternate in pairs',
      Float32Array.from({ length: 24000 }, (_, i) => [1, 1, -1, -1][i % 4] * (i % 997 < 200 ? 1 : 0.05)),
    ],
    [
      'single full-scale samples',
      Float32Array.from({ length: 24000 }, (_, i) => {
        if (i % 1201 === 0) return 1;
        if (i % 1201 === 1) return -1;
        return 0;
      }),
    ],
    [
      'the worst input of the interpolator: signs of a sinc',
      Float32Array.from({ length: 24000 }, (_, i) => {
        const t = (i % 480) - 240.5;
        return Math.sin(Math.PI * t) / t > 0 ? 1 : -1;
      }),
    ],
    [
      'a square that jumps in level',
      Float32Array.from(
        { length: 24000 },
        (_, i) => (Math.floor(i / 37) % 2 ? 1 : -1) * (Math.floor(i / 2400) % 2 ? 1 : 0.1),
      ),
    ],
    [
      'a sweep up to half the rate',
      Float32Array.from({ length: 48000 }, (_, i) => Math.sin((Math.PI * i * i) / 96000)),
    ],
  ];
  test('by the filter of BS.1770 annex 2 no setting lets anything over the ceiling by more than 0.1 dB', () => {
    fc.assert(
      fc.property(
        fc.record({
          which: fc.nat({ max: adversarial.length - 1 }),
          ceiling: fc.constantFrom(-0.1, -1, -6),
          threshold: fc.constantFrom(-3, -12, -30),
          lookahead: fc.constantFrom(0.5, 1, 3, 10),
          release: fc.constantFrom(1, 5, 80, 2000),
        }),
        ({ which, ...values }) => {
          const out = runDevice('limiter', p(values), adversarial[which][1]);
          expect(annexPeak(out) - values.ceiling).toBeLessThan(0.1);
        },
      ),
      { numRuns: 60 },
    );
  });

  test.each(adversarial)('true peak never over the ceiling: %s', (_name, x) => {
    for (const ceiling of [-1, -6]) {
      const out = runDevice('limiter', p({ ceiling }), x);
      expect(peak(out)).toBeLessThanOrEqual(10 ** (ceiling / 20));
      expect(truePeak([out], 48000)).toBeLessThanOrEqual(ceiling + 0.005);
    }
  });
  test.each(adversarial)('samples never over the ceiling without it: %s', (_name, x) => {
    expect(
      peak(runDevice('limiter', p({ truePeak: false, release: 1, lookahead: 0.5 }), x)),
    ).toBeLessThanOrEqual(10 ** (-1 / 20));
  });
  test('quiet sound only gets the gain that the threshold asks for, and loud sound stands at the ceiling', () => {
    const quiet = sine(1000, 0.05, 1);
    expect(gainAt(quiet, runDevice('limiter', p(), quiet), 1000, 24000)).toBeCloseTo(11, 3);
    const loud = sine(997, 0.7, 1);
    expect(Math.abs(db(peak(runDevice('limiter', p(), loud).subarray(24000))) + 1)).toBeLessThan(0.1);
  });
  test('its latency is what it says, with either mode and any lookahead', () => {
    for (const over of [{ truePeak: true }, { truePeak: false }, { lookahead: 10 }] as Params[]) {
      const x = new Float32Array(4800);
      x[1000] = 0.1;
      const out = runDevice('limiter', p({ threshold: -1, ...over }), x, { raw: true });
      expect(out.findIndex((v) => Math.abs(v) > 0.05) - 1000).toBe(
        DEVICE_TYPES.limiter.latency(p(over), 48000),
      );
    }
  });
});

describe('Multiband compressor', () => {
  const off: Params = Object.fromEntries([1, 2, 3, 4].map((n) => [`b${n}.on`, false]));
  test.each(['2', '3', '4'])('%s bands sum flat within 0.1 dB, by formula and by sound', (bands) => {
    const params = { ...DEVICE_TYPES.multiband.defaults, ...off, bands, f1: 120, f2: 900, f3: 6000 };
    const x = new Float32Array(48000);
    x[0] = 1;
    const out = runDevice('multiband', params, x);
    for (let f = 20; f < 20000; f *= 1.19) {
      expect(Math.abs(db(Math.hypot(...DEVICE_TYPES.multiband.response!(params, f, 48000))))).toBeLessThan(
        0.001,
      );
      const k = Math.round(f);
      expect(Math.abs(db((toneAt(out, k) * out.length) / 2))).toBeLessThan(0.1);
    }
  });
  test('each side of a crossover stands at −6.02 dB there', () => {
    const x = sine(900, 0.1, 2);
    for (const n of [1, 2]) {
      const out = runDevice(
        'multiband',
        { ...DEVICE_TYPES.multiband.defaults, ...off, bands: '2', f1: 900, [`b${n}.solo`]: true },
        x,
      );
      expect(gainAt(x, out, 900, 48000)).toBeCloseTo(-6.02, 1);
    }
  });
  test('a loud low note is compressed in its own band and leaves the highs alone', () => {
    const x = sine(80, 0.5, 2).map((v, i) => v + 0.02 * Math.sin((2 * Math.PI * 5000 * i) / 48000));
    const params = {
      ...DEVICE_TYPES.multiband.defaults,
      bands: '2',
      f1: 500,
      knee: 0,
      'b1.threshold': -26,
      'b1.ratio': 4,
      'b2.threshold': -20,
    };
    const out = runDevice('multiband', params, x);
    // −6 dBFS is 20 dB over: 4:1 leaves 5, so −15 dB; the attack is slow against the period, hence the
    // tolerance (peaks drive the detector)
    expect(db(toneAt(out, 80, 48000, 48000, 96000) / 0.5)).toBeLessThan(-11);
    expect(db(toneAt(out, 5000, 48000, 48000, 96000) / 0.02)).toBeCloseTo(0, 1);
  });
  test('crossovers that were typed in the wrong order are sorted', () => {
    expect(
      corners({ ...DEVICE_TYPES.multiband.defaults, bands: '4', f1: 5000, f2: 100, f3: 100 }, 48000),
    ).toEqual([100, 112.5, 5000]);
  });
});

test('every dynamics device has the curve that it draws: measured with steady tones', () => {
  for (const [type, over] of [
    ['compressor', { knee: 0, attack: 0.5, release: 60 }],
    ['limiter', { truePeak: false }],
    ['gate', { ratio: 4 }],
  ] as [string, Params][]) {
    const spec = DEVICE_TYPES[type];
    const params = createDevice(type, over).params;
    for (const level of [-50, -30, -12, -3]) {
      const x = sine(1000, 10 ** (level / 20), 1);
      const out = runDevice(type, params, x);
      expect(Math.abs(level + gainAt(x, out, 1000, 24000) - spec.curve!(level, params))).toBeLessThan(0.8);
    }
  }
});

describe('a fast attack leaves no tones beside a steady one (the samples of a tone beat against its period)', () => {
  /** the loudest thing that is no harmonic, against the tone; whole periods of 50 Hz, so that no window is needed */
  function besides(tone: number, over: Params, revision?: number): number {
    const params = { ...DEVICE_TYPES.compressor.defaults, threshold: -18, ratio: 4, ...over };
    const x = Float32Array.from({ length: 96000 }, (_, i) =>
      Math.sin((2 * Math.PI * tone * i) / 48000 + 0.2),
    );
    const y = runDevice('compressor', params, x, revision ? { revision } : {});
    let worst = 0;
    for (let f = 50; f <= 20000; f += 50) {
      if (f % tone !== 0) worst = Math.max(worst, toneAt(y, f, 48000, 86400, 96000));
    }
    return db(worst / toneAt(y, tone, 48000, 86400, 96000));
  }
  test.each([1050, 5050, 9050, 11950, 13050, 15950, 17050])('%i Hz: under −70 dBc', (tone) => {
    const settings: Params[] = [
      { attack: 0.01, release: 10 },
      { attack: 0.01, release: 120 },
      { attack: 1, release: 50 },
      { attack: 0.01, release: 1 },
      { attack: 0.01, release: 1, ratio: 100, threshold: -40 },
      { attack: 0.01, release: 8, ratio: 100, threshold: -40 },
    ];
    for (const over of settings) {
      expect(besides(tone, over)).toBeLessThan(-70);
    }
  });
  test('earlier revisions beat as they did', () => {
    expect(besides(15950, { attack: 0.01, release: 10 }, 1)).toBeGreaterThan(-40);
    expect(besides(15950, { attack: 0.01, release: 1 }, 2)).toBeGreaterThan(-70);
  });
  test('a jump is met at once: the first sample over the threshold is seen in the sample that it comes in', () => {
    const x = new Float32Array(9600).fill(0.001);
    x.fill(1, 4800);
    const params = { ...DEVICE_TYPES.compressor.defaults, threshold: -20, ratio: 100, knee: 0, attack: 0.01 };
    const y = runDevice('compressor', params, x);
    expect(db(y[4802])).toBeLessThan(-18);
  });
});
