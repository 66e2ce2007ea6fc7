<script setup lang="ts">
/** A unit as a flat card: what it is, and its panel with every control where it stands. */
import { computed } from 'vue';
import { NOMINAL_LABELS, positionsOf, type Unit } from '../../../core/index.ts';
import ControlDial from './ControlDial.vue';

const props = defineProps<{ unit: Unit; positions: Record<string, number>; changed?: string[] }>();
const emit = defineEmits<{ set: [control: string, position: number, sliding: boolean] }>();
const stands = computed(() => positionsOf({ unit: props.unit, positions: props.positions }));
const rows = computed(() => {
  const found = new Map<number, Unit['panel']>();
  for (const c of props.unit.panel) found.set(c.row, [...(found.get(c.row) ?? []), c]);
  return [...found].sort(([a], [b]) => a - b).map(([, list]) => list.sort((a, b) => a.column - b.column));
});
const facts = computed(() =>
  [
    props.unit.family,
    props.unit.width,
    NOMINAL_LABELS[props.unit.nominal],
    props.unit.simulated ? 'simulated' : '',
  ]
    .filter(Boolean)
    .join(' · '),
);
</script>

<template>
  <section class="rounded border border-edge bg-sheet p-2" :aria-label="`Unit ${unit.name}`">
    <header class="mb-1 flex flex-wrap items-baseline gap-x-3">
      <h3 class="font-semibold">{{ unit.name }}</h3>
      <span class="text-note text-soft">{{ facts }}</span>
      <span class="flex-1" /><slot name="actions" />
    </header>
    <div v-for="(row, i) in rows" :key="i" class="mt-1 flex flex-wrap gap-x-4 gap-y-1">
      <ControlDial
        v-for="c in row"
        :key="c.id"
        class="w-[172px]"
        :control="c"
        :position="stands[c.id]"
        :unit="unit.name"
        :changed="changed?.includes(c.id)"
        @change="(position, sliding) => emit('set', c.id, position, sliding)"
      />
    </div>
    <p v-if="unit.note" class="mt-1 text-note text-soft">{{ unit.note }}</p>
  </section>
</template>
