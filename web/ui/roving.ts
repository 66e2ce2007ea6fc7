import { computed, nextTick, ref, type Ref } from 'vue';

/** What scrolls a row of a long list into sight, and resolves when it is drawn. */
interface Shows {
  show(index: number): Promise<void>;
}
const STEPS: Record<string, (at: number, last: number) => number> = {
  ArrowDown: (at, last) => Math.min(last, at + 1),
  ArrowUp: (at) => Math.max(0, at - 1),
  Home: () => 0,
  End: (_at, last) => last,
  PageDown: (at, last) => Math.min(last, at + 10),
  PageUp: (at) => Math.max(0, at - 10),
};

/**
 * A list that is one stop of the Tab key, with arrows, Home, End and the page keys inside (WAI-ARIA Authoring
 * Practices: roving tabindex).
 * @param keys the rows in order
 * @param list scrolls to a row that is not drawn
 * @param idOf the id that a row's button has in the page
 * @param moved is told which row the keys came to
 */
export function useRoving(
  keys: () => readonly string[],
  list: Readonly<Ref<Shows | null>>,
  idOf: (key: string) => string,
  moved: (key: string) => void = () => {},
) {
  const at = ref<string | null>(null);
  const stop = computed(() => (at.value !== null && keys().includes(at.value) ? at.value : keys()[0]));
  async function go(index: number): Promise<void> {
    const key = keys()[index];
    if (key === undefined) return;
    at.value = key;
    moved(key);
    await list.value?.show(index);
    await nextTick();
    document.getElementById(idOf(key))?.focus();
  }
  function press(e: KeyboardEvent): void {
    const step = STEPS[e.key];
    const all = keys();
    if (!step || !all.length || e.ctrlKey || e.altKey || e.metaKey) return;
    e.preventDefault();
    // from the row that has the focus, otherwise from the one that was come to last
    const here = all.findIndex((key) => idOf(key) === document.activeElement?.id);
    const from = here < 0 && at.value !== null ? all.indexOf(at.value) : here;
    void go(step(from, all.length - 1));
  }
  /** For each row: 0 for the one that Tab stops at, −1 for all others. */
  const tabOf = (key: string): 0 | -1 => (key === stop.value ? 0 : -1);
  const stand = (key: string): void => {
    at.value = key;
  };
  return { tabOf, press, stand };
}
