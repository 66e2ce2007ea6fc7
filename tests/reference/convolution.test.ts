/**
 * Convolution against its definition, y[n] = Σ h[k] · x[n − k] (A. V. Oppenheim, R. W. Schafer, Discrete-Time Signal
 * Processing, section 2.3), and the impulse responses that ship against the decays that they state (ISO 3382-1: T20 by
 * backward integration, octaves by IEC 61260-1).
 */
import { DEVICE_TYPES, SPACES, decayCurve, soundOfSpace, spaceId, type Params } from '../../core/index.ts';
import { doubles } from '../../core/devices/kernels/index.ts';
import { db, noise, rms } from '../support/build.ts';
import { octave } from '../support/octave.ts';

const FS = 48000;
const ID = 'a'.repeat(64);
const spec = DEVICE_TYPES.convolution;
const plain: Params = { ...spec.defaults, impulse: ID, even: false, lowCut: 16, highCut: 24000 };

/** Both sides through the device, in blocks of some lengths in turn; the cuts stay in: `through` compares like with like. */
function run(
  l: Float32Array,
  r: Float32Array,
  h: [Float32Array, Float32Array],
  blocks: number[],
  over: Params = {},
) {
  const maxBlock = Math.max(...blocks);
  const proc = spec.create(
    { ...plain, ...over },
    { sampleRate: FS, tempo: 120, maxBlock, sounds: new Map([[ID, { l: h[0], r: h[1] }]]) },
  );
  const [bl, br] = [doubles(maxBlock), doubles(maxBlock)];
  const out: [Float64Array, Float64Array] = [new Float64Array(l.length), new Float64Array(l.length)];
  for (let at = 0, k = 0; at < l.length; k++) {
    const n = Math.min(blocks[k % blocks.length], l.length - at);
    bl.set(l.subarray(at, at + n));
    br.set(r.subarray(at, at + n));
    proc.process(bl, br, n, bl, br);
    out[0].set(bl.subarray(0, n), at);
    out[1].set(br.subarray(0, n), at);
    at += n;
  }
  return out;
}
const apart = (a: ArrayLike<number>, b: ArrayLike<number>) =>
  Math.max(...Array.from(a, (v, i) => Math.abs(v - b[i])));
const impulseOf = (seconds: number, seed: number) =>
  noise(seconds, 0.1, seed).map((v, i) => v * Math.exp(-i / (seconds * 12000)));
const delta = (n: number) => Float32Array.from({ length: n }, (_, i) => (i === 0 ? 1 : 0));

test('every length is convolved as the definition says, both sides by their own response, from the first sample on', () => {
  for (const length of [1, 100, 129, 4000, 4097, 9000, 20011]) {
    const h: [Float32Array, Float32Array] = [
      impulseOf(0.45, 3).subarray(0, length),
      impulseOf(0.45, 4).subarray(0, length),
    ];
    const l = noise(0.7, 0.5, 1);
    const r = noise(0.7, 0.5, 2);
    const [yl, yr] = run(l, r, h, [128]);
    // what the cuts before the space do is the same for the definition: they are linear and stand first
    const [cl] = run(l, l, [delta(1), delta(1)], [128]);
    const [cr] = run(r, r, [delta(1), delta(1)], [128]);
    for (const n of [0, 1, 127, 128, 500, 4095, 4096, 4224, 6143, 8192, 20000, 31000]) {
      let [a, b] = [0, 0];
      for (let k = 0; k <= Math.min(n, length - 1); k++) {
        a += h[0][k] * cl[n - k];
        b += h[1][k] * cr[n - k];
      }
      expect(Math.abs(yl[n] - a)).toBeLessThan(1e-9);
      expect(Math.abs(yr[n] - b)).toBeLessThan(1e-9);
    }
  }
});

