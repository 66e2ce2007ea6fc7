<script setup lang="ts">
/** A copy of a line with chosen parts; the choice is remembered for the next one. */
import { computed, ref } from 'vue';
import { DUPLICATE_PARTS, PARTS, togglePart, type Id, type PartId } from '../../../core/index.ts';
import { useSession } from '../../document/doc.ts';
import { useLineView } from './view.ts';
import NumberField from '../../ui/NumberField.vue';
import Sheet from '../../ui/Sheet.vue';
import { duplicateLine } from './lines.ts';

const props = defineProps<{ line: Id }>();
const emit = defineEmits<{ close: [] }>();
const view = useLineView();
const session = useSession();
/** how many copies are made at once, and at most */
const count = ref(1);
const MOST = 128;
const track = computed(() => session.doc?.tracks.find((t) => t.id === props.line));
const offered = PARTS.filter((p) => p.id !== 'name');
const toggle = (id: PartId) => {
  view.duplicateParts = togglePart(view.duplicateParts, id);
};
function make() {
  if (track.value) duplicateLine(track.value, count.value);
  emit('close');
}
</script>

<template>
  <Sheet v-if="track" :title="`Duplicate “${track.name}”`" :width="520" @close="emit('close')">
    <div class="mb-3 text-body">
      <NumberField
        label="How many copies"
        unit=""
        :value="count"
        :min="1"
        :max="MOST"
        @change="count = Math.round($event)"
        >How many</NumberField
      >
    </div>
    <fieldset class="grid grid-cols-2 gap-x-4 gap-y-1 text-body">
      <legend class="mb-1 font-semibold">What a copy takes over</legend>
      <label v-for="p in offered" :key="p.id" class="flex min-h-6 items-center gap-1.5"
        ><input
          type="checkbox"
          class="accent-[var(--rope)]"
          :checked="view.duplicateParts.includes(p.id)"
          @change="toggle(p.id)"
        />
        {{ p.label }} <span class="text-soft">{{ p.help }}</span></label
      >
    </fieldset>
    <p class="mt-2 text-body text-soft">
      The choice is remembered.
      <button type="button" class="underline" @click="view.duplicateParts = [...DUPLICATE_PARTS]">
        Back to the usual parts
      </button>
    </p>
    <template #actions
      ><button type="button" class="btn" @click="emit('close')">Cancel</button
      ><button type="button" class="btn btn-main" @click="make">
        {{ count > 1 ? `Make ${count} copies` : 'Duplicate' }}
      </button></template
    >
  </Sheet>
</template>
