import { useMediaQuery, useStorage } from '@vueuse/core';
import { defineStore } from './store.ts';
import { computed, ref, watch } from 'vue';
import { colourOf } from '../../core/index.ts';
import { makeMessages } from './messages.ts';

export type { Action, Matter, Toast } from './messages.ts';

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
  /** what the screen is about, for the window's title: the preset that is looked at */
  const subject = ref('');
  const palette = ref(false);
  /** what stands in the palette when it opens */
  const paletteStart = ref('');

  return {
    theme,
    turnTheme,
    swatch,
    isSmall,
    shelfOpen,
    panelHeight,
    subject,
    palette,
    paletteStart,
    ...makeMessages(),
  };
});
