<script setup lang="ts">
/** What of the song is printed, and how long is waited for what rings on. */
import { computed } from 'vue';
import { sessionLength, type PrintPlan, type Session } from '../../../core/index.ts';
import { chosenIn } from '../../ui/events.ts';
import NumberField from '../../ui/NumberField.vue';

type Marks = NonNullable<PrintPlan['marks']>;
const props = defineProps<{ session: Session; plan: PrintPlan; marks: Marks }>();
const emit = defineEmits<{ change: [label: string, over: Partial<PrintPlan>] }>();
const markAt = (at: number) => {
  const i = props.marks.findIndex((m) => m.at === at);
  return i < 0 ? '' : i;
};
/** what of the song, by its choice */
const ranges = computed<Record<string, PrintPlan['range']>>(() => ({
  song: null,
  part: { from: 0, to: sessionLength(props.session) },
  marks: { from: props.marks[0]?.at ?? 0, to: props.marks.at(-1)?.at ?? 0 },
}));
const SIDES = ['from', 'to'] as const;
function toMark(side: 'from' | 'to', chosen: string) {
  if (chosen !== '') range(side, props.marks[Number(chosen)].at);
}
function range(side: 'from' | 'to', value: number) {
  const now = props.plan.range ?? { from: 0, to: sessionLength(props.session) };
  const next = { ...now, [side]: value };
  if (next.to > next.from) emit('change', 'Range of the print', { range: next });
}
</script>

<template>
  <section aria-label="Range">
    <h2 class="mb-1 text-lead font-semibold">Range</h2>
    <div class="flex flex-wrap items-center gap-2">
      <select
        class="field py-0.5"
        aria-label="What of the song"
        :value="plan.range ? 'part' : 'song'"
        @change="emit('change', 'Range of the print', { range: ranges[chosenIn($event)] })"
      >
        <option value="song">the whole song</option>
        <option value="part">a part of it</option>
        <option v-if="marks.length > 1" value="marks">between two marks</option>
      </select>
      <template v-if="plan.range && marks.length > 1">
        <label v-for="side in SIDES" :key="side" class="flex items-center gap-1"
          >{{ side }}
          <select
            class="field py-0.5"
            :aria-label="`${side === 'from' ? 'From' : 'To'} the mark`"
            :value="markAt(plan.range[side])"
            @change="toMark(side, chosenIn($event))"
          >
            <option value="">no mark</option>
            <option v-for="(m, i) in marks" :key="i" :value="i">{{ m.name }}</option>
          </select></label
        >
      </template>
      <template v-if="plan.range">
        <NumberField
          label="From"
          unit="s"
          :value="plan.range.from"
          :min="0"
          :max="86400"
          @change="range('from', $event)"
          >from</NumberField
        >
        <NumberField
          label="To"
          unit="s"
          :value="plan.range.to"
          :min="0"
          :max="86400"
          @change="range('to', $event)"
          >to</NumberField
        >
        <NumberField
          label="Played before"
          unit="s"
          :value="plan.preRoll"
          :min="0"
          :max="120"
          @change="emit('change', 'Played before', { preRoll: $event })"
          >played before</NumberField
        >
      </template>
      <NumberField
        label="Longest tail"
        unit="s"
        :value="plan.tail"
        :min="0"
        :max="120"
        @change="emit('change', 'Longest tail', { tail: $event })"
        >and until it is silent, at most</NumberField
      >
    </div>
  </section>
</template>
