<script setup lang="ts">
/** Where a line or piece came from and how it stands to the shelf; opens what can be done about it. */
import { Library } from '@lucide/vue';
import { computed } from 'vue';
import type { Origin } from '../../../core/index.ts';
import { useOrigins } from './store.ts';
import { useSheets } from '../../ui/sheets.ts';

const props = defineProps<{ id: string; origin: Origin; small?: boolean }>();
const sheets = useSheets();
const origins = useOrigins();
const tied = computed(() => origins.of(props.id));
const isGone = computed(() => !tied.value && !!props.origin.ids && origins.isGone(props.origin));
const text = computed(() => {
  if (tied.value) return origins.said(tied.value);
  if (isGone.value) return 'taken off the shelf: bring it back';
  if (props.origin.ids) return '…';
  return 'dropped before changes were kept';
});
const title = computed(() => {
  const from = `From “${props.origin.name}”, version ${props.origin.version}: ${text.value}`;
  return isGone.value ? `${from}; press to bring it back` : from;
});
const sign = computed(() => {
  if (isGone.value) return '?';
  return tied.value?.state.newer ? '▲' : '≠';
});
function press() {
  if (isGone.value) void origins.bringBack(props.origin);
  else sheets.open('origin', { at: props.id });
}
const marked = computed(
  () => !!tied.value && (tied.value.state.newer || tied.value.state.changes.length > 0),
);
</script>

<template>
  <button
    v-if="!small"
    type="button"
    class="chip gap-1"
    :class="{ 'border-rope': tied?.state.newer }"
    :disabled="!tied && !isGone"
    :title="title"
    @click="press"
  >
    <Library :size="13" aria-hidden="true" /> <span class="max-w-[180px] truncate">{{ origin.name }}</span>{{
      ' '
    }}
    <span class="text-soft">v{{ origin.version }} · {{ text }}</span>
  </button>
  <button
    v-else-if="marked || isGone"
    type="button"
    class="grid h-6 w-6 shrink-0 place-items-center rounded text-fine font-semibold"
    :class="tied?.state.newer ? 'text-rope' : 'text-soft'"
    :aria-label="`From “${origin.name}”: ${text}`"
    :title="title"
    @click.stop="press"
  >
    {{ sign }}
  </button>
</template>
