import {
  Arena,
  MixList,
  backend,
  cascade,
  clipBlock,
  doubles,
  ints,
  linked,
  mix,
  saturate,
  useBackend,
  within,
} from './index.ts';
import { cookbook } from '../biquad.ts';
import { Oversampler } from '../oversample.ts';
import { renderNow } from '../../index.ts';
import { anySession } from '../../../tests/support/generate.ts';
import { clipOf, db, dev, device, noise, peak, send, sessionWith } from '../../../tests/support/build.ts';
import fc from 'fast-check';

const at = (x: Float32Array) => {
  const d = doubles(x.length);
  d.set(x);
  return d;
};
/**
 * what both backends make of the same; where the machine has no SIMD there is nothing to compare, and that is
 * a failure
 */
function both<R>(run: () => R): [R, R] {
  expect(backend()).toBe('simd');
  const fast = run();
  useBackend('plain');
  try {
    return [fast, run()];
  } finally {
    useBackend('simd');
  }
}
const apart = (a: ArrayLike<number>, b: ArrayLike<number>) =>
  Math.max(...Array.from(a, (v, i) => Math.abs(v - b[i])));

test('SIMD is chosen by itself where there is some', () => expect(backend()).toBe('simd'));

test.each([1, 2, 3, 4, 5, 6, 7, 9])(
  '%i sections in a row, in odd lengths and from the middle of a block',
  (count) => {
    const run = () => {
      const [l, r, c, s, list] = [
        at(noise(0.1, 0.5, 1).subarray(0, 480)),
        at(noise(0.1, 0.5, 2).subarray(0, 480)),
        doubles(count * 5),
        doubles(count * 4),
        ints(count),
      ];
      for (let k = 0; k < count; k++) {
        c.set(cookbook(k % 2 ? 'bell' : 'highPass', 80 * (k + 1), 6, 0.8, 48000), k * 5);
        list[k] = count - 1 - k;
      }
      for (const [a, b] of [
        [0, 1],
        [1, 24],
        [24, 161],
        [161, 480],
      ]) {
        cascade(l, r, a, b, c, s, list, count);
      }
      return [...l, ...r, ...s];
    };
    const [fast, slow] = both(run);
    // sums are rounded in another order, and once less where the machine multiplies and adds in one
    expect(apart(fast, slow)).toBeLessThan(1e-12);
  },
);

test('states that fade away end at zero, not among the denormals', () => {
  const [s] = both(() => {
    const [l, r, c, st, list] = [doubles(512), doubles(512), doubles(5), doubles(4), ints(1)];
    c.set(cookbook('lowPass', 40, 0, 0.7, 48000));
    l[0] = r[0] = 1;
    for (let k = 0; k < 800; k++) {
      cascade(l, r, 0, 512, c, st, list, 1);
      l.fill(0);
      r.fill(0);
    }
    return [...st];
  });
  expect(s).toEqual([0, 0, 0, 0]);
});

test.each([
  [0, 6, 0.75, 0.02, 0.001],
  [0, 1e-300, 0.75, 0.02, 0.001],
  [0, 0, 1, 0.02, 0.001],
  [0.002, 12, 0.5, 0.3, 0.0001],
  [0, 6, 0.9, 0.0005, 0.02],
])(
  'compressor: rms pole %d, knee %d dB, slope %d, attack %d, release %d',
  (kr, knee, slope, attack, release) => {
    const run = () => {
      const n = 4800;
      const l = at(noise(0.1, 0.9, 3));
      const r = at(noise(0.1, 0.9, 4));
      for (let i = 0; i < n; i++) {
        const g = i % 1600 < 400 ? 1 : 0.01;
        l[i] *= g;
        r[i] *= g * 0.7;
      }
      l.fill(0, 3000, 3100);
      r.fill(0, 3000, 3100);
      const v = doubles(8);
      const s = doubles(4);
      const report = doubles(2);
      const work = doubles(n + 4);
      v.set([
        -20 / 6.0206,
        knee / 6.0206,
        slope,
        (attack + release) / 2,
        (attack - release) / 2,
        0.5,
        0.9,
        1,
      ]);
      for (const [a, b] of [
        [0, 3],
        [3, 8],
        [8, 129],
        [129, 131],
        [131, 4800],
      ]) {
        linked(l, r, l, r, a, b, v, s, report, kr, work);
      }
      return { l: [...l], gain: s[0], most: report[0], loud: report[1] };
    };
    const [fast, slow] = both(run);
    // a gain error of 0.0001 dB is 1.15e-5 of the sample
    slow.l.forEach((v, i) => {
      if (Math.abs(fast.l[i] - v) > 1.15e-5 * Math.abs(v) + 1e-12) {
        throw new Error(`sample ${i}: ${fast.l[i]} against ${v}`);
      }
    });
    expect(fast.gain).toBeCloseTo(slow.gain, 5);
    expect(fast.most).toBeCloseTo(slow.most, 5);
    expect(fast.loud / slow.loud).toBeCloseTo(1, 6);
  },
);

