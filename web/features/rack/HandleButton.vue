<script setup lang="ts">
/** A handle that is a button: pressed once for the other side, or held. */
import { computed } from 'vue';
import type { Handle } from '../../../core/index.ts';

const props = defineProps<{ handle: Handle }>();
const emit = defineEmits<{ turn: [value: number] }>();
const isUp = computed(() => props.handle.value >= 50);
const flip = () => props.handle.button === 'toggle' && emit('turn', isUp.value ? 0 : 100);
const hold = (on: boolean) => {
  if (props.handle.button === 'hold' && on !== isUp.value) emit('turn', on ? 100 : 0);
};
</script>

<template>
  <button
    type="button"
    class="btn px-2 py-0 text-note"
    :aria-label="`${handle.button === 'hold' ? 'Hold' : 'Press'} ${handle.name}`"
    :aria-pressed="isUp"
    @click="flip"
    @pointerdown="hold(true)"
    @pointerup="hold(false)"
    @pointerleave="hold(false)"
    @keydown.enter.prevent="handle.button === 'hold' ? hold(true) : flip()"
    @keyup.enter="hold(false)"
    @blur="hold(false)"
  >
    {{ isUp ? 'up' : 'down' }}
  </button>
</template>
