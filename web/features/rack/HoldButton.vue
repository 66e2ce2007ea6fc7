<script setup lang="ts">
/** A button that is down as long as it is held, by the pointer or by Enter or the space bar. */
defineProps<{ isDown: boolean }>();
const emit = defineEmits<{ hold: [isDown: boolean] }>();
</script>

<template>
  <button
    type="button"
    class="btn py-0 text-note"
    :aria-pressed="isDown"
    @pointerdown="emit('hold', true)"
    @pointerup="emit('hold', false)"
    @pointerleave="emit('hold', false)"
    @keydown.enter.space.prevent.stop="emit('hold', true)"
    @keyup.enter.space.prevent.stop="emit('hold', false)"
    @blur="emit('hold', false)"
  >
    <slot />
  </button>
</template>