test('mixing: any number of sources, odd lengths', () => {
  for (const count of [1, 2, 3, 4, 5, 8, 11, 70]) {
    for (const n of [1, 7, 128, 333]) {
      const [fast, slow] = both(() => {
        const m = new MixList();
        for (let k = 0; k < count; k++) {
          m.push(
            at(noise(0.01, 0.5, k + 1).subarray(0, n)),
            at(noise(0.01, 0.5, k + 90).subarray(0, n)),
            0.3 + k / 10,
            -k / 7,
          );
        }
        const [l, r] = [at(noise(0.01, 0.5, 7).subarray(0, n)), doubles(n)];
        mix(l, r, n, m);
        return [...l, ...r];
      });
      expect(apart(fast, slow)).toBeLessThan(1e-12);
    }
  }
});

test.each([2, 4, 8] as const)('%i times up and down again, in blocks of any length', (factor) => {
  const [fast, slow] = both(() => {
    const o = new Oversampler(factor, 512);
    const out: number[] = [];
    const x = noise(0.05, 0.8, 9);
    let at = 0;
    for (const n of [1, 2, 3, 5, 128, 37, 512, 511]) {
      const block = at0(x, at, n);
      out.push(...o.raise(block, n).subarray(0, n * factor));
      const back = doubles(n);
      o.lower(back, n);
      out.push(...back);
      at += n;
    }
    return out;
  });
  expect(apart(fast, slow)).toBeLessThan(1e-12);
});
const at0 = (x: Float32Array, from: number, n: number) => at(x.subarray(from, from + n));

test('saturation and clipping, from silence to far over the top', () => {
  for (const [gain, bias] of [
    [1, 0],
    [40, 0.5],
    [1e-6, 0.2],
    [4000, 0],
  ]) {
    const t = Math.tanh(bias);
    const k = 1 / (1 - t * t);
    const [fast, slow] = both(() => {
      const x = at(noise(0.02, 1, 10));
      saturate(x, 0, 900, gain, bias);
      return [...x];
    });
    expect(apart(fast, slow)).toBeLessThan(3e-7);
    // and both are the function of the textbook
    noise(0.02, 1, 10).forEach((v, i) => {
      if (i < 900) {
        expect(Math.abs(fast[i] - k * (Math.tanh(gain * v + bias) - t))).toBeLessThan(
          1e-12 + 1e-9 * Math.abs(gain * v),
        );
      }
    });
  }
  for (const [gain, soft] of [
    [1, 0],
    [3, 0.2],
    [0.01, 1],
    [1e-9, 0.5],
  ]) {
    const [fast, slow] = both(() => {
      const x = at(noise(0.02, 1, 11));
      const s = doubles(3);
      clipBlock(x, 0, 300, gain, 0.8, soft, s);
      clipBlock(x, 300, 900, gain, 0.8, soft, s);
      return [...x, ...s];
    });
    expect(apart(fast, slow)).toBeLessThan(1e-9);
  }
});

test('whole sessions sound the same with either, racks, keys and sends included', () => {
  const sound = { l: noise(1, 0.4, 5), r: noise(1, 0.4, 6) };
  const s = sessionWith([
    {
      id: 'a',
      clips: [clipOf('x')],
      chain: [
        device('eq', { 'b1.on': true, 'b3.on': true, 'b3.gain': 6, 'b5.on': true, 'b5.gain': -4 }),
        device('compressor', { threshold: -30, detector: 'rms' }),
        device('compressor', { link: 40 }),
      ],
    },
    {
      id: 'b',
      clips: [clipOf('x')],
      chain: [
        device('multiband'),
        device('compressor', { threshold: -34 }, { key: { kind: 'track', track: 'a', tap: 'pre' } }),
      ],
    },
    { id: 'r', role: 'return', chain: [device('reverb', { mix: 100 })] },
  ]);
  s.tracks[0].sends = [send('r', -6)];
  const [fast, slow] = both(() => renderNow(s, { sounds: new Map([['x', sound]]), to: 1 }).master[0]);
  const rest = fast.map((v, i) => v - slow[i]);
  expect(db(peak(rest) / peak(slow))).toBeLessThan(-100);
  expect(dev(s.tracks[0].chain[0]).type).toBe('eq');
  // and any session that can be thought up renders with both, to numbers
  fc.assert(
    fc.property(anySession(), (x) => {
      const [p, q] = both(() => renderNow(x, { sounds: new Map(), to: 0.02 }).master[0]);
      return p.every(Number.isFinite) && q.every(Number.isFinite);
    }),
    { numRuns: 15 },
  );
});

test('buffers of a render that has ended are used again; what finds no room comes from the heap and works', () => {
  const arena = new Arena();
  const first = within(arena, () => doubles(100));
  first.fill(3);
  arena.release();
  const again = doubles(100);
  expect(again.byteOffset).toBe(first.byteOffset);
  expect(again.every((v) => v === 0)).toBe(true);
  const many = Array.from({ length: 60 }, () => doubles(128 * 1024));
  expect(many.at(-1)!.buffer).not.toBe(many[0].buffer);
  const m = new MixList();
  m.push(many.at(-1)!.fill(1), many[0].fill(2), 0.5, 0.5);
  const [l, r] = [doubles(4), doubles(4)];
  mix(l, r, 4, m);
  expect([l[0], r[0]]).toEqual([0.5, 1]);
});
