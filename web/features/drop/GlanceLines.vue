<script setup lang="ts">
/**
 * The intact report at a glance: a mark for every device and every connection of what was dropped, by shape as well as by
 * colour: a tick for what arrived as it was, a knot for what was tied, an arrow for what was adapted, a ring for what was
 * left out, a cross for what nothing explains.
 */
import { ArrowUpRight, Check, Circle, Link2, X } from '@lucide/vue';
import { computed, type Component } from 'vue';
import { glanceOf, type ReportRow, type Verdict } from '../../../core/index.ts';
import { VERDICTS } from './words.ts';

const props = defineProps<{ rows: readonly ReportRow[] }>();
const MARKS: Record<Verdict, { icon: Component; tone: string }> = {
  intact: { icon: Check, tone: 'text-good' },
  tied: { icon: Link2, tone: 'text-rope' },
  adapted: { icon: ArrowUpRight, tone: 'text-warn' },
  'left out': { icon: Circle, tone: 'text-soft' },
  unexplained: { icon: X, tone: 'text-bad' },
};
const lines = computed(() => glanceOf(props.rows));
const used = computed(() => {
  const said = new Set(lines.value.flatMap((line) => line.items.map((item) => item.verdict)));
  return (Object.keys(MARKS) as Verdict[]).filter((verdict) => said.has(verdict));
});
</script>

<template>
  <section aria-label="At a glance">
    <ul
      class="flex max-h-[210px] flex-col gap-1 overflow-auto"
      tabindex="0"
      aria-label="What arrived, line by line"
    >
      <li v-for="line in lines" :key="line.id" class="flex flex-wrap items-center gap-1">
        <strong class="min-w-[130px] max-w-[180px] truncate" :title="line.notes.join('\n') || line.name">{{
          line.name
        }}</strong>
        <span
          v-for="item in line.items"
          :key="item.id"
          class="chip gap-1"
          :class="{ 'border-dashed': item.kind === 'connection' }"
          :title="item.notes.join('\n') || `${item.label}: ${VERDICTS[item.verdict]}`"
          ><component
            :is="MARKS[item.verdict].icon"
            :size="13"
            :class="MARKS[item.verdict].tone"
            aria-hidden="true"
          /><span>{{ item.label }}</span
          ><span class="sr-only">: {{ VERDICTS[item.verdict] }}</span></span
        >
      </li>
    </ul>
    <p class="mt-1 text-note text-soft" aria-hidden="true">
      <span v-for="verdict in used" :key="verdict" class="mr-3"
        ><component :is="MARKS[verdict].icon" :size="13" class="inline" :class="MARKS[verdict].tone" />
        {{ VERDICTS[verdict] }}</span
      ><span>solid: device · dashed: connection</span>
    </p>
  </section>
</template>
