import { shallowRef } from 'vue';
import type { Id, NullResult } from '../../../core/index.ts';
import { isCancelled, type Running } from '../../audio/running.ts';

/** What became of a null test. */
export type Proof = { isProving: false } & ({ nulls: NullResult } | { error: string });

/** What proving needs around it. */
interface Around<D> {
  /** begins a null test */
  test(drop: D, progress: (share: number) => void): Running<NullResult>;
  /** keeps the report of a drop with its session; null: without a test */
  keep(drop: D, nulls: NullResult | null): Promise<unknown>;
  tell(drop: D, proof: Proof): void;
  fail(e: unknown): void;
}

/**
 * Null tests of drops, one after the other, the newest first; the report of each is kept at once, and again with its
 * test.
 */
export function makeProving<D extends { plan: { drop: Id } }>({ test, keep, tell, fail }: Around<D>) {
  /** how far the test that runs is; not kept with its drop, whose report may have thousands of rows to draw */
  const proven = shallowRef({ drop: '', share: 0 });
  const waiting: { drop: D; kept: Promise<unknown> }[] = [];
  let running: Running<NullResult> | null = null;
  let isBusy = false;

  function prove(drops: readonly D[]): void {
    // what is not kept now is told of when it is kept with its test
    const fresh = drops.map((drop) => ({ drop, kept: keep(drop, null).catch(() => undefined) }));
    waiting.unshift(...fresh);
    // the one that runs waits for those that are looked at
    running?.cancel();
    void work();
  }
  async function work(): Promise<void> {
    if (isBusy) return;
    isBusy = true;
    for (let next = waiting.shift(); next; next = waiting.shift()) {
      const { drop, kept } = next;
      const nulls = await testOf(drop);
      if (nulls === 'later') {
        waiting.push(next);
        continue;
      }
      await kept;
      await keep(drop, nulls).catch(fail);
    }
    isBusy = false;
  }
  /** @returns null where it failed */
  async function testOf(drop: D): Promise<NullResult | null | 'later'> {
    running = test(drop, (share) => {
      proven.value = { drop: drop.plan.drop, share };
    });
    try {
      const nulls = await running.done;
      tell(drop, { nulls, isProving: false });
      return nulls;
    } catch (e) {
      if (isCancelled(e)) return 'later';
      tell(drop, { error: (e as Error).message, isProving: false });
      return null;
    } finally {
      running = null;
    }
  }
  return { proven, prove };
}
