import { useEventListener, useMutationObserver } from '@vueuse/core';
import { watch, type Ref } from 'vue';
import { useSession } from '../../document/doc.ts';

const STOPS = 'button, a[href], input, select, textarea, [tabindex]';

/**
 * A list of many lines is as few stops of the Tab key as one line has: only the line in hand can be gone through, ↑ and ↓
 * lead to the others (WAI-ARIA Authoring Practices: grid).
 * @param list what the lines are drawn in
 */
export function useOneLine(list: Readonly<Ref<HTMLElement | null>>): void {
  const session = useSession();
  let due = 0;

  function arrange(): void {
    due = 0;
    const rows = [...(list.value?.querySelectorAll<HTMLElement>('[data-line]') ?? [])];
    const current = rows.find((row) => row.dataset.line === session.selectedTrack) ?? rows[0];
    for (const row of rows) setStops(row, row === current);
  }
  const soon = (): void => {
    due ||= requestAnimationFrame(arrange);
  };
  useMutationObserver(list, soon, { childList: true, subtree: true });
  watch(
    () => session.selectedTrack,
    (id) => {
      const from = document.activeElement?.closest<HTMLElement>('[data-line]')?.dataset.line;
      const wasOnAnother = from !== undefined && from !== id;
      soon();
      // the keys go along with what they choose
      if (wasOnAnother && id) {
        requestAnimationFrame(() => nameOf(list.value, id)?.focus({ preventScroll: true }));
      }
    },
    { flush: 'post' },
  );
  // whatever gets the focus with the mouse makes its line the one in hand for the Tab key
  useEventListener(list, 'focusin', (e) => {
    const row = (e.target as HTMLElement).closest<HTMLElement>('[data-line]');
    if (row) setStops(row, true);
  });
}

const nameOf = (list: HTMLElement | null, id: string): HTMLElement | null =>
  list?.querySelector<HTMLElement>(`[data-line="${CSS.escape(id)}"] [data-name]`) ?? null;

/** Lets the Tab key through a line, or past it; what was never a stop stays none. */
function setStops(row: HTMLElement, isOn: boolean): void {
  for (const el of row.querySelectorAll<HTMLElement>(STOPS)) {
    if (isOn && el.dataset.past !== undefined) {
      delete el.dataset.past;
      el.tabIndex = 0;
    } else if (!isOn && el.tabIndex >= 0) {
      el.dataset.past = '';
      el.tabIndex = -1;
    }
  }
}
