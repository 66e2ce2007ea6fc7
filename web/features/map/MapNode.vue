<script setup lang="ts">
/** One line, port or the speakers on the map. */
import { computed } from 'vue';
import type { FlowNode } from '../../../core/index.ts';
import { useUi } from '../../ui/window.ts';
import type { Box } from './layout.ts';
import { short } from './words.ts';

const props = defineProps<{
  node: FlowNode;
  box: Box;
  /** what stands under its name */
  under: string;
  told: string;
  dim: boolean;
  /** on the path of what the pointer rests on */
  lit: boolean;
  found: boolean;
  folded: boolean;
}>();
const emit = defineEmits<{ hover: [on: boolean]; focused: []; go: []; fold: [] }>();
const ui = useUi();
const border = computed(() => {
  if (props.found) return 3;
  return props.lit ? 2.2 : 1.2;
});
const isOff = computed(() => props.node.track?.state === 'inactive');
</script>

<template>
  <g
    data-node
    :transform="`translate(${box.x} ${box.y})`"
    :opacity="dim ? 0.25 : 1"
    :class="node.track ? 'cursor-pointer' : ''"
    :tabindex="node.track ? 0 : undefined"
    :role="node.track ? 'button' : 'img'"
    :aria-label="told"
    @mouseenter="emit('hover', true)"
    @mouseleave="emit('hover', false)"
    @focus="emit('focused')"
    @blur="emit('hover', false)"
    @click="emit('go')"
    @keydown.enter="emit('go')"
  >
    <rect
      :width="box.w"
      :height="box.h"
      :rx="node.track ? 6 : 20"
      :fill="isOff ? 'var(--sunk)' : 'var(--sheet)'"
      :stroke="found || lit ? 'var(--rope)' : 'var(--edge)'"
      :stroke-width="border"
      :stroke-dasharray="isOff ? '4 3' : undefined"
    />
    <rect v-if="node.track" width="6" :height="box.h" rx="3" :fill="ui.swatch(node.track.colour)" />
    <text x="14" y="17" fill="var(--ink)" font-weight="600">{{ short(node.label, 19) + ' ' }}</text>
    <text x="14" y="32" fill="var(--soft)" font-size="11">{{ short(under, 24) }}</text>
    <g
      v-if="node.track?.role === 'folder'"
      class="cursor-pointer"
      tabindex="0"
      role="button"
      :aria-label="`${folded ? 'Open' : 'Fold'} ${node.label}`"
      @click.stop="emit('fold')"
      @keydown.enter.stop="emit('fold')"
    >
      <rect x="122" y="7" width="26" height="26" rx="4" fill="var(--paper)" stroke="var(--rule)" />
      <text x="135" y="25" text-anchor="middle" fill="var(--ink)">{{ folded ? '+' : '−' }}</text>
    </g>
  </g>
</template>
