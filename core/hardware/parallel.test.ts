import { createRack, createStrand, lineCheck, renderNow, type Measured } from '../index.ts';
import { measuredAs } from '../../tests/support/studio.ts';
import { clipOf, db, device, noise, peak, sessionWith } from '../../tests/support/build.ts';

/** A line split into itself and a loop of 311 samples (or as measured), turned over, that counts on so many. */
const split = (samples: number, measured: Measured | null = null) =>
  sessionWith([
    {
      id: 'line',
      name: 'Line',
      clips: [clipOf('x', 1)],
      chain: [
        createRack('Beside itself', [], {
          strands: [
            createStrand('Dry', []),
            createStrand('Out and back', [
              device(
                'outboard',
                { roundTrip: samples / 48 },
                { id: 'loop', hardware: { units: [], measured } },
              ),
              device('trim', { polarityL: true, polarityR: true }),
            ]),
          ],
        }),
      ],
    },
  ]);
const left = (samples: number, measured: Measured | null = null) => {
  const sounds = new Map([['x', { l: noise(0.5, 0.4, 3), r: noise(0.5, 0.4, 4) }]]);
  return db(peak(renderNow(split(samples, measured), { to: 0.4, sounds, taps: ['line'] }).line[0]));
};

test('a path through a loop nulls with the dry one when its round trip is right; one sample off is heard, and found', () => {
  expect(left(311)).toBeLessThan(-60);
  expect(lineCheck(split(311)).filter((f) => f.rule === 'loop-wrong')).toEqual([]);
  for (const off of [310, 312]) {
    expect(left(off)).toBeGreaterThan(-20);
    expect(lineCheck(split(off)).map((f) => f.rule)).toContain('loop-wrong');
  }
});

test('what stands in for real ports takes as long as they were measured to take', () => {
  const real = measuredAs({ buffer: 512, delay: 4800.3 });
  expect(left(4800, real)).toBeLessThan(-60);
  expect(left(311, real)).toBeGreaterThan(-20);
});
