<script setup lang="ts">
/** Beside the pointer while something is dragged: what letting it go would do there. */
import { useEventListener } from '@vueuse/core';
import { ref } from 'vue';
import { dragWords } from './drag.ts';

const place = ref({ x: 0, y: 0 });
/** px that the words may be wide, so that they stay in the window */
const WIDE = 260;
useEventListener(window, 'dragover', (e: DragEvent) => {
  place.value = { x: Math.min(e.clientX + 14, window.innerWidth - WIDE), y: e.clientY + 18 };
});
</script>

<template>
  <p
    v-if="dragWords"
    class="pointer-events-none fixed z-[90] rounded border border-rope bg-sheet px-2 py-0.5 text-note"
    role="status"
    :style="{ left: place.x + 'px', top: place.y + 'px' }"
  >
    {{ dragWords }}
  </p>
</template>
