import { ref, shallowRef } from 'vue';
import type { SessionEntry } from '../../../contract/index.ts';
import { api } from '../../api/index.ts';

/** Sessions as they are found, page by page, those that were opened last first; what is overtaken is given up. */
export function useSessionPages(limit = 100) {
  const items = shallowRef<SessionEntry[] | null>(null);
  const next = ref<string | null>(null);
  const failed = ref('');
  let asked = { q: '', folder: '' };
  let under: AbortController | null = null;

  async function bring(after: string | null): Promise<void> {
    under?.abort();
    const mine = new AbortController();
    under = mine;
    try {
      const page = await api.sessions({ ...asked, limit, after: after ?? '' }, mine.signal);
      if (under !== mine) return;
      items.value = after ? [...(items.value ?? []), ...page.items] : page.items;
      next.value = page.next;
      failed.value = '';
    } catch (e) {
      if (under === mine) failed.value = (e as Error).message;
    } finally {
      if (under === mine) under = null;
    }
  }
  /** Looks for sessions, from the first page on. */
  function find(q = '', folder = ''): Promise<void> {
    asked = { q, folder };
    return bring(null);
  }
  const again = (): Promise<void> => bring(null);
  /** The next page, when there is one and none is on its way. */
  async function more(): Promise<void> {
    if (next.value && !under) await bring(next.value);
  }
  return { items, next, failed, find, again, more };
}
