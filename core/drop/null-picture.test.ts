import { noise, sine } from '../../tests/support/build.ts';
import { NULL_SILENCE, nullPicture, type NullLevels } from './null-picture.ts';

type Stereo = [Float32Array, Float32Array];
const FS = 48000;
/** The same to the ear, and not to the sample: nothing of it can be left out of the measuring. */
const nearly = (x: Float32Array): Float32Array => x.map((v, i) => v + (i % 5000 === 0 ? 1e-7 : 0));

test('what is the same in both, or on both sides, is measured once and counts as if it were measured each time', () => {
  const [a, b, c] = [noise(1, 0.3, 1), sine(440, 0.2, 1), noise(1, 0.1, 2)];
  const pairs: [Stereo, Stereo][] = [
    [
      [a, a],
      [a.slice(), a.slice()],
    ],
    [
      [a, b],
      [a, b],
    ],
    [
      [b, c],
      [c, b],
    ],
  ];
  const slow = pairs.map(([x, y]): [Stereo, Stereo] => [
    [x[0], nearly(x[1])],
    [nearly(y[0]), y[1]],
  ]);
  const [once, each] = [nullPicture(pairs, FS), nullPicture(slow, FS)];
  const levels = ({ thirds, time }: NullLevels) => [...thirds, ...time];
  for (const part of ['preset', 'session', 'difference'] as const) {
    levels(once[part]).forEach((v, i) => expect(Math.abs(v - levels(each[part])[i])).toBeLessThan(0.11));
  }
  // two of the three lines are equal: their difference is nothing, and counts as such
  expect(levels(nullPicture(pairs.slice(0, 2), FS).difference)).toEqual(Array(90).fill(NULL_SILENCE));
});

test('levels are those of the sound: a sine of 0.2 on both sides is −14 dBFS in its third, and −17 dB of power', () => {
  const x = sine(1000, 0.2, 1);
  const { preset } = nullPicture(
    [
      [
        [x, x],
        [x, x],
      ],
    ],
    FS,
  );
  // dBFS of a sine by its peak, RMS 3.01 dB below (IEC 61606)
  expect(Math.max(...preset.thirds)).toBeCloseTo(20 * Math.log10(0.2), 0);
  for (const v of preset.time) expect(Math.abs(v - (20 * Math.log10(0.2) - 3.01))).toBeLessThan(0.2);
});
