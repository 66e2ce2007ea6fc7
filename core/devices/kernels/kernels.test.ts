import { setFlagsFromString } from 'node:v8';
import { runInNewContext } from 'node:vm';
import {
  Arena,
  MixList,
  backend,
  between,
  cascade,
  clipBlock,
  doubles,
  head,
  ints,
  linked,
  mix,
  multiply,
  peaks,
  powers,
  tallest,
  saturate,
  useBackend,
  widen,
  within,
} from './index.ts';
import { cookbook } from '../biquad.ts';
import { Oversampler } from '../oversample.ts';
import { renderNow } from '../../index.ts';
import { anySession } from '../../../tests/support/generate.ts';
import {
  clipOf,
  db,
  dev,
  device,
  noise,
  peak,
  send,
  sessionWith,
  stereoDevice,
} from '../../../tests/support/build.ts';
import { rows, working } from '../../../tests/support/devices.ts';
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

test.each([0, 1, 2, 7, 480])('powers of two, %i of them from the middle of a block', (n) => {
  const exponents = Float64Array.from({ length: n + 5 }, (_, i) => -47 + (62 * i) / (n + 5));
  const [fast, slow] = both(() => {
    const x = doubles(n + 5);
    x.set(exponents);
    powers(x, 3, 3 + n);
    return [...x];
  });
  exponents.forEach((e, i) => {
    const wanted = i >= 3 && i < 3 + n ? Math.pow(2, e) : e;
    expect(Math.abs(fast[i] / wanted - 1)).toBeLessThan(1e-10);
    expect(Math.abs(slow[i] / wanted - 1)).toBeLessThan(1e-10);
  });
});

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
    expect(apart(fast.l, slow.l)).toBeLessThan(1e-9);
    expect(fast.gain).toBeCloseTo(slow.gain, 9);
    expect(fast.most).toBeCloseTo(slow.most, 9);
    expect(fast.loud / slow.loud).toBeCloseTo(1, 12);
  },
);

test('the tallest of three filters: the same to the last bit, since what is measured must not depend on the machine', () => {
  for (const n of [3, 4, 8, 16]) {
    const [fast, slow] = both(() => tallest(at(noise(0.01, 0.9, 5)), n, at(noise(0.0015, 1, 6))));
    expect(fast).toBe(slow);
  }
});

test('peaks between samples: any number of places, two pairs of filters or four', () => {
  for (const n of [1, 2, 3, 4, 7, 31]) {
    for (const row of [4, 8]) {
      const [fast, slow] = both(() => {
        const out = doubles(n + 4);
        peaks(at(noise(0.01, 0.9, 5)), 40, n, at(noise(0.002, 1, 6).subarray(0, row * 12)), 12, out, 0);
        return [...out.subarray(0, n)];
      });
      expect(apart(fast, slow)).toBeLessThan(1e-12);
    }
  }
});

test('a line read between its samples, around its end, too', () => {
  const size = 64;
  const [fast, slow] = both(() => {
    const ring = at(noise(0.01, 0.9, 5).subarray(0, size + 16));
    ring.copyWithin(size, 0, 16);
    const times = at(Float32Array.from({ length: 40 }, (_, k) => 8 + ((k * 7.31) % 48)));
    between(ring, size - 1, 50, times, 40);
    return [...times];
  });
  expect(apart(fast, slow)).toBeLessThan(1e-12);
});

test('a convolution’s first samples and its products of spectra', () => {
  for (const n of [1, 4, 7, 30]) {
    const [fast, slow] = both(() => {
      const out = doubles(n + 4);
      head(at(noise(0.01, 0.9, 5)), 40, n, at(noise(0.01, 1, 6).subarray(0, 17)), out, 0);
      return [...out.subarray(0, n)];
    });
    expect(apart(fast, slow)).toBeLessThan(1e-12);
  }
  const bins = 8;
  for (const newest of [0, 2, 4]) {
    const [fast, slow] = both(() => {
      const spectra = {
        blocks: at(noise(0.01, 0.9, 5)),
        first: 2 * bins,
        stride: 4 * bins,
        count: 5,
        parts: at(noise(0.01, 0.9, 8)),
        bins,
      };
      const sum = at(noise(0.01, 0.1, 9).subarray(0, 2 * bins));
      multiply(sum, spectra, newest, 1, 5);
      return [...sum];
    });
    expect(apart(fast, slow)).toBeLessThan(1e-12);
  }
});

