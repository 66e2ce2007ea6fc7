import { useEventListener } from '@vueuse/core';
import { ref, type Ref } from 'vue';
import type { Box, Laid } from './layout.ts';

/** smallest and largest scale */
const LEAST = 0.04;
const MOST = 3;
/** the scale of a map that fits as a whole, at most; and of a box that is to be read, at least */
const WHOLE = 1.25;
const READABLE = 0.9;
/** px around a map that fits as a whole */
const MARGIN = 10;

/** Where the map stands under its window (`box`): x and y in px, k the scale. Wheel and pointer move it. */
export function useCamera(box: Ref<HTMLElement | null>) {
  const camera = ref({ x: 0, y: 0, k: 1 });
  const width = () => box.value?.clientWidth ?? 0;
  const height = () => box.value?.clientHeight ?? 0;

  /** All of it in sight, in the middle. */
  function fit(laid: Laid): void {
    const across = (width() - 2 * MARGIN) / laid.width;
    const down = (height() - 2 * MARGIN) / laid.height;
    const k = Math.max(LEAST, Math.min(WHOLE, across, down));
    camera.value = {
      k,
      x: Math.max(MARGIN, (width() - laid.width * k) / 2),
      y: Math.max(MARGIN, (height() - laid.height * k) / 2),
    };
  }

  /** Larger or smaller around a point, which stays where it is. */
  function zoom(by: number, x = width() / 2, y = height() / 2): void {
    const was = camera.value;
    const k = Math.max(LEAST, Math.min(MOST, was.k * by));
    camera.value = { k, x: x - ((x - was.x) * k) / was.k, y: y - ((y - was.y) * k) / was.k };
  }

  /** Brings a box into the middle, near enough to be read. */
  function show(b: Box): void {
    const k = Math.max(READABLE, camera.value.k);
    camera.value = { k, x: width() / 2 - (b.x + b.w / 2) * k, y: height() / 2 - (b.y + b.h / 2) * k };
  }

  function isInSight(b: Box): boolean {
    const { x, y, k } = camera.value;
    const [left, top] = [b.x * k + x, b.y * k + y];
    return left >= 0 && top >= 0 && left + b.w * k <= width() && top + b.h * k <= height();
  }

  /**
   * After a new layout most of what was there stays where it was on the screen: the view follows the middle
   * one of all shifts.
   */
  function hold(was: Laid, now: Laid): void {
    const shifts = [...now.boxes.values()].flatMap((b) => {
      const before = was.boxes.get(b.id);
      return before ? [{ x: b.x - before.x, y: b.y - before.y }] : [];
    });
    if (!shifts.length) return;
    const { x, y, k } = camera.value;
    camera.value = {
      k,
      x: x - median(shifts.map((shift) => shift.x)) * k,
      y: y - median(shifts.map((shift) => shift.y)) * k,
    };
  }

  /** Moves the map with the pointer, until it is let go. */
  function pan(e: PointerEvent): void {
    if (e.target instanceof Element && e.target.closest('[data-node]')) return;
    const window = e.currentTarget as HTMLElement;
    const start = { x: camera.value.x - e.clientX, y: camera.value.y - e.clientY };
    window.setPointerCapture(e.pointerId);
    window.onpointermove = (moved) => {
      camera.value = { ...camera.value, x: start.x + moved.clientX, y: start.y + moved.clientY };
    };
    window.onpointerup = window.onpointercancel = () => {
      window.onpointermove = null;
    };
  }

  function wheel(e: WheelEvent): void {
    e.preventDefault();
    const at = box.value!.getBoundingClientRect();
    zoom(Math.pow(1.0015, -e.deltaY), e.clientX - at.left, e.clientY - at.top);
  }
  useEventListener(box, 'wheel', wheel, { passive: false });
  return { camera, fit, zoom, show, isInSight, hold, pan };
}

const median = (values: number[]) => values.sort((a, b) => a - b)[values.length >> 1];
