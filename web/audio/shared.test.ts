import { Ring, shareable } from './shared.ts';
import { sumsSize } from '../../core/engine/share.ts';

/** two views of the same memory, as a helper and the worker that it helps have them */
function pair(collects = 2): [Ring, Ring] {
  const ring = Ring.make(collects);
  return [ring, new Ring(ring.memory, collects)];
}
/** fills the ring until it is full; the number of the next chunk */
function fill(helper: Ring, from = 0): number {
  let k = from;
  for (const stop = from + 32; k < stop; k++) {
    helper.room(k)!.fill(k);
    helper.put(k);
  }
  return k;
}

test('chunks arrive in order and whole, round and round, and a place is used again only when its chunk was taken', () => {
  const [main, helper] = pair();
  let put = fill(helper);
  for (let k = 0; k < 200; k++) {
    const sums = main.take(k, 0)!;
    expect(sums.length).toBe(sumsSize(2));
    expect([sums[0], sums[sums.length - 1]]).toEqual([k, k]);
    // taking chunk k frees all before it, never k itself
    while (put < k + 32) {
      helper.room(put)!.fill(put);
      helper.put(put++);
    }
    expect(sums[5]).toBe(k);
  }
});

test('a chunk that is not there yet is told as such, also when the helper has failed', () => {
  const [main, helper] = pair(1);
  expect(main.take(0, 5)).toBeNull();
  expect(main.failed).toBe(false);
  helper.fail();
  expect(main.take(0, 5)).toBeNull();
  expect(main.failed).toBe(true);
});

test('when the render is over, a helper that is ahead stops, whether there is room or not', () => {
  const [main, helper] = pair(1);
  const k = fill(helper);
  main.over();
  expect(helper.room(k)).toBeNull();
  const [other, idle] = pair(1);
  other.over();
  expect(idle.room(0)).toBeNull();
});

test('shared memory holds the same numbers', () => {
  const x = Float32Array.of(0.5, -0.25, 1e-9);
  expect([...shareable(x)]).toEqual([...x]);
  expect(shareable(x).buffer).toBeInstanceOf(SharedArrayBuffer);
});
