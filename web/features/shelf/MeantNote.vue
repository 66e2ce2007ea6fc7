<script setup lang="ts">
/** Says what was looked for in the place of misspelt words. */
import { computed } from 'vue';
import { useShelf } from './store.ts';

const shelf = useShelf();
const text = computed(() =>
  shelf.instead.map((x) => `Nothing says “${x.typed}”; shown: ${x.meant.join(', ')}.`).join(' '),
);
</script>

<template>
  <p v-if="text" class="px-2 py-1 text-note text-soft" role="status">{{ text }}</p>
</template>
