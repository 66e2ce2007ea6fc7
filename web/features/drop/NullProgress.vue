<script setup lang="ts">
/** How far the null test of a drop is: by itself, so that nothing around it is drawn again ten times a second. */
import { computed } from 'vue';
import { useDrop } from './store.ts';

const props = defineProps<{ of: string }>();
const drop = useDrop();
/** of several, one waits for the others */
const share = computed(() => (drop.proven.drop === props.of ? drop.proven.share : 0));
</script>

<template>
  <p class="flex items-center gap-2">
    Null test <progress class="h-2 w-48" :value="share" max="1" aria-label="Null test" />
    {{ Math.round(share * 100) }} %
  </p>
</template>
