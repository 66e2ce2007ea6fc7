/**
 * How devices behave beyond a single figure: levels, stereo, detectors, safety. Sources where there are any;
 * "common practice" otherwise.
 */
import fc from 'fast-check';
import {
  ADDABLE,
  fromPosition,
  measureLoudness,
  merge3,
  parseValue,
  renderNow,
  type Device,
  type Params,
} from '../../core/index.ts';
import { staticCurve } from '../../core/devices/compressor.ts';
import {
  clipOf,
  db,
  device,
  difference,
  impulse,
  noise,
  peak,
  rms,
  sessionWith,
  sine,
} from '../support/build.ts';

const stereo = (chain: Device[], l: Float32Array, r = l, seconds = l.length / 48000) =>
  renderNow(sessionWith([{ id: 'a', clips: [clipOf()], chain }]), {
    sounds: new Map([['x', { l, r }]]),
    to: seconds,
  }).master;
const square = (levelDb: number, seconds = 1) =>
  Float32Array.from(
    { length: seconds * 48000 },
    (_, i) => (Math.floor(i / 50) % 2 ? 1 : -1) * 10 ** (levelDb / 20),
  );

describe('compressor', () => {
  const hard: Params = { threshold: -30, ratio: 100, knee: 0, attack: 0.01, release: 50 };
  test('lookahead lets the gain be down before the sound is there: no overshoot', () => {
    const x = Float32Array.from({ length: 24000 }, (_, i) => (i < 12000 ? 0.001 : 0.5));
    const over = (lookahead: number) =>
      peak(stereo([device('compressor', { ...hard, attack: 1, lookahead })], x)[0].slice(12000, 23000)) /
      10 ** (-30 / 20);
    expect(db(over(0))).toBeGreaterThan(15);
    expect(db(over(10))).toBeLessThan(1);
  });
  test('a stereo link of 100 % keeps the picture, 0 % treats the sides alone, in between lies between', () => {
    const [l, r] = [sine(500, 0.8, 1), sine(500, 0.08, 1)];
    const side = (link: number) =>
      db(rms(stereo([device('compressor', { ...hard, link })], l, r)[1], 24000)) - db(rms(r, 24000));
    expect(side(100)).toBeLessThan(-20);
    expect(side(0)).toBeGreaterThan(-10);
    expect(side(50)).toBeLessThan(side(0));
    expect(side(50)).toBeGreaterThan(side(100));
  });
  test('RMS hears a sine 3 dB lower than its peak (crest factor of a sine, AES17)', () => {
    const x = sine(1000, 0.5, 2);
    const p: Params = { threshold: -30, ratio: 4, knee: 0, attack: 50, release: 50 };
    const reduction = (detector: string) =>
      db(rms(stereo([device('compressor', { ...p, detector })], x)[0], 48000) / rms(x, 48000));
    const want = (level: number) => staticCurve(level, p) - level;
    expect(reduction('rms')).toBeCloseTo(want(db(0.5) - 3.01), 0);
    // a square wave has no crest: both detectors read the same
    const flat = (detector: string) =>
      db(rms(stereo([device('compressor', { ...p, detector })], square(-6))[0], 24000));
    expect(flat('rms')).toBeCloseTo(flat('peak'), 1);
  });
  test('mix is the sum of the dry and the wet in their shares; makeup counts in the wet only', () => {
    const x = square(-10);
    const wet = Math.abs(
      stereo([device('compressor', { threshold: -20, ratio: 4, knee: 0, makeup: 6 })], x)[0][47000],
    );
    const dry = Math.abs(x[47000]);
    expect(
      Math.abs(
        stereo(
          [device('compressor', { threshold: -20, ratio: 4, knee: 0, makeup: 6, mix: 40 })],
          x,
        )[0][47000],
      ),
    ).toBeCloseTo(0.4 * wet + 0.6 * dry, 4);
  });
  test('listening to the key gives the filtered key itself', () => {
    const low = sine(100, 0.5, 1);
    const out = stereo([device('compressor', { listen: true, keyFilter: true, keyLow: 2000 })], low)[0];
    expect(db(rms(out, 24000) / rms(low, 24000))).toBeLessThan(-45);
  });
  test('what a wild input does to the detector never reaches the sound as a not-a-number', () => {
    for (const top of [1e-30, 1, 1e9]) {
      expect(stereo([device('compressor', hard)], noise(0.1, top))[0].every(Number.isFinite)).toBe(true);
    }
  });
});

