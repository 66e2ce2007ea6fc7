import { useEventListener } from '@vueuse/core';
import { computed, onBeforeUnmount, ref, shallowRef, watch, type Ref } from 'vue';

/** px a second, over so many scroll events in a row, that nobody reads lines at */
const FAST = 1500;
const IN_A_ROW = 3;
/** ms without a scroll event after which the list stands */
const REST = 90;
/** rows that are drawn whole in one frame when the list stands again */
const AT_ONCE = 3;

/**
 * Which rows of a list are drawn whole. While it flies past, rows that come into sight are only sketched, so that it
 * keeps up with the hand; they become whole a few at a time as soon as it slows down.
 * @param scroller what scrolls
 * @param shown the keys of the rows that are drawn now
 */
export function useRushing(scroller: Readonly<Ref<HTMLElement | null>>, shown: () => string[]) {
  const isFast = ref(false);
  const whole = shallowRef<ReadonlySet<string>>(new Set());
  let [last, lastTime, inARow] = [0, 0, 0];
  let rest: ReturnType<typeof setTimeout> | undefined;
  let frame = 0;

  function scrolled(): void {
    const [top, time] = [scroller.value!.scrollTop, performance.now()];
    const speed = (Math.abs(top - last) / Math.max(1, time - lastTime)) * 1000;
    [last, lastTime] = [top, time];
    inARow = speed > FAST ? inARow + 1 : 0;
    if (inARow >= IN_A_ROW && !isFast.value) begin();
    clearTimeout(rest);
    rest = setTimeout(() => {
      inARow = 0;
      if (isFast.value) complete();
    }, REST);
  }
  /** What is drawn already stays whole as long as it is in sight. */
  function begin(): void {
    cancelAnimationFrame(frame);
    whole.value = new Set(shown().filter((key) => !isFast.value || whole.value.has(key)));
    isFast.value = true;
  }
  /** A few more rows become whole with each frame, until all are. */
  function complete(): void {
    if (inARow >= IN_A_ROW) return;
    const left = shown().filter((key) => !whole.value.has(key));
    if (!left.length) {
      isFast.value = false;
      return;
    }
    whole.value = new Set([...whole.value, ...left.slice(0, AT_ONCE)]);
    frame = requestAnimationFrame(complete);
  }
  useEventListener(scroller, 'scroll', scrolled, { passive: true });
  // a row that has left the sight comes back as a sketch
  watch(shown, (keys) => {
    if (!isFast.value) return;
    const kept = keys.filter((key) => whole.value.has(key));
    if (kept.length < whole.value.size) whole.value = new Set(kept);
  });
  onBeforeUnmount(() => {
    clearTimeout(rest);
    cancelAnimationFrame(frame);
  });
  return { isSketch: computed(() => (key: string) => isFast.value && !whole.value.has(key)) };
}
