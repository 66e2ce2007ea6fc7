/**
 * Clipper, saturator and the oversampling under them. Aliases: a 5 kHz sine at +12 dB drive leaves nothing
 * over −80 dBFS at any frequency that is not one of its harmonics (the issue's own bar; the measuring method
 * is a
 * DFT over whole periods, so that no window is needed). Curves: closed forms, differentiated numerically.
 */
import { DEVICE_TYPES, createDevice } from '../../core/index.ts';
import { clip, clipIntegral } from '../../core/devices/kernels/plain.ts';
import { Oversampler } from '../../core/devices/oversample.ts';
import { saturate } from '../../core/devices/saturator.ts';
import { db, gainAt, runDevice, sine, toneAt } from '../support/build.ts';

/**
 * The loudest thing in dBFS at multiples of 100 Hz up to 20 kHz that are no harmonics of 5 kHz; the tone has
 * a whole number of periods in 480 samples, so folded harmonics would be harmonics again: hence 4.9 kHz.
 */
function loudestAlias(out: Float32Array, tone: number): number {
  let worst = 0;
  for (let f = 100; f <= 20000; f += 100) {
    if (f % tone !== 0) worst = Math.max(worst, toneAt(out, f, 48000, 24000, 28800));
  }
  return db(worst);
}

describe.each([
  ['clipper, hard', 'clipper', { drive: 12, ceiling: 0, softness: 0 }],
  ['clipper, soft', 'clipper', { drive: 12, ceiling: 0, softness: 60 }],
  ['saturator, odd', 'saturator', { drive: 12, colour: 0 }],
  ['saturator, coloured', 'saturator', { drive: 12, colour: 100 }],
])('aliases of %s', (_name, type, params) => {
  test.each([4900, 5100])('%i Hz', (tone) =>
    expect(
      loudestAlias(runDevice(type, { ...DEVICE_TYPES[type].defaults, ...params }, sine(tone, 1, 1)), tone),
    ).toBeLessThan(-80),
  );
});

describe.each([
  ['clipper, hard', 'clipper', { drive: 24, ceiling: 0, softness: 0 }],
  ['saturator, odd', 'saturator', { drive: 24, colour: 0 }],
  ['saturator, coloured', 'saturator', { drive: 24, colour: 100 }],
])('%s at +24 dB: no tone leaves more than −80 dBc between its harmonics', (_name, type, params) => {
  const values = { ...DEVICE_TYPES[type].defaults, ...params };
  test.each([3700, 5100, 9100, 13100, 15700, 17100, 18700])('%i Hz', (tone) => {
    const out = runDevice(type, values, sine(tone, 1, 1));
    const carrier = db(toneAt(out, tone, 48000, 24000, 28800));
    expect(loudestAlias(out, tone) - carrier).toBeLessThan(-80);
  });
  test('half the drive, where half the work does: under −80 dBc as well', () => {
    for (const drive of [6, 12]) {
      for (const tone of [9100, 13100, 17100]) {
        const out = runDevice(type, { ...values, drive }, sine(tone, 1, 1));
        expect(loudestAlias(out, tone) - db(toneAt(out, tone, 48000, 24000, 28800))).toBeLessThan(-80);
      }
    }
  });
  test('the first revision is there as it was', () => {
    const out = runDevice(type, values, sine(17100, 1, 1), { revision: 1 });
    expect(loudestAlias(out, 17100) - db(toneAt(out, 17100, 48000, 24000, 28800))).toBeGreaterThan(-80);
  });
});

test('oversampling there and back is flat to 20 kHz and exactly as late as it says', () => {
  for (const factor of [2, 4, 8, 16] as const) {
    const o = new Oversampler(factor, 512);
    const x = new Float64Array(512);
    const y = new Float64Array(512);
    x[100] = 1;
    o.raise(x, 512);
    o.lower(y, 512);
    expect(y.indexOf(Math.max(...y))).toBe(100 + o.latency);
    const at = (f: number) =>
      db(
        Math.hypot(
          ...[Math.cos, Math.sin].map((fn) =>
            y.reduce((s, v, i) => s + v * fn((2 * Math.PI * f * i) / 48000), 0),
          ),
        ),
      );
    for (const f of [20, 1000, 10000, 18000, 20000]) expect(Math.abs(at(f))).toBeLessThan(0.01);
  }
});

test('the clipper’s integral is that of its curve, and the curve is smooth at the knee', () => {
  for (const s of [0, 0.2, 0.6, 1]) {
    for (let x = -3; x < 3; x += 0.0371) {
      expect((clipIntegral(x + 5e-5, s) - clipIntegral(x - 5e-5, s)) / 1e-4).toBeCloseTo(clip(x, s), 4);
    }
  }
  expect(clip(0.8, 0.2)).toBeCloseTo(0.8, 12);
  expect(clip(5, 0.2)).toBe(1);
});

test('saturation: slope 1 at silence with any colour, even harmonics only with colour, no offset at 0 Hz', () => {
  for (const bias of [0, 0.3, 0.7]) {
    expect((saturate(1e-5, bias) - saturate(-1e-5, bias)) / 2e-5).toBeCloseTo(1, 4);
  }
  const harmonics = (colour: number) => {
    const out = runDevice(
      'saturator',
      { ...DEVICE_TYPES.saturator.defaults, drive: 12, colour },
      sine(1000, 0.5, 2),
    );
    return [0, 2000, 3000].map((f) =>
      f
        ? db(toneAt(out, f, 48000, 48000, 96000))
        : Math.abs(out.slice(48000).reduce((s, v) => s + v, 0) / 48000),
    );
  };
  const [dc0, even0, odd0] = harmonics(0);
  const [dc1, even1] = harmonics(80);
  expect(even0).toBeLessThan(-110);
  expect(odd0).toBeGreaterThan(-40);
  expect(even1).toBeGreaterThan(-40);
  expect(Math.max(dc0, dc1)).toBeLessThan(1e-3);
});

test('quiet sound passes at its level, loud sound stands where the curve says', () => {
  for (const [type, params] of [
    ['clipper', { drive: 6, ceiling: -3, softness: 0 }],
    ['saturator', { drive: 0, colour: 0 }],
  ] as const) {
    const x = sine(1000, 0.01, 1);
    expect(gainAt(x, runDevice(type, createDevice(type, params).params, x), 1000, 24000)).toBeCloseTo(
      type === 'clipper' ? 6 : 0,
      1,
    );
  }
  expect(
    DEVICE_TYPES.clipper.curve!(0, createDevice('clipper', { drive: 6, ceiling: -3, softness: 0 }).params),
  ).toBeCloseTo(-3, 6);
});