test('a sound is widened where it lies: what it was, times a gain, and whether all of it are numbers', () => {
  const sound = fc.array(fc.float({ noDefaultInfinity: true }), { maxLength: 40 });
  fc.assert(
    fc.property(sound, fc.double({ min: 0, max: 4, noNaN: true }), (numbers, gain) => {
      const n = numbers.length;
      const widened = () => {
        const x = doubles(48);
        const floats = new Float32Array(x.buffer, x.byteOffset, 96);
        floats.set(numbers, n);
        const isUnclean = widen(x, floats, n, gain);
        return [isUnclean, [...x.subarray(0, n)]];
      };
      const wanted = [numbers.some((v) => !Number.isFinite(v)), numbers.map((v) => v * gain)];
      expect(both(widened)).toEqual([wanted, wanted]);
    }),
    { numRuns: 300 },
  );
});

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

test('buffers of a render that has ended are used again; memory grows by segments, and what lies apart is mixed all the same', () => {
  const arena = new Arena();
  const first = within(arena, () => doubles(100));
  first.fill(3);
  arena.release();
  const again = doubles(100);
  expect(again.byteOffset).toBe(first.byteOffset);
  expect(again.every((v) => v === 0)).toBe(true);
  const more = new Arena();
  within(more, () => {
    const many = Array.from({ length: 80 }, () => doubles(128 * 1024));
    expect(many.at(-1)!.buffer).not.toBe(many[0].buffer);
    const m = new MixList();
    m.push(many.at(-1)!.fill(1), many[0].fill(2), 0.5, 0.5);
    const [l, r] = [doubles(4), doubles(4)];
    mix(l, r, 4, m);
    expect([l[0], r[0]]).toEqual([0.5, 1]);
  });
  more.release();
});

test('given back in any order and size, memory is never handed out twice, and joins to one piece again', () => {
  const step = fc.record({ size: fc.integer({ min: 1, max: 400_000 }), drop: fc.nat(), gives: fc.boolean() });
  fc.assert(
    fc.property(fc.array(step, { minLength: 1, maxLength: 120 }), (steps) => {
      const live: { arena: Arena; a: Float64Array; mark: number }[] = [];
      const end = ({ arena, a, mark }: (typeof live)[number]) => {
        expect([a[0], a[a.length - 1]]).toEqual([mark, mark]);
        arena.release();
      };
      steps.forEach(({ size, drop, gives }, mark) => {
        const arena = new Arena();
        const a = within(arena, () => doubles(size)).fill(mark);
        live.push({ arena, a, mark });
        if (gives) live.splice(drop % live.length, 1).forEach(end);
      });
      live.forEach(end);
      // all but what the kernels keep for themselves is one piece
      const whole = new Arena();
      const large = within(whole, () => doubles(60 * 128 * 1024));
      expect(large.buffer).toBe(within(whole, () => doubles(1)).buffer);
      whole.release();
    }),
    { numRuns: 40 },
  );
});

test('arrays that do not lie together never reach a kernel', () => {
  const inside = (n: number) => doubles(n);
  const outside = (n: number) => new Float64Array(n);
  const run = (make: (which: number) => (n: number) => Float64Array) => {
    const n = 64;
    const [l, r] = [make(0)(n), make(1)(n)];
    for (let i = 0; i < n; i++) [l[i], r[i]] = [Math.sin(i), Math.cos(i)];
    const c = make(2)(5);
    c.set(cookbook('bell', 1000, 6, 0.8, 48000));
    cascade(l, r, 0, n, c, make(3)(4), ints(1), 1);
    const v = make(4)(8);
    v.set([-3, 1, 0.75, 0.2, 0.1, 0.5, 1, 1]);
    linked(l, r, l, r, 0, n, v, make(5)(4), make(6)(2), 0, make(7)(n + 4));
    return [...l, ...r];
  };
  const right = run(() => outside);
  for (let mask = 0; mask < 256; mask++) {
    const found = run((which) => (mask & (1 << which) ? outside : inside));
    expect(apart(found, right)).toBeLessThan(1e-9);
  }
});