test('the sound does not depend on the blocks, also where silence lies between', () => {
  const h: [Float32Array, Float32Array] = [impulseOf(0.3, 3), impulseOf(0.3, 4)];
  const x = noise(2, 0.5, 1).map((v, i) => (i > 9000 && i < 70001 ? 0 : v));
  const [a] = run(x, x, h, [128]);
  for (const blocks of [[1000], [1, 37, 512, 129], [4096]]) {
    expect(apart(a, run(x, x, h, blocks)[0])).toBeLessThan(1e-12);
  }
});

test('it adds no delay, and is as loud as the algorithmic reverb where that is asked for', () => {
  const [y] = run(delta(2000), delta(2000), [delta(500), delta(500)], [128]);
  expect(y[0]).toBeGreaterThan(0.9);
  const x = noise(6, 0.5, 5);
  const level = (type: string, over: Params) => {
    const proc = DEVICE_TYPES[type].create(
      { ...DEVICE_TYPES[type].defaults, lowCut: 16, highCut: 24000, ...over },
      { sampleRate: FS, tempo: 120, maxBlock: 512 },
    );
    const [l, r] = [doubles(512), doubles(512)];
    const all = new Float32Array(x.length);
    for (let at = 0; at + 512 <= x.length; at += 512) {
      l.set(x.subarray(at, at + 512));
      r.set(l);
      proc.process(l, r, 512, l, r);
      all.set(l, at);
    }
    return db(rms(all, 3 * FS));
  };
  const reverb = level('reverb', { type: 'hall', decay: 2, damping: 0 });
  const levels = SPACES.map((s) => level('convolution', { impulse: spaceId(s) }) - reverb);
  expect(levels.filter((d) => Math.abs(d) > 1.5)).toEqual([]);
});

test('a change of the space while it plays fades over, and start and length cut the response', () => {
  const h: [Float32Array, Float32Array] = [impulseOf(1, 3), impulseOf(1, 4)];
  const [later] = run(delta(48000), delta(48000), h, [128], { start: 100 });
  const [cut] = run(delta(48000), delta(48000), [h[0].subarray(4800), h[1].subarray(4800)], [128]);
  expect(apart(later, cut)).toBeLessThan(1e-12);
  const [short] = run(delta(48000), delta(48000), h, [128], { length: 50 });
  // what is left is the ringing of the cut at 16 Hz
  expect(rms(Float32Array.from(short.subarray(24100, 30000)))).toBeLessThan(1e-5);
  const proc = spec.create({ ...spec.defaults }, { sampleRate: FS, tempo: 120, maxBlock: 128 });
  const [l, r] = [doubles(128), doubles(128)];
  const x = noise(3, 0.3, 5);
  const out = new Float32Array(x.length);
  for (let at = 0; at + 128 <= x.length; at += 128) {
    l.set(x.subarray(at, at + 128));
    r.set(l);
    if (at === 128 * 300) proc.set({ ...spec.defaults, impulse: spaceId(SPACES[4]) }, false);
    proc.process(l, r, 128, l, r);
    out.set(l, at);
  }
  const level = (from: number) => db(rms(out.subarray(from, from + 9600)));
  expect(Math.abs(level(48000) - level(24000))).toBeLessThan(6);
  expect(Math.abs(level(110000) - level(24000))).toBeLessThan(3);
});

/** Seconds to −60 dB by the stretch from −5 to −25 dB: behind it, slower octaves beside it are all that is left. */
function t20(x: Float32Array): number {
  const curve = decayCurve(x);
  const at = (level: number) => curve.findIndex((v) => v <= level) / FS;
  return 3 * (at(-25) - at(-5));
}

test.each(SPACES.map((s) => [s.label, s] as const))('%s: its octaves decay as it states', (_, space) => {
  const { l } = soundOfSpace(space, FS);
  const ratios = space.decay.map((stated, k) => t20(octave(l, 63 * 2 ** k)) / stated);
  expect(ratios.slice(1, 8).filter((q) => Math.abs(q - 1) > 0.15)).toEqual([]);
  // another rate is the same space
  const other = soundOfSpace(space, 44100);
  expect(Math.abs(other.l.length / 44100 - l.length / FS)).toBeLessThan(0.001);
});
