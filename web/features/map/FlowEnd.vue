<script setup lang="ts">
/** The end of a connection at 0, 0: each kind has its own shape. */
import type { FlowKind } from '../../../core/index.ts';

defineProps<{ kind: FlowKind }>();
</script>

<template>
  <path v-if="kind === 'key'" d="M-8 0l4 -4l4 4l-4 4z" fill="var(--rope)" />
  <circle
    v-else-if="kind === 'send'"
    cx="-4"
    r="3.4"
    fill="var(--paper)"
    stroke="var(--ink)"
    stroke-width="1.5"
  />
  <rect v-else-if="kind === 'midi'" x="-7" y="-3" width="6" height="6" fill="var(--ink)" />
  <path v-else d="M-7 -4.5l7 4.5l-7 4.5z" fill="var(--ink)" />
</template>
