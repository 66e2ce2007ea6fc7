import type { Router } from 'vue-router';
import { onControl } from '../ui/commands.ts';
import { stepPanel } from '../ui/panels.ts';
import { nameOfKey, useShortcuts } from '../ui/shortcuts.ts';
import { useUi } from '../ui/window.ts';
import { PALETTE_KEY, commandsNow, featureTakes } from './commands.ts';

function isTyping(el: HTMLElement): boolean {
  return (
    el.isContentEditable ||
    el instanceof HTMLTextAreaElement ||
    el instanceof HTMLSelectElement ||
    (el instanceof HTMLInputElement && !['range', 'checkbox', 'radio'].includes(el.type))
  );
}

/** What Space presses when it has the focus. */
const PRESSED = [
  'button',
  'summary',
  'input[type="checkbox"]',
  'input[type="radio"]',
  ...['button', 'checkbox', 'option', 'radio', 'switch', 'tab'].map((role) => `[role="${role}"]`),
].join();

/** Whether what has the focus keeps this key for itself. */
function isKept(name: string, e: KeyboardEvent): boolean {
  const el = e.target as HTMLElement;
  if (name === 'Home' || name === 'End' || name === 'Delete') return el instanceof HTMLInputElement;
  if (name !== 'Space') return false;
  return el.matches(PRESSED) || (onControl(e) && el !== document.activeElement);
}

/** The keys of the whole window. Nothing happens while something is typed or a sheet is open. */
export function bindKeys(router: Router): (e: KeyboardEvent) => void {
  const ui = useUi();
  const shortcuts = useShortcuts();
  return (e) => {
    if (e.key === 'F6' && !document.querySelector('[role="dialog"], [role="menu"]')) {
      e.preventDefault();
      stepPanel(e.shiftKey ? -1 : 1);
      return;
    }
    const name = nameOfKey(e);
    const meant = name ? shortcuts.meantBy(name) : [];
    if (meant.includes(PALETTE_KEY)) {
      e.preventDefault();
      ui.paletteStart = '';
      ui.palette = !ui.palette;
      return;
    }
    if (document.querySelector('[role="dialog"], [role="menu"]') || isTyping(e.target as HTMLElement)) return;
    if (!e.ctrlKey && !e.metaKey && featureTakes(e, router)) return;
    if (!name || isKept(name, e)) return;
    const command = commandsNow(router).find((c) => c.keys && meant.includes(c.keys));
    if (!command) return;
    e.preventDefault();
    command.run();
  };
}
