<script setup lang="ts">
/** One part of an instrument: its output, what it becomes, and the line that it gets. */
import { Drum } from '@lucide/vue';
import { computed } from 'vue';
import { outLabel, outPlace, type Id, type KitLayout, type LayoutChoice } from '../../../core/index.ts';
import { nameFit } from '../../../core/kit/tap.ts';
import { useSession } from '../../document/doc.ts';
import { chosenIn } from '../../ui/events.ts';
import { useKit } from './store.ts';
import ColourMenu from '../../ui/ColourMenu.vue';

const props = defineProps<{ plan: KitLayout; index: number; slotId: Id }>();
const emit = defineEmits<{ set: [choice: Partial<LayoutChoice>] }>();
const session = useSession();
const kit = useKit();
const row = computed(() => props.plan.rows[props.index]);
const part = computed(() => row.value.part);
const hosts = computed(() => props.plan.rows.filter((r) => r.mode === 'own' && r.part.id !== part.value.id));

/** The main output is what may be forgotten; an output shared with the part above stands back. */
const outClass = computed(() => {
  if (row.value.out === 'main') return 'text-warn';
  const above = props.plan.rows[props.index - 1];
  return above?.out === row.value.out ? 'text-soft' : 'bg-rope-wash';
});
/** The line has the name of another part: where a shift by one shows. */
const isStrange = computed(() => {
  const { name, mode } = row.value;
  if (mode !== 'own' || nameFit(part.value.name, name) === 3) return false;
  return props.plan.rows.some((r) => r.part !== part.value && nameFit(r.part.name, name) === 3);
});
const elsewhere = computed(() =>
  row.value.mode === 'with'
    ? `on the line “${row.value.name}”`
    : `heard on “${session.nameOf(props.plan.track)}” itself`,
);

/** A line of its own, the main output, or together with another part. */
function choiceFor(value: string): Partial<LayoutChoice> {
  if (value === 'main') return { mode: 'main', with: '' };
  if (value !== 'own') return { mode: 'with', with: value };
  return { mode: 'own', with: '', name: part.value.name };
}
const becomes = (e: Event) => emit('set', choiceFor(chosenIn(e)));
const rename = (e: Event) => emit('set', { name: chosenIn(e).trim() || part.value.name });
const setWidth = (e: Event) => emit('set', { width: Number(chosenIn(e)) as 1 | 2 });
const setBus = (e: Event) => emit('set', { sub: chosenIn(e).trim() });
</script>

<template>
  <tr class="border-t border-rule" :class="{ 'bg-sunk': row.mode === 'with' }">
    <td>
      <button
        v-if="part.kind === 'part'"
        type="button"
        class="btn px-1.5 py-0.5"
        :aria-label="`Hit ${part.name}`"
        @click="kit.hit(slotId, part.strike)"
      >
        <Drum :size="13" aria-hidden="true" />
      </button>
    </td>
    <td class="font-semibold">{{ part.name }}</td>
    <td>
      <span
        class="inline-block min-w-[70px] rounded px-1.5 py-0.5 text-figure font-semibold tabular-nums"
        :class="outClass"
        >{{ outLabel(outPlace(row.out)) }}</span
      >
    </td>
    <td class="pr-1">
      <select
        class="field w-full py-0.5"
        :aria-label="`${part.name} becomes`"
        :value="row.mode === 'with' ? row.with : row.mode"
        @change="becomes"
      >
        <option value="own">a line of its own</option>
        <option v-for="h in hosts" :key="h.part.id" :value="h.part.id">with {{ h.part.name }}</option>
        <option value="main">stays on main</option>
      </select>
    </td>
    <template v-if="row.mode === 'own'">
      <td class="pr-1">
        <input
          class="field w-full py-0.5"
          :class="{ 'border-warn': isStrange }"
          :aria-label="`Line of ${part.name}`"
          :title="isStrange ? 'This is the name of another part' : undefined"
          :value="row.name"
          maxlength="200"
          @change="rename"
        />
      </td>
      <td class="pr-1">
        <select
          class="field w-full py-0.5"
          :aria-label="`Width of ${part.name}`"
          :value="row.width"
          @change="setWidth"
        >
          <option :value="1">mono</option>
          <option :value="2">stereo</option>
        </select>
      </td>
      <td class="pr-1">
        <ColourMenu
          :label="`Colour of ${part.name}`"
          :model-value="row.colour"
          @update:model-value="(colour) => emit('set', { colour })"
        />
      </td>
      <td class="pr-1">
        <input
          class="field w-full py-0.5"
          list="layout-subs"
          :aria-label="`Bus between for ${part.name}`"
          :value="row.sub"
          placeholder="none"
          @change="setBus"
        />
      </td>
    </template>
    <td v-else colspan="4" class="text-soft">{{ elsewhere }}</td>
    <td class="text-note text-soft">{{ row.change || '—' }}</td>
  </tr>
</template>
