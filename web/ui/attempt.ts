import { ref } from 'vue';
import { useUi } from './window.ts';

/** Doing things that may fail: what is done stands in `busy` meanwhile, what went wrong is said at the foot. */
export function useAttempt() {
  const ui = useUi();
  const busy = ref('');
  async function attempt(doing: string, task: () => Promise<unknown>): Promise<void> {
    busy.value = doing;
    try {
      await task();
    } catch (e) {
      ui.fail(e);
    } finally {
      busy.value = '';
    }
  }
  return { busy, attempt };
}
