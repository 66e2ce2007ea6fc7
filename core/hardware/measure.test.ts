import { measureLoop, agreed, type LoopFigures } from './measure.ts';
import { stereoSweep, sweepSignal } from './sweep.ts';
import { compressor } from '../devices/compressor.ts';
import {
  dbfsOfDbu,
  dbuOfDbfs,
  dbuOfDbv,
  dbvOfDbu,
  loopLevels,
  tooHot,
  unityGain,
  voltsOfDbu,
} from './levels.ts';

const FS = 48000;
const played = sweepSignal(FS, 1);

/** A signal later by a fraction of a sample too, by its band-limited series over 128 samples. */
function late(x: ArrayLike<number>, samples: number, gain = 1, extra = 6000): Float32Array {
  const out = new Float32Array(x.length + extra);
  const whole = Math.floor(samples);
  const part = samples - whole;
  for (let k = -63; k <= 64; k++) {
    const at = k - part;
    const sinc = at === 0 ? 1 : Math.sin(Math.PI * at) / (Math.PI * at);
    const c = sinc * (0.5 + 0.5 * Math.cos((Math.PI * at) / 65));
    if (Math.abs(c) < 1e-9) continue;
    for (let i = 0; i < x.length; i++) {
      const to = i + whole + k;
      if (to >= 0 && to < out.length) out[to] += gain * c * x[i];
    }
  }
  return out;
}
const sum = (...list: ArrayLike<number>[]): Float32Array =>
  Float32Array.from({ length: Math.max(...list.map((x) => x.length)) }, (_, i) =>
    list.reduce((a, x) => a + (x[i] ?? 0), 0),
  );
const hum = (f: number, amplitude: number, length: number) =>
  Float32Array.from({ length }, (_, i) => amplitude * Math.sin((2 * Math.PI * f * i) / FS + 0.7));
function noise(rms: number, length: number): Float32Array {
  let seed = 12345;
  const next = () => {
    seed = (Math.imul(seed, 1664525) + 1013904223) | 0;
    return seed / 2 ** 31;
  };
  return Float32Array.from({ length }, () => rms * Math.sqrt(3) * next());
}
const near = (found: LoopFigures, delay: number, gain: number) => {
  expect(Math.abs(found.delay - delay)).toBeLessThan(0.05);
  expect(Math.abs(found.gain - gain)).toBeLessThan(0.05);
};

test.each([
  [0, 0],
  [1, -6],
  [311, 0],
  [311.5, -3.2],
  [4500.25, 2.5],
  [128.75, -20],
])('a clean loop of %f samples and %f dB', (delay, gain) => {
  const found = measureLoop(played, late(played, delay, 10 ** (gain / 20)), FS);
  near(found, delay, gain);
  expect(found.polarity).toBe(1);
  expect(found.faults).toEqual([]);
  expect(found.clipped).toBe(false);
  expect(found.noise).toBeLessThan(-85);
  expect(Math.max(...found.response.filter(([f]) => f > 50).map(([, x]) => Math.abs(x)))).toBeLessThan(0.15);
});

test.each([44100, 96000])('at %i Hz', (fs) => {
  const signal = sweepSignal(fs, 1);
  near(measureLoop(signal, late(signal, 200.5, 0.5), fs), 200.5, -6.02);
});

test('a turned polarity', () => {
  const found = measureLoop(played, late(played, 300.5, -0.7), FS);
  near(found, 300.5, 20 * Math.log10(0.7));
  expect(found.polarity).toBe(-1);
  expect(found.faults).toEqual(['the polarity is turned']);
});

test.each([50, 60] as const)('a hum at %i Hz, told from the other', (f) => {
  const back = late(played, 311.25, 0.8);
  const found = measureLoop(played, sum(back, hum(f, 0.01, back.length), hum(3 * f, 0.003, back.length)), FS);
  near(found, 311.25, 20 * Math.log10(0.8));
  expect(Math.abs(found.hum[f] + 39.6)).toBeLessThan(1);
  expect(found.hum[f === 50 ? 60 : 50]).toBeLessThan(-65);
  expect(found.faults.some((x) => x.startsWith(`hum at ${f} Hz`))).toBe(true);
  expect(found.faults.some((x) => x.startsWith(`hum at ${f === 50 ? 60 : 50}`))).toBe(false);
});

test('noise at −50 dBFS', () => {
  const back = late(played, 311.25, 0.8);
  const found = measureLoop(played, sum(back, noise(10 ** (-50 / 20), back.length)), FS);
  near(found, 311.25, 20 * Math.log10(0.8));
  expect(Math.abs(found.noise + 50)).toBeLessThan(0.5);
  expect(found.faults).toEqual(['noise at −50 dBFS']);
});

test('clipping', () => {
  const loud = late(played, 300, 3).map((x) => Math.max(-1, Math.min(1, x)));
  const found = measureLoop(played, loud, FS);
  expect(found.clipped).toBe(true);
  expect(Math.abs(found.delay - 300)).toBeLessThan(1);
  expect(found.faults.some((x) => x.includes('clipped'))).toBe(true);
});

