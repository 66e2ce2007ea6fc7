<script setup lang="ts">
/** What goes out to loops and what comes in at the interface, channel by channel. */
import { computed } from 'vue';
import { usePorts } from './store.ts';

/** dBFS at the left end of a bar */
const FLOOR = -60;
const ports = usePorts();
const rows = computed(() =>
  [
    { name: 'Sent to loops', peaks: ports.peaks?.outs ?? [] },
    { name: 'Coming in', peaks: ports.peaks?.ins ?? [] },
  ].map(({ name, peaks }) => ({
    name,
    channels: peaks.map((peak) => {
      const db = peak > 0 ? 20 * Math.log10(peak) : -Infinity;
      const share = Math.max(0, Math.min(1, 1 - db / FLOOR));
      return { share, text: Number.isFinite(db) ? `${db.toFixed(0).replace('-', '−')} dBFS` : 'silent' };
    }),
  })),
);
</script>

<template>
  <dl class="grid grid-cols-2 gap-4">
    <div v-for="r in rows" :key="r.name">
      <dt class="text-note text-soft">{{ r.name }}</dt>
      <dd v-for="(c, i) in r.channels" :key="i" class="flex items-center gap-2">
        <span class="w-5 text-right text-note tabular-nums">{{ i + 1 }}</span>
        <span class="h-2 flex-1 bg-rule"
          ><span class="block h-full bg-rope" :style="{ width: `${c.share * 100}%` }"
        /></span>
        <span class="w-[76px] text-note tabular-nums">{{ c.text }}</span>
      </dd>
    </div>
  </dl>
</template>
