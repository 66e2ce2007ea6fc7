import { useStorage } from '@vueuse/core';
import { defineStore } from './store.ts';
import { shallowRef } from 'vue';
import type { Shortcut } from './commands.ts';

/** Keys that have a name of their own, by what the browser calls them. */
const NAMED: Record<string, string> = {
  ' ': 'Space',
  home: 'Home',
  end: 'End',
  insert: 'Insert',
  pageup: 'Page Up',
  pagedown: 'Page Down',
  delete: 'Delete',
};
/** Keys that move, choose or close everywhere: no command can have them. */
const KEPT = /^(arrow.*|tab|escape|enter|backspace|shift|control|alt|altgraph|meta|capslock|dead|[1-9])$/;

/** A key as commands name it: "M", "Shift G", "Ctrl Z", "Space", "?"; null for one that no command can have. */
export function nameOfKey(e: KeyboardEvent): string | null {
  const key = e.key.toLowerCase();
  if (KEPT.test(key)) return null;
  const isSign = key.length === 1 && !/[a-z0-9 ]/.test(key);
  const held = [
    e.ctrlKey || e.metaKey ? 'Ctrl' : '',
    e.altKey ? 'Alt' : '',
    // a sign is what Shift makes of it already
    e.shiftKey && !isSign ? 'Shift' : '',
  ];
  const name = NAMED[key] ?? (/^f\d+$/.test(key) || key.length === 1 ? key.toUpperCase() : null);
  return name && [...held.filter(Boolean), name].join(' ');
}

/** Whether a key in the list of shortcuts is one key that a command listens to, and not a gesture in words. */
export const isOneKey = (keys: string): boolean =>
  /^((Ctrl|Alt|Shift) )*(.|F\d+|Space|Home|End|Insert|Delete|Page (Up|Down))$/.test(keys);

/** What a command's key is changed to, in this browser: by the key that it comes with; '' for none. */
export const useShortcuts = defineStore('shortcuts', () => {
  /** all shortcuts there are, as the shell gathers them */
  const all = shallowRef<readonly Shortcut[]>([]);
  const own = useStorage<Record<string, string>>('rope-shelf-keys', {});

  /** The key that a command has now; '' where it has none. */
  const keyOf = (comesWith: string): string => own.value[comesWith] ?? comesWith;
  /** The keys, as commands name them, that a pressed key stands for. */
  function meantBy(pressed: string): string[] {
    const changed = Object.keys(own.value).filter((k) => own.value[k] === pressed);
    return pressed in own.value ? changed : [pressed, ...changed];
  }
  function change(comesWith: string, to: string): void {
    const { [comesWith]: _was, ...rest } = own.value;
    own.value = to === comesWith ? rest : { ...rest, [comesWith]: to };
  }
  const isChanged = (comesWith: string): boolean => comesWith in own.value;
  const reset = () => {
    own.value = {};
  };
  return { all, own, keyOf, meantBy, change, isChanged, reset };
});
