import { useStorage } from '@vueuse/core';
import { defineStore } from '../../ui/store.ts';
import { ref } from 'vue';
import { DUPLICATE_PARTS, type Id, type PartId } from '../../../core/index.ts';

/** folders and headings that are remembered as closed, at most */
const MOST_CLOSED = 1000;

/** What this window remembers of lines. */
export const useLineView = defineStore('line-view', () => {
  /** what a copy of a line takes over */
  const duplicateParts = useStorage<PartId[]>('rope-shelf-duplicate', [...DUPLICATE_PARTS]);
  /** whether keys are drawn from line to line */
  const keyLines = useStorage('rope-shelf-key-lines', true);
  /** folders and headings whose lines are not shown */
  const closed = useStorage<Id[]>('rope-shelf-closed', []);
  /** whether hidden lines are shown all the same */
  const showsHidden = ref(false);
  /** the line, or the heading, that is being named */
  const naming = ref<Id | null>(null);

  function toggle(id: Id): void {
    closed.value = closed.value.includes(id)
      ? closed.value.filter((x) => x !== id)
      : [...closed.value, id].slice(-MOST_CLOSED);
  }
  return { duplicateParts, keyLines, closed, showsHidden, naming, toggle };
});
