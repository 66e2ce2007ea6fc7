<script setup lang="ts">
/** Several handles at once: one for each value or switch that is ticked, or one for all of them. */
import { computed, ref } from 'vue';
import {
  addHandle,
  addHandles,
  findSlot,
  formatValue,
  switchTargets,
  tieTargets,
  type Id,
  type Rack,
  type TieTarget,
} from '../../../core/index.ts';
import { useSession } from '../../document/doc.ts';
import Sheet from '../../ui/Sheet.vue';

const props = defineProps<{ track: Id; rack: Id }>();
const emit = defineEmits<{ close: [] }>();
const session = useSession();
const sought = ref('');
const ticked = ref<string[]>([]);

const rack = computed(() => {
  const line = session.doc?.tracks.find((t) => t.id === props.track);
  return line ? (findSlot(line.chain, props.rack) as Rack | null) : null;
});
const keyOf = (t: TieTarget) => `${t.slot}/${t.param}`;
const all = computed(() => (rack.value ? [...tieTargets(rack.value), ...switchTargets(rack.value)] : []));
const chosen = computed(() => all.value.filter((t) => ticked.value.includes(keyOf(t))));
/** What is left of a list by the words that are typed. */
function fits(t: TieTarget): boolean {
  const words = sought.value.toLowerCase().split(/\s+/);
  return words.every((word) => t.label.toLowerCase().includes(word));
}
const groups = computed(() => [
  { title: 'Values', entries: all.value.filter((t) => t.spec.kind === 'number' && !t.hint && fits(t)) },
  { title: 'Switches', entries: all.value.filter((t) => t.spec.kind === 'switch' && fits(t)) },
  { title: 'Without effect as it is set', entries: all.value.filter((t) => t.hint && fits(t)) },
]);
const nowOf = (t: TieTarget) => t.hint ?? formatValue(t.spec, t.value);
const count = computed(() => chosen.value.length);
const eachText = computed(() => (count.value < 2 ? 'Add a handle' : `Add ${count.value} handles`));

function addEach() {
  const { edit } = addHandles(props.track, props.rack, chosen.value);
  if (session.edit(`${eachText.value} to ${rack.value!.name}`, edit)) emit('close');
}
function addOne() {
  const { edit } = addHandle(props.track, props.rack, chosen.value, 'Handle');
  if (session.edit(`Add a handle to ${rack.value!.name}`, edit)) emit('close');
}
</script>

<template>
  <Sheet v-if="rack" :title="`Handles for ${rack.name}`" :width="560" @close="emit('close')">
    <p class="mb-2 text-body text-soft">
      Each begins with a useful range around the value as it is now; nothing moves until the handle does. A
      handle for switches alone is a button.
    </p>
    <input
      v-model="sought"
      class="field mb-2 w-full"
      type="search"
      placeholder="Find a value"
      aria-label="Find a value"
    />
    <div class="max-h-[46vh] overflow-auto">
      <fieldset v-for="g in groups" :key="g.title" class="mb-2 text-body">
        <template v-if="g.entries.length">
          <legend class="mb-0.5 font-semibold">{{ g.title }}</legend>
          <label v-for="t in g.entries" :key="keyOf(t)" class="flex min-h-6 items-center gap-2"
            ><input v-model="ticked" type="checkbox" class="accent-[var(--rope)]" :value="keyOf(t)" />
            <span class="min-w-0 flex-1 truncate">{{ t.label }}</span>
            <span class="text-note text-soft">{{ nowOf(t) }}</span></label
          >
        </template>
      </fieldset>
      <p v-if="groups.every((g) => !g.entries.length)" class="text-body text-soft">
        Nothing in this rack is called “{{ sought }}”.
      </p>
    </div>
    <template #actions>
      <button type="button" class="btn" :disabled="count < 2" @click="addOne">
        One handle for all of them
      </button>
      <button type="button" class="btn btn-main" :disabled="!count" @click="addEach">{{ eachText }}</button>
    </template>
  </Sheet>
</template>
