<script setup lang="ts">
/** The stems of a print: names, lines, how far each goes. */
import { computed, ref } from 'vue';
import {
  DEPTHS,
  sources,
  stemsBy,
  type Depth,
  type PrintPlan,
  type Session,
  type Stem,
  type StemsBy,
} from '../../../core/index.ts';
import { chosenIn } from '../../ui/events.ts';
import LinesOf from './LinesOf.vue';
import { DEPTH_WORDS } from './words.ts';
import RemoveButton from '../../ui/RemoveButton.vue';

const props = defineProps<{ session: Session; plan: PrintPlan }>();
const emit = defineEmits<{ change: [label: string, stems: Stem[]] }>();
const WAYS: { by: StemsBy; label: string }[] = [
  { by: 'bus', label: 'a stem a bus' },
  { by: 'folder', label: 'a stem a folder' },
  { by: 'colour', label: 'a stem a colour' },
  { by: 'line', label: 'a stem a line' },
];
const depth = computed<Depth>(() => props.plan.stems[0]?.depth ?? 'buses');
const choosing = ref<Stem | null>(null);
const names = (stem: Stem) => {
  const list = stem.lines.map(
    (id) => props.session.tracks.find((t) => t.id === id)?.name ?? 'a line that is gone',
  );
  return list.length > 4 ? `${list.slice(0, 3).join(', ')} and ${list.length - 3} more` : list.join(', ');
};
/** Lines that can be in a stem: what plays, and whole buses and returns. */
const choices = computed(() => [
  ...sources(props.session),
  ...props.session.tracks.filter((t) => t.role === 'bus' || t.role === 'return'),
]);
const put = (label: string, stem: Stem) =>
  emit(
    'change',
    label,
    props.plan.stems.map((s) => (s.id === stem.id ? stem : s)),
  );
const drawUp = (by: StemsBy) => emit('change', 'Draw up the stems', stemsBy(props.session, by, depth.value));
const goTo = (to: string) =>
  emit(
    'change',
    'How far the stems go',
    props.plan.stems.map((s) => ({ ...s, depth: to as Depth })),
  );
function add() {
  const numbers = props.plan.stems.map((s) => Number(s.id.replace(/\D+/g, '')) || 0);
  const id = `stem-${Math.max(0, ...numbers) + 1}`;
  const stem = { id, name: `Stem ${props.plan.stems.length + 1}`, lines: [], depth: depth.value };
  emit('change', 'Add a stem', [...props.plan.stems, stem]);
  choosing.value = stem;
}
const remove = (stem: Stem) =>
  emit(
    'change',
    `Without the stem ${stem.name}`,
    props.plan.stems.filter((s) => s.id !== stem.id),
  );
</script>

<template>
  <section aria-label="Stems">
    <div class="mb-1 flex flex-wrap items-center gap-2">
      <h2 class="text-lead font-semibold">Stems</h2>
      <span class="text-note text-soft">Draw up:</span>
      <button
        v-for="w in WAYS"
        :key="w.by"
        type="button"
        class="btn px-2 py-0.5 text-note"
        @click="drawUp(w.by)"
      >
        {{ w.label }}
      </button>
      <span class="flex-1" />
      <label v-if="plan.stems.length" class="flex items-center gap-2"
        >All of them
        <select
          class="field py-0.5"
          aria-label="How far all stems go"
          :value="depth"
          @change="goTo(chosenIn($event))"
        >
          <option v-for="d in DEPTHS" :key="d" :value="d">{{ DEPTH_WORDS[d] }}</option>
        </select></label
      >
    </div>
    <p v-if="!plan.stems.length" class="text-soft">No stems: the mix alone is printed.</p>
    <table v-else class="w-full text-body">
      <thead>
        <tr class="text-left text-note text-soft">
          <th class="font-normal">Name</th>
          <th class="font-normal">Lines</th>
          <th class="font-normal">How far</th>
          <th><span class="sr-only">Remove</span></th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="s in plan.stems" :key="s.id" class="border-t border-rule">
          <td class="py-0.5 pr-2">
            <input
              class="field w-[150px] py-0.5"
              maxlength="200"
              :value="s.name"
              :aria-label="`Name of the stem ${s.name}`"
              @change="put('Rename a stem', { ...s, name: chosenIn($event).trim() || s.name })"
            />
          </td>
          <td class="pr-2">
            <button
              type="button"
              class="btn px-2 py-0.5 text-left"
              :aria-label="`Lines of ${s.name}: ${names(s) || 'none'}`"
              @click="choosing = s"
            >
              {{ names(s) || 'choose lines …' }}
            </button>
          </td>
          <td class="pr-2">
            <select
              class="field py-0.5"
              :value="s.depth"
              :aria-label="`How far ${s.name} goes`"
              @change="put('How far a stem goes', { ...s, depth: chosenIn($event) as Depth })"
            >
              <option v-for="d in DEPTHS" :key="d" :value="d">{{ DEPTH_WORDS[d] }}</option>
            </select>
          </td>
          <td class="text-right">
            <RemoveButton :what="`the stem ${s.name}`" @remove="remove(s)" />
          </td>
        </tr>
      </tbody>
    </table>
    <button type="button" class="btn mt-1 px-2 py-0.5 text-note" @click="add">Add a stem</button>
    <LinesOf
      v-if="choosing"
      :title="`Lines of ${choosing.name}`"
      :lines="choices"
      :chosen="choosing.lines"
      @close="choosing = null"
      @keep="
        (lines) => {
          put('Lines of a stem', { ...choosing!, lines });
          choosing = null;
        }
      "
    />
  </section>
</template>
