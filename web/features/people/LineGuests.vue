<script setup lang="ts">
/** Marks of others at the line that they have selected. */
import { computed } from 'vue';
import { useSession } from '../../document/doc.ts';
import { calledHere } from './here.ts';

const props = defineProps<{ track: string; name: string }>();
const session = useSession();
const guests = computed(() => [
  ...new Set(session.others.filter((o) => o.line === props.track).map(calledHere)),
]);
</script>

<template>
  <span
    v-for="guest in guests"
    :key="guest"
    class="grid h-5 min-w-5 shrink-0 place-items-center rounded-full border border-rope bg-rope-wash px-1 text-fine font-semibold"
    role="img"
    :aria-label="`${guest} is at ${name}`"
    :title="`${guest} is at ${name}`"
    >{{ [...guest][0] }}</span
  >
</template>