describe('reverb', () => {
  const rev = (p: Params) => device('reverb', { preDelay: 0, mix: 100, ...p });
  test('its sides are not the same sound: correlation of the tail is low', () => {
    const [l, r] = stereo([rev({ type: 'hall', decay: 2 })], impulse(1.5));
    let s = 0;
    for (let i = 4800; i < l.length; i++) s += l[i] * r[i];
    expect(Math.abs(s / (rms(l, 4800) * rms(r, 4800) * (l.length - 4800)))).toBeLessThan(0.35);
  });
  test('a width of 0 % is mono, 100 % is not', () => {
    const at = (width: number) => {
      const [l, r] = stereo([rev({ width })], impulse(0.5));
      return difference(l, r);
    };
    expect(at(0)).toBeLessThan(1e-7);
    expect(at(100)).toBeGreaterThan(0.001);
  });
  test('the level of steady sound changes little with the decay', () => {
    const x = noise(4, 0.2);
    const levels = [0.5, 1, 2, 4].map((decay) =>
      db(rms(stereo([rev({ type: 'plate', decay, damping: 30 })], x)[0], 120000)),
    );
    expect(Math.max(...levels) - Math.min(...levels)).toBeLessThan(6);
  });
  test('after a tenth of a second its echoes lie close: most stretches of 2 ms have sound (echo density, common practice)', () => {
    const [l] = stereo([rev({ type: 'plate', decay: 2 })], impulse(0.4));
    const around = rms(l, 7200, 14400);
    let full = 0;
    for (let i = 7200; i < 14400; i += 96) if (peak(l.slice(i, i + 96)) > 0.5 * around) full++;
    expect(full / 75).toBeGreaterThan(0.9);
  });
  test('a mix of 0 % is the dry sound, bit for bit but for the mix', () => {
    const x = noise(0.2);
    expect(difference(stereo([rev({ mix: 0 })], x)[0], x)).toBeLessThan(1e-7);
  });
});

test('bypassed devices pass sound unchanged, later by their latency', () => {
  const x = noise(0.3);
  for (const d of ADDABLE) {
    expect(difference(stereo([device(d.type, {}, { state: 'bypassed' })], x)[0], x)).toBe(0);
  }
  const late = stereo([device('compressor', { lookahead: 5, threshold: -50 }, { state: 'bypassed' })], x)[0];
  // a render takes the latency off again
  expect(difference(late, x)).toBe(0);
});

test('loudness of two channels is 3 dB over that of one; a mono sound in both reads as such (BS.1770 sums power)', () => {
  const x = noise(5, 0.2);
  const y = noise(5, 0.2, 77);
  const one = measureLoudness([x, new Float32Array(x.length)], 48000).integrated;
  expect(measureLoudness([x, y], 48000).integrated - one).toBeCloseTo(3.01, 1);
  expect(
    measureLoudness([x.map((v) => v / 2), y.map((v) => v / 2)], 48000).integrated -
      measureLoudness([x, y], 48000).integrated,
  ).toBeCloseTo(-6.02, 2);
  const m = measureLoudness([x, y], 48000);
  expect(m.momentaryMax).toBeGreaterThanOrEqual(m.shortTermMax);
  expect(m.truePeak).toBeGreaterThanOrEqual(db(peak(x)) - 0.01);
});

describe('whatever is typed or merged', () => {
  test('any text in any value field: a value inside the range or a sentence', () => {
    const specs = ADDABLE.flatMap((d) => d.params);
    fc.assert(
      fc.property(
        fc.nat(specs.length - 1),
        fc.oneof(
          fc.string({ maxLength: 12 }),
          fc.double().map(String),
          fc.constantFrom('∞', '-', ':', '1:', 'k', '1e9', '٣', '--3'),
        ),
        (n, text) => {
          const r = parseValue(specs[n], text);
          if ('error' in r) expect(r.error.length).toBeGreaterThan(10);
          else if (specs[n].kind === 'number') {
            expect(r.value as number).toBeGreaterThanOrEqual(specs[n].min!);
            expect(r.value as number).toBeLessThanOrEqual(specs[n].max!);
          }
        },
      ),
      { numRuns: 800 },
    );
    expect(fromPosition(specs[0], 7)).toBe(specs[0].max);
  });
  test('merge: nothing changed on a side, both the same, one side only', () => {
    const doc = fc.letrec((tie) => ({
      v: fc.oneof(
        { maxDepth: 3 },
        fc.integer(),
        fc.string(),
        fc.boolean(),
        fc.constant(null),
        fc.dictionary(fc.string({ maxLength: 3 }), tie('v'), { maxKeys: 3 }),
        fc.array(fc.integer(), { maxLength: 3 }),
      ),
    })).v;
    fc.assert(
      fc.property(doc, doc, (a, b) => {
        expect(merge3(a, a, b)).toEqual({ value: b, conflicts: [] });
        expect(merge3(a, b, a)).toEqual({ value: b, conflicts: [] });
        expect(merge3(a, b, b)).toEqual({ value: b, conflicts: [] });
      }),
      { numRuns: 300 },
    );
  });
});
