import { useStorage } from '@vueuse/core';
import { defineStore } from '../../ui/store.ts';
import { ref } from 'vue';
import type { Id } from '../../../core/index.ts';

/** so many folded racks are remembered */
const REMEMBERED = 500;

/** How racks are shown: folded up on their line or open, and whether the simulated controller is out. */
export const useRackView = defineStore('rack-view', () => {
  /** racks that are folded up on their line; all others are open */
  const folded = useStorage<Id[]>('rope-shelf-folded', []);
  const isOpen = (rack: Id) => !folded.value.includes(rack);
  function fold(rack: Id): void {
    const others = folded.value.filter((other) => other !== rack);
    folded.value = isOpen(rack) ? [...others, rack].slice(-REMEMBERED) : others;
  }
  const controller = ref(false);
  return { folded, isOpen, fold, controller };
});
