<script setup lang="ts">
/** One connection on the map. */
import { computed } from 'vue';
import type { Flow } from '../../../core/index.ts';
import FlowEnd from './FlowEnd.vue';
import { pathOf } from './layout.ts';
import { DASHES, FAULT_COLOURS, FAULT_SIGNS, colourOf, widthOf } from './strokes.ts';
import type { Fault } from './words.ts';

const props = defineProps<{
  flow: Flow;
  points: [number, number][];
  fault: Fault;
  told: string;
  dim: boolean;
  /** on the path of what the pointer rests on */
  lit: boolean;
}>();
const path = computed(() => pathOf(props.points));
const opacity = computed(() => {
  if (props.dim) return 0.13;
  return props.flow.live ? 1 : 0.4;
});
const end = computed(() => {
  const [x, y] = props.points.at(-1)!;
  // what comes back arrives from the right
  const isBack = props.points.length > 1 && props.points.at(-2)![0] > x;
  return `translate(${x} ${y})${isBack ? ' rotate(180)' : ''}`;
});
const sign = computed(() => {
  const [x, y] = props.points[0];
  return `translate(${x + 12} ${y - 4})`;
});
</script>

<template>
  <g :opacity="opacity" :data-flow="flow.kind">
    <title>{{ told }}</title>
    <path :d="path" fill="none" stroke="transparent" stroke-width="9" />
    <path
      :d="path"
      fill="none"
      :stroke="lit && !fault ? 'var(--rope)' : colourOf(flow.kind, fault)"
      :stroke-width="widthOf(flow.kind, fault) + (lit ? 1.4 : 0)"
      :stroke-dasharray="DASHES[flow.kind]"
      stroke-linecap="round"
    />
    <path v-if="flow.kind === 'input'" :d="path" fill="none" stroke="var(--paper)" stroke-width="1.4" />
    <g :transform="end"><FlowEnd :kind="flow.kind" /></g>
    <g v-if="fault" :transform="sign">
      <text :fill="FAULT_COLOURS[fault]" font-weight="700">{{ FAULT_SIGNS[fault] }}</text>
    </g>
  </g>
</template>
