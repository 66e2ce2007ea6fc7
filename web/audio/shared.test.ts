import { Ring, renderBeside, shareable } from './shared.ts';
import { render, RenderCancelled } from '../../core/index.ts';
import { sumsSize } from '../../core/engine/share.ts';
import { both, clipOf, noise, sessionWith } from '../../tests/support/build.ts';

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

/** A worker as a page has one, which does in this thread what `act` says; what became of it. */
function fakeWorker(act: (answer: (data: unknown) => void, worker: Worker) => unknown) {
  const seen = { asked: [] as unknown[], ended: 0 };
  const worker = {
    onmessage: null as ((e: MessageEvent) => void) | null,
    onerror: null as (() => void) | null,
    postMessage(task: unknown) {
      seen.asked.push(task);
      const answer = (data: unknown) => worker.onmessage?.({ data } as MessageEvent);
      queueMicrotask(() => void act(answer, worker as unknown as Worker));
    },
    terminate: () => void seen.ended++,
  };
  return { make: () => worker as unknown as Worker, seen };
}
const short = sessionWith([{ id: 'a', name: 'Line', clips: [clipOf('n')] }]);
const sounds = new Map([['n', both(noise(0.1))]]);

test('a render beside this worker: what the other one answers, its progress told, and it ends with it', async () => {
  const whole = await render(short, { sounds, to: 0.1 });
  const told: number[] = [];
  const { make, seen } = fakeWorker((answer) => {
    answer({ id: 1, progress: 0.5 });
    answer({ id: 1, result: whole });
  });
  const found = await renderBeside(short, { sounds, to: 0.1, onProgress: (p) => told.push(p) }, make);
  expect([found, told, seen.ended]).toEqual([whole, [0.5], 1]);
  expect(seen.asked).toEqual([
    { id: 1, job: { op: 'taps', session: short, sounds, to: 0.1, taps: undefined } },
  ]);
});

test.each<[string, Parameters<typeof fakeWorker>[0]]>([
  ['can’t be started', (_answer, worker) => worker.onerror?.({} as ErrorEvent)],
  ['answers that it failed', (answer) => answer({ id: 1, error: 'out of memory' })],
])('a worker that %s: it is rendered here, the same sound', async (_what, act) => {
  const { make, seen } = fakeWorker(act);
  const found = await renderBeside(short, { sounds, to: 0.1 }, make);
  expect(found).toEqual(await render(short, { sounds, to: 0.1 }));
  expect([Object.values(found).some(([l]) => l.some((x) => x !== 0)), seen.ended]).toEqual([true, 1]);
});

test('given up while the other worker renders: it is ended, and nothing is rendered here', async () => {
  const given = new AbortController();
  const { make, seen } = fakeWorker((answer) => {
    given.abort();
    answer({ id: 1, progress: 0.1 });
  });
  const rendering = renderBeside(short, { sounds, to: 0.1, signal: given.signal }, make);
  await expect(rendering).rejects.toThrow(RenderCancelled);
  expect(seen.ended).toBe(1);
});
