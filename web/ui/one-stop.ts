import type { Directive } from 'vue';

/** What the Tab key stops at, wherever it was taken out of its way before. */
const STOPS = 'button, a[href], input, select, textarea, [tabindex]';
const NEXT: Record<string, number> = { ArrowDown: 1, ArrowRight: 1, ArrowUp: -1, ArrowLeft: -1 };

interface Keeper {
  at: Element | null;
  arrange: () => void;
  press: (e: KeyboardEvent) => void;
  enter: (e: FocusEvent) => void;
}
const keepers = new WeakMap<Element, Keeper>();
const itemsOf = (el: Element) =>
  [...el.querySelectorAll<HTMLElement>(STOPS)].filter((x) => !x.matches(':disabled'));

function keeperOf(el: HTMLElement): Keeper {
  const keeper: Keeper = {
    at: null,
    arrange() {
      const items = itemsOf(el);
      const pressed = items.find((x) => x.getAttribute('aria-pressed') === 'true');
      const current = items.find((x) => x === keeper.at) ?? pressed ?? items[0];
      for (const item of items) item.tabIndex = item === current ? 0 : -1;
    },
    press(e) {
      const items = itemsOf(el);
      const at = items.indexOf(e.target as HTMLElement);
      const ends: Record<string, number> = { Home: 0, End: items.length - 1 };
      const to = ends[e.key] ?? at + (NEXT[e.key] ?? 0);
      if (at < 0 || to === at || e.altKey || e.ctrlKey || e.metaKey) return;
      e.preventDefault();
      e.stopPropagation();
      items[(to + items.length) % items.length].focus();
    },
    enter(e) {
      keeper.at = e.target as Element;
      keeper.arrange();
    },
  };
  return keeper;
}

/**
 * A group of buttons that is one stop of the Tab key, with the arrow keys inside (WAI-ARIA Authoring Practices: toolbar,
 * roving tabindex).
 */
export const vOneStop: Directive<HTMLElement> = {
  mounted(el) {
    const keeper = keeperOf(el);
    keepers.set(el, keeper);
    el.addEventListener('keydown', keeper.press);
    el.addEventListener('focusin', keeper.enter);
    el.dataset.arrows = '';
    keeper.arrange();
  },
  updated: (el) => keepers.get(el)?.arrange(),
};
