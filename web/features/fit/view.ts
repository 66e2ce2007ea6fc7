import { useStorage } from '@vueuse/core';
import { defineStore } from '../../ui/store.ts';

/** Whether what fits the sound is ticked by itself. */
export const useFitView = defineStore('fit-view', () => ({
  isOn: useStorage('rope-shelf-fit', false),
}));
