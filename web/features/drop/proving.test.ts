import type { NullResult } from '../../../core/index.ts';
import type { Running } from '../../audio/running.ts';
import { makeProving } from './proving.ts';

const settle = () => new Promise((resolve) => setImmediate(resolve));
const dropped = (drop: string) => ({ plan: { drop } });
type Dropped = ReturnType<typeof dropped>;

/** Null tests that end when they are told to, and what was kept and told of them. */
function workshop() {
  const begun: { drop: string; end: (failure?: string) => void }[] = [];
  const kept: [string, number | null][] = [];
  const told: [string, number | string][] = [];
  function test({ plan }: Dropped): Running<NullResult> {
    let cancel!: () => void;
    const done = new Promise<NullResult>((resolve, reject) => {
      cancel = () => reject(Object.assign(new Error('called off'), { code: 'cancelled' }));
      const end = (failure?: string) =>
        failure ? reject(new Error(failure)) : resolve({ residual: -Infinity } as NullResult);
      begun.push({ drop: plan.drop, end });
    });
    return { done, cancel };
  }
  const { prove } = makeProving<Dropped>({
    test,
    keep: async ({ plan }, nulls) => void kept.push([plan.drop, nulls && nulls.residual]),
    tell: ({ plan }, proof) =>
      void told.push([plan.drop, 'error' in proof ? proof.error : proof.nulls.residual]),
    fail: (e) => {
      throw e;
    },
  });
  const end = async (failure?: string) => {
    begun.at(-1)!.end(failure);
    await settle();
  };
  return { begun, kept, told, prove, end };
}

test('a drop while another is proven: the newer one is proven first, and none goes without its proof', async () => {
  const w = workshop();
  w.prove([dropped('one'), dropped('two')]);
  await settle();
  w.prove([dropped('three')]);
  await settle();
  // reports are there before any test is through
  expect(w.kept).toEqual([
    ['one', null],
    ['two', null],
    ['three', null],
  ]);
  for (let n = 0; n < 3; n++) await w.end();
  expect(w.begun.map((x) => x.drop)).toEqual(['one', 'three', 'two', 'one']);
  expect(w.told.map(([drop]) => drop)).toEqual(['three', 'two', 'one']);
  expect(w.kept.slice(3)).toEqual([
    ['three', -Infinity],
    ['two', -Infinity],
    ['one', -Infinity],
  ]);
});

test('a null test that fails is told, the report stays, and the next one is proven', async () => {
  const w = workshop();
  w.prove([dropped('one'), dropped('two')]);
  await settle();
  await w.end('out of memory');
  await w.end();
  expect(w.told).toEqual([
    ['one', 'out of memory'],
    ['two', -Infinity],
  ]);
  expect(w.kept.at(-1)).toEqual(['two', -Infinity]);
});
