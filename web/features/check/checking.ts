import { computed, ref, shallowRef, watch } from 'vue';
import type { Finding, Levels, Session } from '../../../core/index.ts';
import { isCancelled, jobs, plain, type Running } from '../../audio/jobs.ts';
import { useSession } from '../../document/doc.ts';
import { useUi } from '../../ui/window.ts';
import { usePorts } from '../ports/index.ts';

/** ms from the last change until the session is checked */
const CHECK_AFTER = 350;

/** Checks in the worker a moment after every change, and measures levels when asked to. */
export function makeChecking() {
  const session = useSession();
  const ui = useUi();
  const all = shallowRef<Finding[]>([]);
  /** set once a check of the session as it is now is through */
  const done = ref(false);
  const levels = shallowRef<{ session: Session; measured: Levels } | null>(null);
  const measuring = ref<number | null>(null);
  let job: Running<Levels> | null = null;
  let timer: ReturnType<typeof setTimeout> | undefined;
  let run = 0;

  async function check(): Promise<void> {
    const s = session.doc;
    const mine = ++run;
    if (!s) {
      all.value = [];
      return;
    }
    try {
      const found = await jobs.check(plain(s), levels.value?.measured ?? null, usePorts().buffer).done;
      if (mine !== run) return;
      all.value = found;
      done.value = session.doc === s;
    } catch {
      /* the worker is gone: the next change asks a new one */
    }
  }
  watch(
    () => session.doc,
    () => {
      done.value = false;
      clearTimeout(timer);
      timer = setTimeout(() => void check(), CHECK_AFTER);
    },
    { immediate: true },
  );
  watch(
    () => session.id,
    () => {
      // what is found of the session before is not of this one
      run++;
      all.value = [];
      levels.value = null;
      job?.cancel();
      measuring.value = null;
    },
  );

  /** whether the session changed since its levels were measured */
  const stale = computed(() => !!levels.value && levels.value.session !== session.doc);

  async function listen(): Promise<void> {
    const s = session.doc;
    if (!s || measuring.value !== null) return;
    measuring.value = 0;
    job = jobs.levels(plain(s), (p) => {
      measuring.value = p;
    });
    try {
      levels.value = { session: s, measured: await job.done };
      await check();
    } catch (e) {
      if (!isCancelled(e)) ui.fail(e);
    } finally {
      measuring.value = null;
      job = null;
    }
  }
  const stop = () => job?.cancel();
  return { all, done, levels, measuring, stale, listen, stop };
}
