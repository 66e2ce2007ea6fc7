/**
 * Where the keyboard is: where it was before a dialog or a menu took it, so that it comes back there, and where it begins
 * in a dialog.
 */

/** what had the focus last outside of dialogs and menus */
let last: HTMLElement | null = null;

document.addEventListener('focusin', (e) => {
  const el = e.target as HTMLElement;
  if (!el.closest('[role="dialog"], [role="menu"], [role="listbox"]')) last = el;
});

/** What a click with the mouse only chooses lets the keys go again, so that Space plays. */
document.addEventListener('click', (e) => {
  const el = (e.target as HTMLElement).closest<HTMLElement>('[data-lets-go]');
  // a press of a key is a click without a pointer's count
  if (el && e.detail > 0) el.blur();
});

/** A place to come back to: the element, or one of the same name where it was drawn anew. */
export type Place = () => HTMLElement | null;

/** Where the keyboard is now, to come back to. */
export function placeNow(): Place {
  const el = last;
  const name = el?.getAttribute('aria-label') ?? '';
  return () => {
    if (el?.isConnected) return el;
    return name ? document.querySelector<HTMLElement>(`[aria-label="${CSS.escape(name)}"]`) : null;
  };
}

/** Gives the focus back when it is lost; what has it meanwhile keeps it. */
export function giveBack(place: Place): void {
  // after Vue and the dialog have put away what was theirs
  setTimeout(() => {
    const now = document.activeElement;
    if (now && now !== document.body && now.isConnected && !now.closest('[inert]')) return;
    const target = place() ?? document.querySelector<HTMLElement>('main');
    if (!target) return;
    if (target.tagName === 'MAIN') target.tabIndex = -1;
    target.focus({ preventScroll: true });
  }, 30);
}

const TYPED =
  'input:is([type="text"], [type="search"], [type="number"], :not([type])):not(:disabled), textarea:not(:disabled)';
const FIELDS = 'input:not([type="hidden"]):not(:disabled), select:not(:disabled), textarea:not(:disabled)';

/**
 * The first field of a dialog, one that is typed into where there is one; what the dialog gave the focus to itself, where
 * it was asked to, keeps it.
 */
export function beginIn(body: HTMLElement | null): void {
  setTimeout(() => {
    const now = document.activeElement;
    if (!body || (now && body.contains(now) && now.matches('input, select, textarea'))) return;
    const field = body.querySelector<HTMLElement>(TYPED) ?? body.querySelector<HTMLElement>(FIELDS);
    field?.focus();
    if (field instanceof HTMLInputElement && field.matches(TYPED)) field.select();
  }, 30);
}
