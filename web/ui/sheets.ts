import { defineStore } from './store.ts';
import { computed, shallowRef } from 'vue';

/**
 * Every sheet that can be open, by name, with what it needs to know. Each feature adds its own here
 * (`declare module`), so that a sheet can be opened from anywhere without knowing the feature behind it.
 */
export interface Sheets {
  /** the keyboard's shortcuts */
  shortcuts: object;
}

export type SheetName = keyof Sheets;
export interface OpenSheet<K extends SheetName = SheetName> {
  /** counts up, so that a sheet that is opened again begins afresh */
  id: number;
  name: K;
  props: Sheets[K];
}

/** Which sheets are open: the last one lies on top, and closing it shows the one below again. */
export const useSheets = defineStore('sheets', () => {
  const stack = shallowRef<OpenSheet[]>([]);
  let count = 0;
  const top = computed(() => stack.value.at(-1) ?? null);

  /** Opens a sheet on top; one of the same name that is open already makes way. */
  function open<K extends SheetName>(name: K, props: Sheets[K]): void {
    stack.value = [...stack.value.filter((s) => s.name !== name), { id: ++count, name, props }];
  }
  /** Closes the uppermost sheet, or the one of a name. */
  function close(name?: SheetName): void {
    stack.value = name ? stack.value.filter((s) => s.name !== name) : stack.value.slice(0, -1);
  }
  /** Closes one sheet and opens another in its place. */
  function instead<K extends SheetName>(of: SheetName, name: K, props: Sheets[K]): void {
    close(of);
    open(name, props);
  }
  /** Closes everything but some, when the screen below goes. */
  function keepOnly(names: readonly SheetName[]): void {
    stack.value = stack.value.filter((s) => names.includes(s.name));
  }
  const has = (name: SheetName) => stack.value.some((s) => s.name === name);
  return { stack, top, open, close, instead, keepOnly, has };
});
