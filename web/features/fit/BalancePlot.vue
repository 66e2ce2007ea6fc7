<script setup lang="ts">
/** The difference of two balances, third by third, in dB: over the line there is more, under it less. */
import { computed } from 'vue';
import type { Balance } from '../../../core/index.ts';

const props = defineProps<{ balance: Balance }>();
const MOST = 12;
const HALF = 44;
const bars = computed(() =>
  props.balance.difference.map((db, i) => {
    const height = (Math.min(MOST, Math.abs(db)) / MOST) * HALF;
    return { x: 4 + i * 16, y: db > 0 ? HALF - height : HALF, height, f: props.balance.frequencies[i] };
  }),
);
const text = computed(() => props.balance.words.join('; ') || 'no difference that stands out');
const labels = [
  [0, '100'],
  [10, '1k'],
  [20, '10k'],
] as const;
</script>

<template>
  <svg viewBox="0 0 376 104" class="w-full max-w-[560px]" role="img" :aria-label="`Balance: ${text}`">
    <line x1="0" x2="376" :y1="HALF" :y2="HALF" stroke="var(--edge)" />
    <rect v-for="b in bars" :key="b.f" :x="b.x" :y="b.y" width="12" :height="b.height" fill="var(--rope)" />
    <text v-for="[i, label] in labels" :key="label" :x="4 + i * 16" y="102" font-size="7" fill="currentColor">
      {{ label }}
    </text>
    <text x="372" y="10" font-size="7" text-anchor="end" fill="currentColor">±12 dB</text>
  </svg>
</template>
