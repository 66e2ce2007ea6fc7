<script setup lang="ts">
/** What stands for each unit of hardware here: ranked choices with reasons, and what becomes of its positions. */
import { computed } from 'vue';
import type { UnitPlan } from '../../../core/index.ts';
import { chosenIn } from '../../ui/events.ts';

const props = defineProps<{ units: UnitPlan[] }>();
const emit = defineEmits<{ choose: [path: string, choice: string] }>();
const rows = computed(() =>
  props.units.map((u) => {
    const choice = u.choices.find((c) => c.id === u.chosen)!;
    const changed = choice.carried.filter((c) => !c.exact);
    const lost = changed.filter((c) => c.to === null).map((c) => c.control);
    const moved = changed.filter((c) => c.to !== null).map((c) => `${c.control} ${c.from} → ${c.to}`);
    const parts = [
      ...(moved.length ? [moved.join(', ')] : []),
      ...(lost.length ? [`nothing there for ${lost.join(', ')}`] : []),
    ];
    return { ...u, choice, becomes: parts.join('; ') };
  }),
);
</script>

<template>
  <section v-if="units.length" aria-label="Units of hardware">
    <h3 class="mb-1 font-semibold">Units</h3>
    <div v-for="u in rows" :key="u.path" class="border-t border-rule py-1">
      <div class="grid grid-cols-[240px_240px_1fr] items-center gap-2">
        <span class="truncate" :title="u.label">{{ u.label }}</span>
        <select
          class="field min-w-0 py-0.5"
          :value="u.chosen"
          :aria-label="`${u.label}: here`"
          @change="emit('choose', u.path, chosenIn($event))"
        >
          <option v-for="c in u.choices" :key="c.id" :value="c.id">{{ c.label }}</option></select
        ><span class="text-soft">{{ u.choice.reason }}</span>
      </div>
      <p v-if="u.becomes" class="pl-3 text-note text-soft">{{ u.becomes }}</p>
    </div>
  </section>
</template>
