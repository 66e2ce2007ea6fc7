import { onBeforeUnmount, onMounted } from 'vue';

const jobs = new Set<() => void>();
let running = false;
let last = 0;
function tick(now: number) {
  // the engine reports 30 times a second; drawing more often would only cost
  if (now - last >= 30) {
    last = now;
    for (const j of jobs) j();
  }
  if (jobs.size) requestAnimationFrame(tick);
  else running = false;
}

/** Calls f about 30 times a second while the component is there; one loop for all. */
export function useFrame(f: () => void): void {
  onMounted(() => {
    jobs.add(f);
    if (!running) {
      running = true;
      requestAnimationFrame(tick);
    }
  });
  onBeforeUnmount(() => {
    jobs.delete(f);
  });
}

/** Sizes of canvases in CSS pixels: asking the page on every frame would make it lay itself out each time. */
const sizes = new WeakMap<Element, { width: number; height: number }>();
const resized = new ResizeObserver((entries) => {
  for (const { target, contentRect } of entries) sizes.set(target, contentRect);
});
/** How large a canvas is drawn; nothing where it is not in the page or not told yet. */
export function sizeOf(canvas: HTMLCanvasElement): { width: number; height: number } {
  const known = sizes.get(canvas);
  if (known) return known;
  const size = { width: 0, height: 0 };
  sizes.set(canvas, size);
  resized.observe(canvas);
  return size;
}

/** A canvas at the screen's resolution, cleared, with a 2D context in CSS pixels. */
export function prepare(canvas: HTMLCanvasElement): { g: CanvasRenderingContext2D; w: number; h: number } {
  const { width: w, height: h } = sizeOf(canvas);
  const d = window.devicePixelRatio || 1;
  if (canvas.width !== Math.round(w * d) || canvas.height !== Math.round(h * d)) {
    canvas.width = Math.round(w * d);
    canvas.height = Math.round(h * d);
  }
  const g = canvas.getContext('2d')!;
  g.setTransform(d, 0, 0, d, 0, 0);
  g.clearRect(0, 0, w, h);
  return { g, w, h };
}

/** A theme colour, read once per theme. */
let cached = '';
const colours = new Map<string, string>();
export function themeColour(name: string): string {
  const theme = document.documentElement.dataset.theme ?? 'day';
  if (theme !== cached) {
    cached = theme;
    colours.clear();
  }
  let c = colours.get(name);
  if (!c) {
    colours.set(name, (c = getComputedStyle(document.documentElement).getPropertyValue(`--${name}`).trim()));
  }
  return c;
}
