<script setup lang="ts">
/** A number with its unit, typed; held between its ends. */
import { chosenIn } from './events.ts';

const props = defineProps<{ label: string; unit: string; value: number; min: number; max: number }>();
const emit = defineEmits<{ change: [value: number] }>();
function take(text: string) {
  const value = Number(text.replace('−', '-').replace(',', '.'));
  if (text.trim() && Number.isFinite(value)) emit('change', Math.max(props.min, Math.min(props.max, value)));
}
</script>

<template>
  <label class="flex items-center gap-1"
    ><slot />
    <input
      class="field w-[64px] py-0.5 text-right"
      :aria-label="unit ? `${label} (${unit})` : label"
      :value="value"
      @change="take(chosenIn($event))"
    />
    {{ unit }}</label
  >
</template>
