/** Lines of one channel: the costly part is worked once, and nothing of it is heard. */
import fc from 'fast-check';
import {
  ADDABLE,
  DEVICE_TYPES,
  createRack,
  createStrand,
  renderNow,
  type Device,
  type DeviceType,
  type Params,
} from '../index.ts';
import { Arena, doubles, within } from '../devices/kernels/index.ts';
import type { Processor } from '../devices/spec.ts';
import { both, clipOf, device, difference, noise, peak, sessionWith } from '../../tests/support/build.ts';
import { working } from '../../tests/support/devices.ts';

const BLOCK = 128;
const types = Object.values(DEVICE_TYPES);
const made = (d: DeviceType, params: Params): Processor =>
  d.create(params, { sampleRate: 48000, maxBlock: BLOCK, tempo: 120 } as never);

/** Runs a processor over blocks of one sound on both sides; `one` says which blocks are worked once. */
function run(p: Processor, blocks: Float32Array[], one: (k: number) => boolean): number[][] {
  let was = false;
  return blocks.map((x, k) => {
    const [l, r] = [doubles(BLOCK), doubles(BLOCK)];
    l.set(x);
    r.set(x);
    if (was && !one(k)) p.twin!();
    was = one(k);
    if (was) p.processOne!(l, r, x.length);
    else p.process(l, r, x.length, l, r);
    return [...l.subarray(0, x.length), ...r.subarray(0, x.length)];
  });
}
const cut = (lengths: number[]): Float32Array[] => lengths.map((n, k) => noise(0.1, 0.6, k + 1).slice(0, n));
const lengths = fc.array(fc.integer({ min: 1, max: BLOCK }), { minLength: 4, maxLength: 30 });

test.each(types.filter((d) => d.keepsMono).map((d) => [d.type, d] as const))(
  '%s: sides that are one come out as one',
  (_type, d) => {
    for (const out of run(made(d, working(d)), cut([128, 1, 77, 128, 128, 64]), () => false)) {
      const half = out.length / 2;
      expect(out.slice(0, half).every((v, i) => v === out[half + i])).toBe(true);
    }
  },
);

const ones = types.filter((d) => made(d, d.defaults).processOne);
test('what costs most is worked once', () =>
  expect(ones.map((d) => d.type)).toEqual(['gate', 'deesser', 'limiter', 'clipper', 'saturator']));

test.each(ones.map((d) => [d.type, d] as const))(
  '%s: worked once, or once for a while, it is what it is worked twice, to the last bit',
  (_type, d) => {
    fc.assert(
      fc.property(lengths, fc.integer({ min: 0, max: 30 }), (list, change) => {
        // given back at once: a processor that finds no room beside its own buffers is worked by other kernels
        const arena = new Arena();
        within(arena, () => {
          const twice = run(made(d, working(d)), cut(list), () => false).flat();
          const once = run(made(d, working(d)), cut(list), (k) => k < change).flat();
          expect(once.every((v, i) => v === twice[i])).toBe(true);
        });
        arena.release();
      }),
      { numRuns: 15 },
    );
  },
);

const rackAround = (inner: Device[]) =>
  createRack('R', [], { strands: [createStrand('One', inner), createStrand('Two', [])] });

test('a line of mono sound: any chain, racks included, makes of one channel what it makes of two', () => {
  const sound = noise(0.3, 0.4, 9);
  let loudest = 0;
  const step = fc
    .constantFrom(...ADDABLE.filter((d) => d.type !== 'pitchcorrect' && d.type !== 'outboard'))
    .map((d) => device(d.type, working(d)));
  const chain = fc.array(fc.oneof(step, fc.array(step, { minLength: 1, maxLength: 2 }).map(rackAround)), {
    minLength: 1,
    maxLength: 4,
  });
  fc.assert(
    fc.property(chain, (slots) => {
      const [one, two] = ([1, 2] as const).map((channels) => {
        const line = { id: 'a', name: 'A', channels, chain: slots, clips: [clipOf('x', 1)] };
        const options = { sounds: new Map([['x', both(sound)]]), to: 0.25, taps: ['a:pre'] };
        return renderNow(sessionWith([line]), options)['a:pre'];
      });
      loudest = Math.max(loudest, peak(one[0]));
      for (const side of [0, 1]) expect(difference(one[side], two[side])).toBe(0);
    }),
    { numRuns: 30 },
  );
  expect(loudest).toBeGreaterThan(0.1);
});
