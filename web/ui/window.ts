import { useMediaQuery, useStorage } from '@vueuse/core';
import { defineStore } from 'pinia';
import { computed, ref, shallowRef, watch } from 'vue';
import { colourOf } from '../../core/index.ts';

export interface Toast {
  id: number;
  text: string;
  kind: 'info' | 'error' | 'done';
  actions: { label: string; run: () => void }[];
  /** ms since 1970 */
  at: number;
}

/** messages that can be read again */
const READABLE = 60;

/** How this window looks, and what it says at its foot. */
export const useUi = defineStore('ui', () => {
  const theme = useStorage<'day' | 'night'>(
    'rope-shelf-theme',
    matchMedia('(prefers-color-scheme: dark)').matches ? 'night' : 'day',
  );
  watch(
    theme,
    (t) => {
      document.documentElement.dataset.theme = t;
    },
    { immediate: true },
  );
  const turnTheme = () => {
    theme.value = theme.value === 'day' ? 'night' : 'day';
  };
  /** a track colour as the theme shows it */
  const swatch = (colour: string): string => colourOf(colour)[theme.value];
  /** zoomed in, or in a small window; the same as the variant `small` of the styles */
  const isSmall = useMediaQuery('(max-width: 860px), (max-height: 540px)');
  const wideShelf = useStorage('rope-shelf-panel', true);
  // where there is little room it is opened when it is wanted
  const smallShelf = ref(false);
  const shelfOpen = computed({
    get: () => (isSmall.value ? smallShelf.value : wideShelf.value),
    set: (open: boolean) => {
      (isSmall.value ? smallShelf : wideShelf).value = open;
    },
  });
  const panelHeight = useStorage('rope-shelf-panel-height', 316);
  const toasts = ref<Toast[]>([]);
  /** everything that was said, the last first */
  const said = shallowRef<Toast[]>([]);
  /** what the screen is about, for the window's title: the preset that is looked at */
  const subject = ref('');
  const palette = ref(false);
  /** what stands in the palette when it opens */
  const paletteStart = ref('');
  let count = 0;

  /** Says something at the foot of the window; errors stay until they are closed. */
  function say(
    text: string,
    kind: Toast['kind'] = 'info',
    actions: Toast['actions'] = [],
    ms = kind === 'error' ? 0 : 7000,
  ): number {
    const id = ++count;
    const toast: Toast = { id, text, kind, actions, at: Date.now() };
    said.value = [toast, ...said.value].slice(0, READABLE);
    toasts.value = [...toasts.value.filter((t) => t.text !== text), toast].slice(-4);
    if (ms) setTimeout(() => close(id), ms);
    return id;
  }
  function close(id: number) {
    toasts.value = toasts.value.filter((t) => t.id !== id);
  }
  const fail = (e: unknown) => {
    say(e instanceof Error ? e.message : String(e), 'error');
  };
  return {
    theme,
    turnTheme,
    swatch,
    isSmall,
    shelfOpen,
    panelHeight,
    toasts,
    said,
    subject,
    palette,
    paletteStart,
    say,
    close,
    fail,
  };
});
