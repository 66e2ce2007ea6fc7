<script setup lang="ts">
/** One control of a unit: a short arc with a tick, its value beside it; steps and switches as a list. */
import { computed } from 'vue';
import { controlSpec, positionText, toPosition, type Control } from '../../../core/index.ts';
import { chosenIn } from '../../ui/events.ts';
import ValueField from '../../ui/ValueField.vue';

const props = defineProps<{ control: Control; position: number; unit: string; changed?: boolean }>();
const emit = defineEmits<{ change: [position: number, sliding: boolean] }>();
/** Degrees from the start of the arc to its end, and where it begins. */
const SWEEP = 250;
const START = 145;
const spec = computed(() => controlSpec(props.control));
const positions = computed(() => {
  const { labels, steps } = props.control;
  if (labels) return labels.map((_, i) => i);
  return steps ?? null;
});
/** Share of the way, 0 … 1. */
const share = computed(() => {
  const list = positions.value;
  if (list) return list.length < 2 ? 0 : Math.max(0, list.indexOf(props.position)) / (list.length - 1);
  return toPosition(spec.value, props.position);
});
const at = (part: number, radius: number) => {
  const angle = ((START + SWEEP * part) * Math.PI) / 180;
  return [16 + radius * Math.cos(angle), 16 + radius * Math.sin(angle)];
};
const arc = computed(() => {
  const [x, y] = at(0, 12);
  const [u, v] = at(1, 12);
  return `M${x} ${y}A12 12 0 1 1 ${u} ${v}`;
});
const tick = computed(() => [...at(share.value, 6), ...at(share.value, 14)]);
const name = computed(() => `${props.unit} ${props.control.label}`);
</script>

<template>
  <div class="flex min-w-0 items-center gap-2" :class="{ 'rounded bg-rope-wash': changed }">
    <svg width="32" height="32" viewBox="0 0 32 32" class="shrink-0" aria-hidden="true">
      <path :d="arc" fill="none" stroke="var(--edge)" stroke-width="2" />
      <line
        :x1="tick[0]"
        :y1="tick[1]"
        :x2="tick[2]"
        :y2="tick[3]"
        stroke="var(--rope)"
        stroke-width="3"
        stroke-linecap="round"
      />
    </svg>
    <label v-if="positions" class="flex min-w-0 flex-1 flex-col text-note"
      ><span class="truncate">{{ control.label }}</span>
      <select
        class="field min-w-0 px-1 py-0.5 text-body"
        :value="String(position)"
        :aria-label="name"
        @change="emit('change', Number(chosenIn($event)), false)"
      >
        <option v-for="p in positions" :key="p" :value="String(p)">{{ positionText(control, p) }}</option>
      </select></label
    >
    <ValueField
      v-else
      class="flex-1"
      :spec="spec"
      :value="position"
      :name="name"
      @change="(v, sliding) => emit('change', Number(v), sliding)"
    />
  </div>
</template>
