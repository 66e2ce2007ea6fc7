<script setup lang="ts">
/** Large files on their way to the server: how far each is, and a way to stop it. */
import { useEventListener } from '@vueuse/core';
import { sendings, type Sending } from '../api/sending.ts';

const shareOf = ({ received, size }: Sending) => Math.floor((100 * received) / size);
function wordsOf(s: Sending): string {
  if (s.isWaiting) return 'The server does not answer: it goes on when it is back.';
  return s.isRead ? 'It is there, and is read …' : `${shareOf(s)} % of ${(s.size / 1e6).toFixed(0)} MB`;
}
// a window that goes takes the rest of the file with it
useEventListener(window, 'beforeunload', (e) => {
  if (sendings.value.length) e.preventDefault();
});
</script>

<template>
  <ul
    v-if="sendings.length"
    class="shrink-0 border-t border-rule bg-sheet px-3 text-body"
    aria-label="Files being sent"
  >
    <li v-for="s in sendings" :key="s.key" class="flex min-h-[30px] flex-wrap items-center gap-3 py-0.5">
      <span class="max-w-[320px] truncate" :title="s.name">Sending “{{ s.name }}”</span>
      <progress class="min-w-[80px] flex-1" max="100" :value="shareOf(s)" :aria-label="`Sending ${s.name}`" />
      <span class="text-soft">{{ wordsOf(s) }}</span>
      <button type="button" class="btn px-2 py-0" :aria-label="`Stop sending ${s.name}`" @click="s.stop()">
        Stop
      </button>
    </li>
  </ul>
</template>
