<script setup lang="ts">
/** Chosen parts of one line copied to all that are chosen, in one step. */
import { computed, ref } from 'vue';
import { PARTS, copyParts, togglePart, type Id, type PartId, type Track } from '../../../core/index.ts';
import { useSession } from '../../document/doc.ts';

/** What belongs to one line alone is not copied to others. */
const OFFERED: readonly PartId[] = ['chain', 'sends', 'level', 'pan', 'output', 'colour', 'note'];

const props = defineProps<{ lines: Track[]; ids: Id[] }>();
const session = useSession();
const from = ref('');
const parts = ref<PartId[]>(['chain']);
const append = ref(false);
const offered = PARTS.filter((p) => OFFERED.includes(p.id));
const first = computed(() => props.lines[0]);
const others = computed(() =>
  session.doc!.tracks.filter((t) => t.role !== 'master' && t.id !== first.value?.id),
);
const source = computed(() => session.doc!.tracks.find((t) => t.id === from.value) ?? first.value);
const count = computed(() => props.ids.filter((id) => id !== source.value?.id).length);
const toggle = (part: PartId) => {
  parts.value = togglePart(parts.value, part);
};
function copy() {
  if (!source.value) return;
  session.edit(
    `Copy from ${source.value.name} to ${props.ids.length} lines`,
    copyParts(source.value, props.ids, parts.value, append.value),
  );
}
</script>

<template>
  <fieldset class="flex flex-col gap-2">
    <legend class="mb-1 text-note font-semibold">Copy from one line to the others</legend>
    <label class="flex min-h-6 items-center gap-2"
      >From
      <select v-model="from" class="field py-0.5" aria-label="Line to copy from">
        <option value="">{{ first?.name }}</option>
        <option v-for="t in others" :key="t.id" :value="t.id">{{ t.name }}</option>
      </select></label
    >
    <div class="flex flex-wrap gap-x-3 gap-y-1">
      <label v-for="p in offered" :key="p.id" class="flex min-h-6 items-center gap-1" :title="p.help"
        ><input
          type="checkbox"
          class="accent-[var(--rope)]"
          :checked="parts.includes(p.id)"
          @change="toggle(p.id)"
        />
        {{ p.label }}</label
      >
    </div>
    <label v-if="parts.includes('chain')" class="flex min-h-6 items-center gap-2"
      ><input v-model="append" type="checkbox" class="accent-[var(--rope)]" /> Behind what they have, instead
      of in its place</label
    >
    <div>
      <button type="button" class="btn btn-main px-2 py-0.5" :disabled="!parts.length" @click="copy">
        Copy to {{ count }} lines
      </button>
    </div>
  </fieldset>
</template>
