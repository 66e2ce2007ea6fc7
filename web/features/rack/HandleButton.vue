<script setup lang="ts">
/** A handle that is a button: pressed once for the other side, or held. */
import { computed } from 'vue';
import type { Handle } from '../../../core/index.ts';
import HoldButton from './HoldButton.vue';

const props = defineProps<{ handle: Handle }>();
const emit = defineEmits<{ turn: [value: number] }>();
const isUp = computed(() => props.handle.value >= 50);
const stands = computed(() => (isUp.value ? 'up' : 'down'));
const flip = () => emit('turn', isUp.value ? 0 : 100);
function hold(on: boolean) {
  if (on !== isUp.value) emit('turn', on ? 100 : 0);
}
</script>

<template>
  <HoldButton
    v-if="handle.button === 'hold'"
    class="px-2"
    :is-down="isUp"
    :aria-label="`${stands}: hold ${handle.name}`"
    @hold="hold"
    >{{ stands }}</HoldButton
  >
  <button
    v-else
    type="button"
    class="btn px-2 py-0 text-note"
    :aria-label="`${stands}: press ${handle.name}`"
    :aria-pressed="isUp"
    @click="flip"
  >
    {{ stands }}
  </button>
</template>