test('an echo that is louder than the first arrival', () => {
  const found = measureLoop(played, sum(late(played, 200.5, 0.3), late(played, 900, 0.6)), FS);
  near(found, 200.5, 20 * Math.log10(0.3));
  expect(found.faults.some((x) => x.includes('echo'))).toBe(true);
});

test('a compressor that pumps', () => {
  const ctx = { sampleRate: FS, tempo: 120, maxBlock: 512 };
  const params = { ...compressor.defaults, threshold: -30, ratio: 8, attack: 5, release: 80, makeup: 6 };
  const proc = compressor.create(params, ctx);
  const back = Float64Array.from(late(played, 411));
  for (let at = 0; at < back.length; at += 512) {
    const block = back.subarray(at, Math.min(at + 512, back.length));
    const other = block.slice();
    proc.process(block, other, block.length, block, other);
  }
  const found = measureLoop(played, back, FS);
  expect(Math.abs(found.delay - 411)).toBeLessThan(1);
  expect(found.faults.some((x) => x.includes('follows the level'))).toBe(true);
});

test('swapped sides, one side turned over, one side later', () => {
  const [l, r] = stereoSweep(FS, 1.6);
  const straight = measureLoop([l, r], [late(l, 100, 0.5), late(r, 100, 0.5)], FS);
  near(straight, 100, -6.02);
  expect(straight.faults).toEqual([]);
  const swapped = measureLoop([l, r], [late(r, 100, 0.5), late(l, 100, 0.5)], FS);
  near(swapped, 100, -6.02);
  expect([swapped.swapped, swapped.faults]).toEqual([true, ['left and right are swapped']]);
  const turned = measureLoop([l, r], [late(l, 100, 0.5), late(r, 102, -0.5)], FS);
  expect(turned.faults).toEqual([
    'the polarity is turned on the right side alone',
    'the sides come back 2.0 samples apart',
  ]);
});

test('three repeats: told when they disagree, and when nothing comes back', () => {
  const steady = [311, 311.02, 310.99].map((d) => measureLoop(played, late(played, d), FS));
  expect(agreed(steady).faults).toEqual([]);
  const moving = [311, 350, 311].map((d) => measureLoop(played, late(played, d), FS));
  expect(agreed(moving).faults[0]).toContain('disagree: delay 311.0, 350.0, 311.0 samples');
  const three = Float32Array.from({ length: 3 * played.length }, (_, i) => played[i % played.length]);
  const back = new Float32Array(three.length + 6000);
  [400, 460, 400].forEach((d, i) => back.set(played, i * played.length + d));
  const found = measureLoop(three, back, FS);
  expect(Math.abs(found.delay - 400)).toBeLessThan(0.05);
  expect(found.faults[0]).toContain('disagree');
  expect(measureLoop(played, new Float32Array(played.length), FS).faults).toEqual(['nothing came back']);
  expect(measureLoop(played, noise(0.001, played.length), FS).faults).toEqual(['nothing came back']);
});

test('levels by the book: 0 dBu = 0.7746 V, +4 dBu = 1.228 V, −10 dBV = 0.3162 V = −7.78 dBu', () => {
  expect(voltsOfDbu(0)).toBeCloseTo(0.7746, 4);
  expect(voltsOfDbu(4)).toBeCloseTo(1.228, 3);
  expect(voltsOfDbu(dbuOfDbv(-10))).toBeCloseTo(0.3162, 4);
  expect(dbuOfDbv(-10)).toBeCloseTo(-7.78, 2);
  expect(dbvOfDbu(dbuOfDbv(-3))).toBeCloseTo(-3, 12);
  expect(tooHot('plus4', 'minus10')).toBeCloseTo(11.78, 2);
  // a converter after EBU R 68 and one after SMPTE RP 155
  expect([dbuOfDbfs(0, 18), dbuOfDbfs(0, 24), dbfsOfDbu(4, 24)]).toEqual([18, 24, -20]);
  expect(unityGain({ alignment: 18 }, { alignment: 24 })).toBe(6);
});

test('headroom of a full-scale peak: in a unit 20 dB above its nominal level, and in the converter on the way back', () => {
  const [r68, smpte] = [{ alignment: 18 }, { alignment: 24 }];
  // +18 dBu are 6.15 V; a unit at +4 dBu stands +24 dBu (common practice), the converter here 24 dBu
  expect(loopLevels(r68, smpte, 0, { nominal: 'plus4' })).toMatchObject({ sent: 18, inUnit: 6, onReturn: 6 });
  expect(loopLevels(r68, smpte, 0, null).volts).toBeCloseTo(6.153, 3);
  // −10 dBV is −7.78 dBu: 20 dB above it are 5.8 dB under what arrives
  expect(loopLevels(r68, r68, 0, { nominal: 'minus10' }).inUnit).toBeCloseTo(-5.78, 2);
  expect(loopLevels(smpte, r68, -6, { nominal: 'digital' }, 3)).toMatchObject({ inUnit: null, onReturn: 3 });
});
