<script setup lang="ts">
/** What the kinds of connection look like. */
import type { FlowKind } from '../../../core/index.ts';
import { DASHES, KINDS, LABELS } from './strokes.ts';

const WIDTHS: Record<FlowKind, number> = { output: 2.5, send: 1.6, key: 1.6, input: 1, midi: 1.6, loop: 2 };
</script>

<template>
  <span class="flex items-center gap-3 text-note text-soft" aria-label="Kinds of connection">
    <span v-for="kind in KINDS" :key="kind" class="flex items-center gap-1"
      ><svg width="34" height="10" aria-hidden="true">
        <path
          d="M1 5H26"
          fill="none"
          stroke="currentColor"
          :stroke-width="WIDTHS[kind]"
          :stroke-dasharray="DASHES[kind]"
          stroke-linecap="round"
        />
        <path v-if="kind === 'input'" d="M1 8H26" stroke="currentColor" stroke-width="1" />
        <path v-if="kind === 'key'" d="M28 5l3 -3l3 3l-3 3z" fill="currentColor" />
        <circle
          v-else-if="kind === 'send'"
          cx="30"
          cy="5"
          r="3"
          fill="none"
          stroke="currentColor"
          stroke-width="1.5"
        />
        <rect v-else-if="kind === 'midi'" x="27" y="2" width="6" height="6" fill="currentColor" />
        <path v-else d="M27 1l6 4l-6 4z" fill="currentColor" /></svg
      >{{ LABELS[kind] }}</span
    ></span
  >
</template>
