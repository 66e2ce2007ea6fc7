<script setup lang="ts">
/** The other windows that have the open session before them. */
import { UsersRound } from '@lucide/vue';
import { computed } from 'vue';
import { useSession } from '../../document/doc.ts';
import { calledHere } from './here.ts';

const session = useSession();
const text = computed(() => {
  const names = session.others.map(calledHere);
  const unique = [...new Set(names)];
  return unique.map((name) => {
    const count = names.filter((n) => n === name).length;
    return count > 1 ? `${name} (${count})` : name;
  });
});
</script>

<template>
  <span
    v-if="text.length"
    class="flex items-center gap-1 whitespace-nowrap text-note"
    role="status"
    :aria-label="`Here too: ${text.join(', ')}`"
    :title="`Here too: ${text.join(', ')}`"
    ><UsersRound :size="13" aria-hidden="true" /><span class="max-w-[140px] truncate">{{
      text.join(', ')
    }}</span></span
  >
</template>
