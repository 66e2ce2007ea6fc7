/**
 * What holds for every device in the list: no dependence on the block, silence stays silent
 * and cheap, latency as told, defaults and tables in order. Bars: engine.md’s own (−120 dB between block
 * sizes); the rest is marked.
 */
import { DEVICE_TYPES, formatValue, parseValue } from '../../core/index.ts';
import { db, difference, noise, peak, rms, runDevice, sine } from '../support/build.ts';
import { rows, working } from '../support/devices.ts';

/** material with a body, sibilance and level changes */
const material = (seconds = 0.6): Float32Array => {
  const a = sine(180, 0.3, seconds);
  const b = sine(2500, 0.08, seconds);
  const n = noise(seconds, 0.05, 4);
  return a.map((v, i) => (v + b[i] + n[i]) * (i % 9600 < 4800 ? 1 : 0.2));
};
test.each(rows)('%s: the same sound at 128 and 1024 frames a block within −120 dB', (_n, d) => {
  const x = material();
  const a = runDevice(d.type, working(d), x, { block: 128 });
  const b = runDevice(d.type, working(d), x, { block: 1024 });
  expect(db(difference(a, b))).toBeLessThan(-120);
});

test.each(rows)('%s: silence in, silence out, no NaN, and quiet again after sound', (_n, d) => {
  const x = new Float32Array(48000 * 2);
  expect(peak(runDevice(d.type, working(d), x))).toBe(0);
  x.set(noise(0.1, 0.9, 2));
  const out = runDevice(d.type, working(d), x);
  expect(out.every(Number.isFinite)).toBe(true);
  expect(rms(out, 90000, 96000)).toBeLessThan(0.02);
});

test.each(rows)(
  '%s: a sample that is no number sounds like silence in its place, and nothing after it is spoilt',
  (_n, d) => {
    for (const bad of [NaN, Infinity, -Infinity]) {
      for (const at of [0, 777, 12345, 20479]) {
        const x = material(0.5);
        x[at] = bad;
        const mended = x.slice();
        mended[at] = 0;
        const out = runDevice(d.type, working(d), x);
        expect(difference(out, runDevice(d.type, working(d), mended))).toBe(0);
      }
    }
  },
);

test.each(rows)('%s: sound that runs over inside it is over when it is', (_n, d) => {
  // far beyond what a converter gives: sums of squares of this run over
  const x = noise(0.2, 0.5, 3).map((v) => v * 3e38);
  const long = new Float32Array(x.length + 48000 * 3);
  long.set(x);
  long.set(material(0.5), long.length - 24000);
  const out = runDevice(d.type, working(d), long);
  expect(out.slice(-24000).every(Number.isFinite)).toBe(true);
});

test.each(rows)('%s: every value reads back as it is written, its default lies in its range', (_n, d) => {
  for (const p of d.params) {
    if (p.kind === 'text') continue;
    expect(parseValue(p, formatValue(p, p.default))).toEqual({ value: p.default });
    if (p.kind === 'number') {
      expect(p.default).toBeGreaterThanOrEqual(p.min!);
      expect(p.default).toBeLessThanOrEqual(p.max!);
      expect(p.step ?? 1).toBeGreaterThan(0);
    }
  }
  expect(d.summary.length).toBeGreaterThan(10);
});

test('the list holds every device of the design', () => {
  expect(Object.keys(DEVICE_TYPES)).toEqual(
    expect.arrayContaining([
      'trim',
      'eq',
      'compressor',
      'multiband',
      'gate',
      'deesser',
      'limiter',
      'clipper',
      'saturator',
      'delay',
      'reverb',
      'doubler',
      'chorus',
      'width',
      'pitchshift',
      'pitchcorrect',
      'outboard',
      'meter',
      'kit',
      'parts',
      'keys',
      'bass',
      'pattern',
      'opaque',
    ]),
  );
});
