import { ref } from 'vue';
import { isCancelled, type Running } from '../../audio/jobs.ts';
import { useUi } from '../../ui/window.ts';

/** One long job at a time, with its progress; `busy` is the share that is done, and what of. */
export function makeLong() {
  const ui = useUi();
  const busy = ref<{ what: string; share: number } | null>(null);
  let job: Running<unknown> | null = null;

  /** Runs a job to its end; null when it was cancelled, failed, or another is still going on. */
  async function long<T>(
    what: string,
    start: (progress: (share: number) => void) => Running<T>,
  ): Promise<T | null> {
    if (busy.value) {
      ui.say(`${busy.value.what} is still going on.`);
      return null;
    }
    busy.value = { what, share: 0 };
    try {
      const running = start((share) => {
        if (busy.value) busy.value = { what, share };
      });
      job = running;
      return await running.done;
    } catch (e) {
      if (!isCancelled(e)) ui.fail(e);
      return null;
    } finally {
      busy.value = null;
      job = null;
    }
  }
  return { busy, long, stop: () => job?.cancel() };
}
