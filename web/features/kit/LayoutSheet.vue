<script setup lang="ts">
/**
 * Every part of an instrument with the output and line that it gets, to be changed before anything happens.
 */
import { Drum } from '@lucide/vue';
import { computed, reactive, ref } from 'vue';
import {
  COLOURS,
  outLabel,
  outPlace,
  planLayout,
  type Id,
  type KitLayout,
  type LayoutChoice,
} from '../../../core/index.ts';
import { nameFit } from '../../../core/kit/tap.ts';
import { useKit } from './store.ts';
import { useSession } from '../../document/doc.ts';
import { useUi } from '../../ui/window.ts';
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
/** What a part's choice means: a line of its own, the main output, or with another part. */
function choiceFor(part: string, v: string): Partial<LayoutChoice> {
  if (v === 'main') return { mode: 'main', with: '' };
  if (v !== 'own') return { mode: 'with', with: v };
  return { mode: 'own', with: '', name: plan.value.rows.find((r) => r.part.id === part)!.part.name };
}
const becomes = (part: string, v: string) => set(part, choiceFor(part, v));
const hosts = (part: string) => plan.value.rows.filter((r) => r.mode === 'own' && r.part.id !== part);
const changes = computed(() => plan.value.rows.filter((r) => r.change).length + plan.value.leaving.length);
const nameOf = (id: string) => session.doc!.tracks.find((t) => t.id === id)?.name ?? '';
/** A line whose name is that of another part: where a shift by one shows. */
const strange = (r: KitLayout['rows'][number]) =>
  r.mode === 'own' &&
  nameFit(r.part.name, r.name) < 3 &&
  plan.value.rows.some((x) => x.part !== r.part && nameFit(x.part.name, r.name) === 3);
function apply() {
  if (kit.layOut(plan.value)) {
    ui.say(`“${nameOf(plan.value.track)}” is laid out on ${plan.value.used} outputs.`, 'done', [
      { label: 'Undo', run: () => session.undo() },
    ]);
    emit('close');
  }
}
</script>

<template>
  <Sheet :title="`Lay out “${nameOf(plan.track)}”`" :width="1120" @close="emit('close')">
    <div class="mb-2 flex flex-wrap items-center gap-x-5 gap-y-1 text-[13px]">
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
    <table class="w-full text-[13px]" aria-label="Layout">
      <thead class="sticky top-0 z-10 bg-sheet">
        <tr class="text-left text-[12px] text-soft">
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
        <tr
          v-for="(r, i) in plan.rows"
          :key="r.part.id"
          class="border-t border-rule"
          :class="{ 'bg-sunk': r.mode === 'with' }"
        >
          <td>
            <button
              v-if="r.part.kind === 'part'"
              type="button"
              class="btn px-1.5 py-0.5"
              :aria-label="`Hit ${r.part.name}`"
              @click="kit.hit(slotId, r.part.strike)"
            >
              <Drum :size="13" aria-hidden="true" />
            </button>
          </td>
          <td class="font-semibold">{{ r.part.name }}</td>
          <td>
            <span
              class="inline-block min-w-[70px] rounded px-1.5 py-0.5 text-[14px] font-semibold tabular-nums"
              :class="
                r.out === 'main'
                  ? 'text-warn'
                  : i > 0 && plan.rows[i - 1].out === r.out
                    ? 'text-soft'
                    : 'bg-rope-wash'
              "
              >{{ outLabel(outPlace(r.out)) }}</span
            >
          </td>
          <td class="pr-1">
            <select
              class="field w-full py-0.5"
              :aria-label="`${r.part.name} becomes`"
              :value="r.mode === 'with' ? r.with : r.mode"
              @change="becomes(r.part.id, ($event.target as HTMLSelectElement).value)"
            >
              <option value="own">a line of its own</option>
              <option v-for="h in hosts(r.part.id)" :key="h.part.id" :value="h.part.id">
                with {{ h.part.name }}
              </option>
              <option value="main">stays on main</option>
            </select>
          </td>
          <template v-if="r.mode === 'own'">
            <td class="pr-1">
              <input
                class="field w-full py-0.5"
                :class="{ 'border-warn': strange(r) }"
                :aria-label="`Line of ${r.part.name}`"
                :title="strange(r) ? 'This is the name of another part' : undefined"
                :value="r.name"
                maxlength="200"
                @change="
                  set(r.part.id, { name: ($event.target as HTMLInputElement).value.trim() || r.part.name })
                "
              />
            </td>
            <td class="pr-1">
              <select
                class="field w-full py-0.5"
                :aria-label="`Width of ${r.part.name}`"
                :value="r.width"
                @change="
                  set(r.part.id, { width: Number(($event.target as HTMLSelectElement).value) as 1 | 2 })
                "
              >
                <option :value="1">mono</option>
                <option :value="2">stereo</option>
              </select>
            </td>
            <td class="pr-1">
              <select
                class="field w-full py-0.5"
                :aria-label="`Colour of ${r.part.name}`"
                :value="r.colour"
                @change="set(r.part.id, { colour: ($event.target as HTMLSelectElement).value })"
              >
                <option v-for="c in COLOURS" :key="c.id" :value="c.id">{{ c.label }}</option>
              </select>
            </td>
            <td class="pr-1">
              <input
                class="field w-full py-0.5"
                list="layout-subs"
                :aria-label="`Bus between for ${r.part.name}`"
                :value="r.sub"
                placeholder="none"
                @change="set(r.part.id, { sub: ($event.target as HTMLInputElement).value.trim() })"
              />
            </td>
          </template>
          <td v-else colspan="4" class="text-soft">
            {{ r.mode === 'with' ? `on the line “${r.name}”` : `heard on “${nameOf(plan.track)}” itself` }}
          </td>
          <td class="text-[12px] text-soft">{{ r.change || '—' }}</td>
        </tr>
      </tbody>
    </table>
    <datalist id="layout-subs">
      <option value="Snare bus" />
      <option value="Toms" />
      <option value="Cymbals" />
    </datalist>
    <p v-if="plan.leaving.length" class="mt-2 text-[13px]">
      Without an output from now on: {{ plan.leaving.map((t) => `“${t.name}”`).join(', ') }}. A line with
      nothing on it goes; one with devices stays, inactive.
    </p>
    <p
      v-for="p in plan.problems"
      :key="p"
      role="alert"
      class="mt-2 rounded border border-bad px-2 py-1 text-[13px] text-bad"
    >
      {{ p }}
    </p>
    <template #actions
      ><span class="mr-auto text-[13px] text-soft">{{
        changes
          ? `${changes} ${changes === 1 ? 'part or line changes' : 'parts or lines change'}; nothing has happened yet.`
          : 'Everything is as it should be.'
      }}</span
      ><button type="button" class="btn" @click="emit('close')">Cancel</button
      ><button type="button" class="btn btn-main" :disabled="plan.problems.length > 0" @click="apply">
        Lay it out
      </button></template
    >
  </Sheet>
</template>
