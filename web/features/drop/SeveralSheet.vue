<script setup lang="ts">
/**
 * Several presets at once: what each would add and how its loose ends are tied, as proposed; one step to put
 * all in.
 */
import { computed } from 'vue';
import type { DropPlan } from '../../../core/index.ts';
import { useDrop } from './store.ts';
import Sheet from '../../ui/Sheet.vue';

const drop = useDrop();
const plans = computed(() => drop.plans);
const ties = (p: DropPlan) =>
  p.ends.map((e) => `${e.end.kind} ${e.end.label} → ${e.choices.find((c) => c.id === e.chosen)!.label}`);
</script>

<template>
  <Sheet
    v-if="drop.several.length && plans"
    :title="`Drop ${drop.several.length} presets`"
    :width="760"
    @close="drop.cancel()"
  >
    <p v-if="'refused' in plans" role="alert" class="text-bad">{{ plans.refused }}</p>
    <template v-else>
      <p class="mb-2 text-body text-soft">
        Each is tied as proposed, in this order; what one brings, the next one finds. To choose differently,
        drop it by itself.
      </p>
      <section
        v-for="d in plans.drops"
        :key="d.plan.drop"
        class="border-t border-rule py-2 text-body"
        :aria-label="d.preset.name"
      >
        <h3 class="font-semibold">
          {{ d.preset.name }} <span class="font-normal text-soft">{{ d.preset.kind }}</span>
        </h3>
        <p>Adds {{ [...d.plan.tracks, ...d.plan.spares].map((t) => `“${t.name}”`).join(', ') }}.</p>
        <p v-if="d.plan.ends.length" class="text-soft">{{ ties(d.plan).join(' · ') }}</p>
        <p v-for="a in d.plan.adaptations" :key="a.path" class="text-soft">
          {{ a.label }}: {{ a.fromText }} → {{ a.toText }}, {{ a.reason }}
        </p>
      </section>
    </template>
    <template #actions
      ><button type="button" class="btn" @click="drop.cancel()">Cancel</button
      ><button type="button" class="btn btn-main" :disabled="'refused' in plans" @click="drop.applySeveral()">
        Drop all
      </button></template
    >
  </Sheet>
</template>
