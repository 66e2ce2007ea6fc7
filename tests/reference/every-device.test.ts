/**
 * What holds for every device in the list: no zipper noise, no dependence on the block, silence stays silent
 * and cheap, latency as told, defaults and tables in order. Bars: engine.md’s own (−120 dB between block
 * sizes); the rest is marked.
 */
import {
  ADDABLE,
  DEVICE_TYPES,
  formatValue,
  parseValue,
  type DeviceType,
  type Params,
  type ParamSpec,
} from '../../core/index.ts';
import { db, difference, noise, peak, rms, runDevice, sine } from '../support/build.ts';

const rows = ADDABLE.map((d) => [d.label, d] as [string, DeviceType]);
/** material with a body, sibilance and level changes */
const material = (seconds = 0.6): Float32Array => {
  const a = sine(180, 0.3, seconds);
  const b = sine(2500, 0.08, seconds);
  const n = noise(seconds, 0.05, 4);
  return a.map((v, i) => (v + b[i] + n[i]) * (i % 9600 < 4800 ? 1 : 0.2));
};
/** settings that make a device work */
const busy: Record<string, Params> = {
  eq: { 'b3.on': true, 'b3.gain': 9, 'b1.on': true, 'b1.slope': '48' },
  compressor: { threshold: -30, ratio: 8 },
  deesser: { threshold: -50 },
  limiter: { threshold: -18 },
  saturator: { drive: 18 },
  clipper: { drive: 12 },
  pitchshift: { semitones: 3 },
  multiband: { bands: '4', 'b1.threshold': -40, 'b4.threshold': -50 },
  width: { width: 150, lows: true },
  gate: { threshold: -25 },
  outboard: { roundTrip: 6.48 },
};
const working = (d: DeviceType): Params => ({ ...d.defaults, ...busy[d.type] });

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

/**
 * The sharpest edge that a sweep leaves, against the same edges when nothing moves: second differences of a
 * low sine are tiny, a click is a large one.
 */
const edge = (x: Float32Array, from: number) => {
  let e = 0;
  for (let i = from + 2; i < x.length; i++) e = Math.max(e, Math.abs(x[i] - 2 * x[i - 1] + x[i - 2]));
  return e;
};
// a change of algorithm (type of room, choice of unit, formants) crossfades; values that are switches and
// choices are swept too
const numeric = (d: DeviceType) => d.params.filter((p) => p.kind !== 'text' && !/^b[2-8]\./.test(p.id));
// what plays by notes is swept while it plays, in core/engine/midi.test.ts
test.each(rows.filter(([, d]) => d.params.length && !d.instrument && !d.pattern))(
  '%s: no click and no zipper while any value is swept',
  (_n, d) => {
    const x = sine(110, 0.25, 0.5);
    // what moves the pitch or clips brings edges of its own: those are the reference; a linear fade has
    // corners, which count with the level
    const bad: string[] = [];
    for (const p of numeric(d)) {
      const start = working(d);
      const span = (t: number): Params => ({
        ...start,
        [p.id]: swept(p, (t * 4) % 2 > 1 ? 2 - ((t * 4) % 2) : (t * 4) % 2, t),
      });
      const out = runDevice(d.type, start, x, { block: 128, change: (t) => span(t) });
      const still = Math.max(
        ...[0, 0.5, 1].map((at) =>
          edge(runDevice(d.type, { ...start, [p.id]: swept(p, at, 0.24 * at) }, x, { block: 128 }), 9600),
        ),
      );
      if (edge(out, 9600) > still * 1.5 + 0.014 * Math.max(0.25, peak(out.subarray(9600)))) {
        bad.push(
          `${p.label}: an edge of ${edge(out, 9600).toFixed(5)} while sweeping, ${still.toFixed(5)} standing still`,
        );
      }
    }
    expect(bad).toEqual([]);
  },
);
const swept = (p: ParamSpec, at: number, t: number) => {
  if (p.kind === 'switch') return Math.floor(t * 8) % 2 === 1;
  if (p.kind === 'choice') return p.choices![Math.floor(t * 8) % p.choices!.length].id;
  const hi = p.unit === 'dB' ? Math.min(p.max!, 12) : p.max!;
  return p.taper === 'log' ? p.min! * (hi / p.min!) ** at : p.min! + at * (hi - p.min!);
};

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