/** Lines that are all the same, heavy enough that a few hundred of them need several segments. */
const sameLines = (count: number) =>
  sessionWith(
    Array.from({ length: count }, (_, i) => ({
      id: `t${i}`,
      clips: [{ ...clipOf('x', 2), id: `c${i}` }],
      chain: ['multiband', 'saturator', 'eq', 'compressor'].map((type) => ({
        ...device(type, type === 'eq' ? { 'b1.on': true, 'b1.type': 'bell', 'b1.gain': 6 } : {}),
        id: `${type}${i}`,
      })),
    })),
  );

test.each([
  [160, [1024, 128, 2048]],
  [1000, [256]],
])('%i lines that are the same sound the same, render after render', (count, blocks) => {
  const s = sameLines(count);
  const taps = [0, 1, count >> 1, count - 2, count - 1].map((i) => `t${i}`);
  const sounds = new Map([['x', { l: noise(0.2, 0.4, 5), r: noise(0.2, 0.4, 6) }]]);
  const few = sameLines(2);
  for (const blockSize of blocks) {
    const right = renderNow(few, { to: 0.02, sounds, blockSize, taps: ['t0'] }).t0;
    const out = renderNow(s, { to: 0.02, sounds, blockSize, taps });
    for (const tap of taps) expect(apart(out[tap][0], right[0])).toBe(0);
  }
});

test('two hundred renders in one process, of all sizes: none runs out of memory or sounds different', () => {
  const sounds = new Map([['x', { l: noise(0.1, 0.4, 5), r: noise(0.1, 0.4, 6) }]]);
  const sizes = [1, 7, 20, 3, 40];
  const right = renderNow(sameLines(1), { to: 0.01, sounds, taps: ['t0'] }).t0[0];
  for (let i = 0; i < 200; i++) {
    const count = sizes[i % sizes.length];
    const blockSize = [64, 128, 512, 2048][i % 4];
    const tap = `t${count - 1}`;
    const out = renderNow(sameLines(count), { to: 0.01, sounds, blockSize, taps: [tap] })[tap][0];
    expect(apart(out, right)).toBeLessThan(1e-9);
  }
});

test('a place comes back once: what is forgotten in the middle of a render is not given to two at its end', async () => {
  setFlagsFromString('--expose-gc');
  const collect = runInNewContext('gc') as () => void;
  const arena = new Arena();
  // a size of its own, so that nobody else takes it
  const size = 7777;
  const forget = () => within(arena, () => void Array.from({ length: 50 }, () => doubles(size)));
  forget();
  for (let n = 0; n < 20; n++) {
    collect();
    await new Promise((resolve) => setTimeout(resolve, 5));
  }
  arena.release();
  const taken = Array.from({ length: 200 }, () => doubles(size));
  const places = new Set(
    taken.map((x) => `${taken.findIndex((y) => y.buffer === x.buffer)} ${x.byteOffset}`),
  );
  expect(places.size).toBe(taken.length);
});

test.each(rows)(
  '%s, with what makes it work: SIMD and TypeScript agree to the last bit of single precision, in blocks of any length',
  (_, d) => {
    const params = { ...working(d), ...(d.type === 'compressor' ? { attack: 0.1 } : {}) };
    const x = noise(0.4, 0.4, 11);
    const run = (block: number) => stereoDevice(d.type, params, x, { block, right: x.map((v) => -0.3 * v) });
    for (const block of [128, 37]) {
      const [fast, slow] = both(() => run(block));
      for (const side of [0, 1] as const) {
        expect(apart(fast[side], slow[side])).toBeLessThan(1e-7);
      }
    }
  },
);
