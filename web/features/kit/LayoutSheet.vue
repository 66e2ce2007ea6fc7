<script setup lang="ts">
/**
 * Every part of an instrument with the output and line that it gets, to be changed before anything happens.
 */
import { computed, reactive, ref } from 'vue';
import { planLayout, type Id, type KitLayout, type LayoutChoice } from '../../../core/index.ts';
import { useKit } from './store.ts';
import { useSession } from '../../document/doc.ts';
import { useUi } from '../../ui/window.ts';
import LayoutRow from './LayoutRow.vue';
import Sheet from '../../ui/Sheet.vue';

const props = defineProps<{ slotId: Id }>();
const emit = defineEmits<{ close: [] }>();
const session = useSession();
const kit = useKit();
const ui = useUi();
const chosen = reactive<Record<string, Partial<LayoutChoice>>>({});
const halves = ref(false);
const skipText = ref('');
const skip = computed(() =>
  skipText.value
    .split(/[\s,]+/)
    .map(Number)
    .filter((n) => Number.isInteger(n) && n > 0),
);
const first = planLayout(session.doc!, props.slotId);
const renumber = ref(first.options.renumber);
const laidOut = first.rows.some((r) => r.line);
const busName = ref(first.options.bus ?? '');
let last = first;
/**
 * Another window may take the instrument away meanwhile: what was planned stays to be seen, and applying it
 * says so.
 */
const plan = computed<KitLayout>(() => {
  try {
    last = planLayout(session.doc!, props.slotId, {
      rows: chosen,
      halves: halves.value,
      skip: skip.value,
      renumber: renumber.value,
      bus: busName.value.trim() || null,
    });
  } catch {
    /* applying it says so */
  }
  return last;
});
const set = (part: string, c: Partial<LayoutChoice>) => {
  chosen[part] = { ...chosen[part], ...c };
};
const changes = computed(() => plan.value.rows.filter((r) => r.change).length + plan.value.leaving.length);
const changesText = computed(() => {
  const count = changes.value;
  if (!count) return 'Everything is as it should be.';
  return `${count} ${count === 1 ? 'part or line changes' : 'parts or lines change'}; nothing has happened yet.`;
});
function apply() {
  if (kit.layOut(plan.value)) {
    ui.say(`“${session.nameOf(plan.value.track)}” is laid out on ${plan.value.used} outputs.`, 'done', [
      session.undoing(),
    ]);
    emit('close');
  }
}
</script>

<template>
  <Sheet :title="`Lay out “${session.nameOf(plan.track)}”`" :width="1120" @close="emit('close')">
    <div class="mb-2 flex flex-wrap items-center gap-x-5 gap-y-1 text-body">
      <label class="flex items-center gap-2"
        >Bus above
        <input
          v-model="busName"
          class="field w-[170px] py-0.5"
          aria-label="Name of the bus"
          placeholder="none"
      /></label>
      <label class="flex items-center gap-1.5"
        ><input v-model="halves" type="checkbox" class="accent-[var(--rope)]" /> Two mono lines share a
        pair</label
      >
      <label v-if="laidOut" class="flex items-center gap-1.5"
        ><input v-model="renumber" type="checkbox" class="accent-[var(--rope)]" /> Number the outputs
        anew</label
      >
      <label class="flex items-center gap-2"
        >Outputs that stay empty
        <input
          v-model="skipText"
          class="field w-[90px] py-0.5"
          aria-label="Outputs that stay empty"
          placeholder="none"
      /></label>
      <span class="flex-1" /><span class="text-soft"
        >{{ plan.used }} of {{ plan.outputs }} stereo outputs</span
      >
    </div>
    <table class="w-full text-body" aria-label="Layout">
      <thead class="sticky top-0 z-10 bg-sheet">
        <tr class="text-left text-note text-soft">
          <th class="w-8 font-normal" />
          <th class="w-[120px] font-normal">Part</th>
          <th class="w-[92px] font-normal">Output</th>
          <th class="w-[150px] font-normal">Becomes</th>
          <th class="w-[150px] font-normal">Line</th>
          <th class="w-[84px] font-normal">Width</th>
          <th class="w-[110px] font-normal">Colour</th>
          <th class="w-[110px] font-normal">Bus between</th>
          <th class="font-normal">What changes</th>
        </tr>
      </thead>
      <tbody>
        <LayoutRow
          v-for="(r, i) in plan.rows"
          :key="r.part.id"
          :plan="plan"
          :index="i"
          :slot-id="slotId"
          @set="(choice) => set(r.part.id, choice)"
        />
      </tbody>
    </table>
    <datalist id="layout-subs">
      <option value="Snare bus" />
      <option value="Toms" />
      <option value="Cymbals" />
    </datalist>
    <p v-if="plan.leaving.length" class="mt-2 text-body">
      Without an output from now on: {{ plan.leaving.map((t) => `“${t.name}”`).join(', ') }}. A line with
      nothing on it goes; one with devices stays, inactive.
    </p>
    <p
      v-for="p in plan.problems"
      :key="p"
      role="alert"
      class="mt-2 rounded border border-bad px-2 py-1 text-body text-bad"
    >
      {{ p }}
    </p>
    <template #actions
      ><span class="mr-auto text-body text-soft">{{ changesText }}</span
      ><button type="button" class="btn" @click="emit('close')">Cancel</button
      ><button type="button" class="btn btn-main" :disabled="plan.problems.length > 0" @click="apply">
        Lay it out
      </button></template
    >
  </Sheet>
</template>
