import fc from 'fast-check';
import { power, square, tenTo, twoTo } from './power.ts';

const near = (got: number, want: number, off: number) =>
  expect(Math.abs(got / want - 1)).toBeLessThanOrEqual(off);

/** Math.pow is exact to about a unit in the last place: it is what these are compared with. */
test('powers agree with Math.pow', () => {
  const within = (most: number) => fc.double({ min: -most, max: most, noNaN: true });
  fc.assert(
    fc.property(
      within(60),
      within(15),
      fc.double({ min: 1e-3, max: 40000, noNaN: true }),
      (two, ten, base) => {
        near(twoTo(two), Math.pow(2, two), 1e-15);
        near(tenTo(ten), Math.pow(10, ten), 2e-14);
        near(power(base, two / 20), Math.pow(base, two / 20), 1e-14);
      },
    ),
    { numRuns: 5000 },
  );
});

test('whole octaves are exact, and the ends are those of Math.pow', () => {
  for (let n = -1100; n <= 1100; n++) expect(twoTo(n)).toBe(Math.pow(2, n));
  expect([power(0, 0), power(0, 2), power(0, -1), power(1, 5)]).toEqual([1, 0, Infinity, 1]);
  expect([tenTo(0), twoTo(-Infinity), twoTo(Infinity), square(-3)]).toEqual([1, 0, Infinity, 9]);
});
