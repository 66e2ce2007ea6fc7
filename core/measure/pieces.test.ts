import fc from 'fast-check';
import { LoudnessMeter, measureLoudness } from './loudness.ts';
import { Resampler, resample } from '../devices/resample.ts';
import { noise, sine } from '../../tests/support/build.ts';

/** Sizes of the pieces in which a sound comes. */
const sizes = fc.array(fc.integer({ min: 1, max: 30000 }), { minLength: 1, maxLength: 12 });

function* piecesOf(length: number, wanted: readonly number[]): Generator<[number, number]> {
  for (let at = 0, k = 0; at < length; k++) {
    const end = Math.min(length, at + wanted[k % wanted.length]);
    yield [at, end];
    at = end;
  }
}

test('loudness and true peak of a sound in pieces are those of the whole', () => {
  const l = noise(1.3, 0.5, 1);
  const r = sine(997, 1.3, 0.7);
  // between two samples, far from the largest one, and at the very end
  l[l.length - 1] = 0.99;
  const whole = measureLoudness([l, r], 48000);
  fc.assert(
    fc.property(sizes, (wanted) => {
      const meter = new LoudnessMeter(48000);
      for (const [from, to] of piecesOf(l.length, wanted)) {
        meter.add([l.subarray(from, to), r.subarray(from, to)]);
      }
      expect(meter.end()).toEqual(whole);
    }),
    { numRuns: 20 },
  );
});

test.each([
  [48000, 44100],
  [44100, 96000],
  [96000, 48000],
  [22050, 48000],
])('resampled from %i to %i Hz in pieces: every sample as in one go', (from, to) => {
  const x = noise(0.4, 0.5, 3);
  const whole = resample(x, from, to);
  expect(whole.length).toBe(Math.round((x.length * to) / from));
  fc.assert(
    fc.property(sizes, (wanted) => {
      const pieces = new Resampler(from, to);
      const out: number[] = [];
      for (const [a, b] of piecesOf(x.length, wanted)) out.push(...pieces.add(x.subarray(a, b)));
      out.push(...pieces.end());
      expect(Float32Array.from(out)).toEqual(whole);
    }),
    { numRuns: 8 },
  );
});
