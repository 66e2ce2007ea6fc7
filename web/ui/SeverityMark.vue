<script setup lang="ts">
/** Fault, warning or advice: a shape and a word, not colour alone. */
import { CircleX, Info, TriangleAlert } from '@lucide/vue';
import type { Severity } from '../../core/index.ts';

defineProps<{ severity: Severity; size?: number }>();
const ICONS = { fault: CircleX, warning: TriangleAlert, advice: Info };
const COLOURS = { fault: 'text-bad', warning: 'text-warn', advice: 'text-soft' };
</script>

<template>
  <component
    :is="ICONS[severity]"
    :size="size ?? 16"
    class="shrink-0"
    :class="COLOURS[severity]"
    role="img"
    :aria-label="severity"
  />
</template>
