<script setup lang="ts">
/** What a unit is: name, family, width, level, simulation, and the controls of its panel. */
import { ref } from 'vue';
import {
  FAMILIES,
  NOMINALS,
  NOMINAL_LABELS,
  UNIT_MODELS,
  WIDTHS,
  clone,
  randomIds,
  type Control,
  type Unit,
} from '../../../core/index.ts';
import Sheet from '../../ui/Sheet.vue';
import RemoveButton from '../../ui/RemoveButton.vue';

const props = defineProps<{ unit: Unit }>();
const emit = defineEmits<{ close: []; keep: [unit: Unit] }>();
const draft = ref(clone(props.unit));
const UNITS: Control['unit'][] = ['', 'dB', 'Hz', 'ms', 's', '%', ':1'];
function addControl() {
  const place = draft.value.panel.length;
  draft.value.panel.push({
    id: randomIds('c'),
    label: `Control ${place + 1}`,
    kind: 'knob',
    unit: 'dB',
    min: 0,
    max: 10,
    taper: 'linear',
    default: 0,
    column: place % 6,
    row: Math.floor(place / 6),
  });
}
const removeControl = (id: string) => (draft.value.panel = draft.value.panel.filter((c) => c.id !== id));
function keep() {
  const panel = draft.value.panel.map((c) => {
    const max = Math.max(c.max, c.min + 0.001);
    return { ...c, max, default: Math.min(max, Math.max(c.min, c.default)) };
  });
  emit('keep', { ...clone(draft.value), name: draft.value.name.trim() || props.unit.name, panel });
}
</script>

<template>
  <Sheet :title="`Unit ${unit.name}`" :width="760" @close="emit('close')">
    <div class="flex flex-col gap-3 text-body">
      <div class="flex flex-wrap items-center gap-3">
        <label class="flex items-center gap-2"
          >Name <input v-model="draft.name" class="field w-[200px]" maxlength="200"
        /></label>
        <label class="flex items-center gap-2"
          >Family
          <select v-model="draft.family" class="field py-0.5">
            <option v-for="f in FAMILIES" :key="f" :value="f">{{ f }}</option>
          </select></label
        >
        <label class="flex items-center gap-2"
          >Channels
          <select v-model="draft.width" class="field py-0.5">
            <option v-for="w in WIDTHS" :key="w" :value="w">{{ w }}</option>
          </select></label
        >
        <label class="flex items-center gap-2"
          >Level
          <select v-model="draft.nominal" class="field py-0.5">
            <option v-for="n in NOMINALS" :key="n" :value="n">{{ NOMINAL_LABELS[n] }}</option>
          </select></label
        >
        <label class="flex items-center gap-2"
          >Simulated by
          <select v-model="draft.simulated" class="field py-0.5">
            <option :value="null">nothing: a real unit</option>
            <option v-for="m in Object.values(UNIT_MODELS)" :key="m.id" :value="m.id">{{ m.label }}</option>
          </select></label
        >
        <label class="flex items-center gap-1"
          ><input v-model="draft.hasKey" type="checkbox" class="accent-[var(--rope)]" /> Key input</label
        >
      </div>
      <label class="flex items-center gap-2"
        >Note <input v-model="draft.note" class="field flex-1" maxlength="2000"
      /></label>
      <h3 class="font-semibold">Panel</h3>
      <p v-if="draft.simulated" class="text-soft">
        The simulation follows the controls by their own names; a control that is added is only remembered.
      </p>
      <table class="w-full">
        <thead>
          <tr class="text-left text-note text-soft">
            <th class="font-normal">Label</th>
            <th class="font-normal">In</th>
            <th class="font-normal">From</th>
            <th class="font-normal">to</th>
            <th class="font-normal">At rest</th>
            <th><span class="sr-only">Remove</span></th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="c in draft.panel" :key="c.id" class="border-t border-rule">
            <td>
              <input
                v-model="c.label"
                class="field w-[160px] py-0.5"
                maxlength="80"
                :aria-label="`Label of ${c.label}`"
              />
            </td>
            <template v-if="c.labels">
              <td colspan="4" class="text-soft">{{ c.labels.join(' · ') }}</td>
            </template>
            <template v-else>
              <td>
                <select v-model="c.unit" class="field py-0.5" :aria-label="`Unit of ${c.label}`">
                  <option v-for="u in UNITS" :key="u" :value="u">{{ u || 'numbers' }}</option>
                </select>
              </td>
              <td>
                <input
                  v-model.number="c.min"
                  type="number"
                  step="any"
                  class="field w-[80px] py-0.5"
                  :aria-label="`Lowest of ${c.label}`"
                />
              </td>
              <td>
                <input
                  v-model.number="c.max"
                  type="number"
                  step="any"
                  class="field w-[80px] py-0.5"
                  :aria-label="`Highest of ${c.label}`"
                />
              </td>
              <td>
                <input
                  v-model.number="c.default"
                  type="number"
                  step="any"
                  class="field w-[80px] py-0.5"
                  :aria-label="`${c.label} at rest`"
                />
              </td>
            </template>
            <td class="text-right">
              <RemoveButton :what="c.label" @remove="removeControl(c.id)" />
            </td>
          </tr>
        </tbody>
      </table>
      <button type="button" class="btn self-start px-2 py-0.5" @click="addControl">Add a control</button>
    </div>
    <template #actions
      ><button type="button" class="btn" @click="emit('close')">Cancel</button
      ><button type="button" class="btn btn-main" @click="keep">Keep it</button></template
    >
  </Sheet>
</template>
