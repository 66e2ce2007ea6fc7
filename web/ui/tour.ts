import { useStorage } from '@vueuse/core';
import { defineStore } from './store.ts';
import { computed } from 'vue';

/** The first way through the program, each step passed by doing it. */
export const TOUR = ['open', 'save', 'drop', 'proof'] as const;
export type TourStep = (typeof TOUR)[number];

/** How far somebody is on the first way through; it can be left at any point, and begun again. */
export const useTour = defineStore('tour', () => {
  /** the step that is shown; 'end' when all are passed, '' when nobody is on the way */
  const at = useStorage<TourStep | 'end' | ''>('rope-shelf-tour', '');
  const isOn = computed(() => at.value !== '');
  const number = computed(() =>
    at.value === '' || at.value === 'end' ? TOUR.length : TOUR.indexOf(at.value) + 1,
  );

  function begin(): void {
    at.value = TOUR[0];
  }
  function leave(): void {
    at.value = '';
  }
  /** Something was done: when it is what the step asks for, the next one comes. */
  function passed(step: TourStep): void {
    if (at.value !== step) return;
    at.value = TOUR[TOUR.indexOf(step) + 1] ?? 'end';
  }
  return { at, isOn, number, begin, leave, passed };
});
