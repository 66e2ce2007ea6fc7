/** The parts of the screen that F6 and the skip links lead to: whatever carries `data-panel` and a name. */

const STOPS = 'button, a[href], input, select, textarea, [tabindex]';
const isSeen = (el: HTMLElement): boolean =>
  el.offsetParent !== null || getComputedStyle(el).position === 'fixed';

export interface Panel {
  name: string;
  el: HTMLElement;
}

/** All that are in sight, in the order of the page. */
export const panels = (): Panel[] =>
  [...document.querySelectorAll<HTMLElement>('[data-panel]')]
    .filter(isSeen)
    .map((el) => ({ el, name: el.dataset.panel! }));

/** Where the keys begin in a panel: what is chosen in it, otherwise its first stop, otherwise the panel itself. */
export function goTo({ el }: Panel): void {
  const stops = [...el.querySelectorAll<HTMLElement>(STOPS)].filter((x) => x.tabIndex >= 0 && isSeen(x));
  const chosen = stops.find((x) => x.getAttribute('aria-current') === 'true');
  const target = chosen ?? stops.find((x) => !x.matches(':disabled')) ?? el;
  if (target === el) el.tabIndex = -1;
  target.focus();
}

/** To the panel after or before the one that has the focus, around the ends. */
export function stepPanel(by: 1 | -1): void {
  const all = panels();
  if (!all.length) return;
  const at = all.findIndex(({ el }) => el.contains(document.activeElement));
  const start = at < 0 && by < 0 ? 0 : at;
  goTo(all[(start + by + all.length) % all.length]);
}
