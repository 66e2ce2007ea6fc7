import { defineStore } from '../../ui/store.ts';
import { ref } from 'vue';
import type { Id } from '../../../core/index.ts';
import { useSession } from '../../document/doc.ts';

/** What the panel of a line shows: its settings, or its lanes with one of them open. */
export const useLaneView = defineStore('lane-view', () => {
  const page = ref<'line' | 'lanes' | 'clips'>('line');
  const lane = ref<Id | null>(null);
  /** Shows a line's lanes, with one of them open; with the first, when none is named. */
  function open(track: Id, which: Id | null = null): void {
    useSession().select(track, null);
    page.value = 'lanes';
    lane.value = which;
  }
  return { page, lane, open };
});
