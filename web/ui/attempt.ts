import { ref } from 'vue';
import { useUi } from './window.ts';

/** Doing things that may fail: what is done stands in `busy` meanwhile, what went wrong is said at the foot. */
export function useAttempt() {
  const ui = useUi();
  const busy = ref('');
  /** the message of what went wrong last: over with the next attempt */
  let failed = 0;
  async function attempt(doing: string, task: () => Promise<unknown>): Promise<void> {
    busy.value = doing;
    ui.close(failed);
    try {
      await task();
    } catch (e) {
      failed = ui.fail(e);
    } finally {
      busy.value = '';
    }
  }
  return { busy, attempt };
}
