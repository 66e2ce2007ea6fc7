import { useStorage } from '@vueuse/core';
import { defineStore } from 'pinia';
import { DUPLICATE_PARTS, type PartId } from '../../../core/index.ts';

/** What this window remembers of lines. */
export const useLineView = defineStore('line-view', () => ({
  /** what a copy of a line takes over */
  duplicateParts: useStorage<PartId[]>('rope-shelf-duplicate', [...DUPLICATE_PARTS]),
  /** whether keys are drawn from line to line */
  keyLines: useStorage('rope-shelf-key-lines', true),
}));
