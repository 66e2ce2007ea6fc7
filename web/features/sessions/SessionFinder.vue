<script setup lang="ts">
/** The sessions to choose from, in a dialog: the first of them, and a field to find others where there are more. */
import { watchDebounced } from '@vueuse/core';
import { onMounted, ref, watch } from 'vue';
import type { SessionEntry } from '../../../contract/index.ts';
import { useSessionPages } from './pages.ts';

const found = defineModel<SessionEntry[] | null>({ required: true });
const emit = defineEmits<{ failed: [message: string] }>();
const { items, next, failed, find, again } = useSessionPages();
const text = ref('');
/** there are more than one page: what was typed last keeps the field */
const isLong = ref(false);
onMounted(() => find());
watchDebounced(text, (q) => find(q), { debounce: 150 });
watch(items, (list) => {
  isLong.value ||= next.value !== null;
  found.value = list;
});
watch(failed, (message) => message && emit('failed', message));
defineExpose({ again });
</script>

<template>
  <input
    v-if="isLong"
    v-model="text"
    type="search"
    class="field w-[180px] py-0.5"
    placeholder="Find a session"
    aria-label="Find a session"
  />
</template>
