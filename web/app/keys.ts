import type { Router } from 'vue-router';
import { onControl } from '../ui/commands.ts';
import { useUi } from '../ui/window.ts';
import { commandsNow, featureTakes } from './commands.ts';

/** Keys that stand for themselves in a command's `keys`. */
const NAMED: Record<string, string> = { ' ': 'Space', home: 'Home', delete: 'Delete', f2: 'F2', '?': '?' };
const LETTER = /^[a-z]$/;

function isTyping(el: HTMLElement): boolean {
  return (
    el.isContentEditable ||
    el instanceof HTMLTextAreaElement ||
    el instanceof HTMLSelectElement ||
    (el instanceof HTMLInputElement && !['range', 'checkbox', 'radio'].includes(el.type))
  );
}

/** A key as commands name it: "M", "Shift G", "Space"; null for one that no command has. */
function nameOf(e: KeyboardEvent): string | null {
  const key = e.key.toLowerCase();
  if (NAMED[key]) return NAMED[key];
  if (!LETTER.test(key)) return null;
  return e.shiftKey && (key === 'g' || key === 'w') ? `Shift ${key.toUpperCase()}` : key.toUpperCase();
}

/** Whether what has the focus keeps this key for itself. */
function isKept(name: string, e: KeyboardEvent): boolean {
  const el = e.target as HTMLElement;
  if (name === 'Home' || name === 'Delete') return el instanceof HTMLInputElement;
  if (name !== 'Space') return false;
  if (onControl(e) && el !== document.activeElement) return true;
  const control = el instanceof HTMLButtonElement || el instanceof HTMLInputElement;
  return (
    control && (el.matches('[type="checkbox"],[type="radio"]') || el.closest('[data-keep-space]') !== null)
  );
}

/** The keys of the whole window. Nothing happens while something is typed or a sheet is open. */
export function bindKeys(router: Router): (e: KeyboardEvent) => void {
  const ui = useUi();
  const press = (name: string, e: KeyboardEvent) => {
    const command = commandsNow(router).find((c) => c.keys === name);
    if (!command) return;
    e.preventDefault();
    command.run();
  };
  return (e) => {
    const key = e.key.toLowerCase();
    const held = e.ctrlKey || e.metaKey;
    if (held && key === 'k') {
      e.preventDefault();
      ui.paletteStart = '';
      ui.palette = !ui.palette;
      return;
    }
    if (document.querySelector('[role="dialog"], [role="menu"]') || isTyping(e.target as HTMLElement)) return;
    if (held && key === 'z') {
      e.preventDefault();
      press(e.shiftKey ? 'Ctrl Shift Z' : 'Ctrl Z', e);
      return;
    }
    if (held && key === 'a') press('Ctrl A', e);
    if (held || (e.altKey && !key.startsWith('arrow')) || featureTakes(e, router) || e.altKey) return;
    const name = nameOf(e);
    if (name && !isKept(name, e)) press(name, e);
  };
}
