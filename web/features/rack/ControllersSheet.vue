<script setup lang="ts">
/** A copy of racks with controllers: one control for all, a number for each, or none. */
import { ref } from 'vue';
import { withControllers, type Controllers, type Edit } from '../../../core/index.ts';
import Sheet from '../../ui/Sheet.vue';

const props = defineProps<{ label: string; edit: Edit; taken: number; run: (edit: Edit) => void }>();
const emit = defineEmits<{ close: [] }>();
const WAYS: { id: Controllers; label: string; help: string }[] = [
  { id: 'linked', label: 'The same control moves all', help: 'linked: nothing warns of it' },
  {
    id: 'free',
    label: 'A free number for each',
    help: 'numbers that MIDI leaves undefined, as long as there are any',
  },
  { id: 'none', label: 'No controller', help: 'for the copies; the original keeps its own' },
];
const how = ref<Controllers>('linked');
function done() {
  emit('close');
  props.run(withControllers(props.edit, how.value));
}
</script>

<template>
  <Sheet title="Controllers of the copies" :width="480" @close="emit('close')">
    <p class="mb-2 text-body">
      {{ taken === 1 ? 'A handle' : `${taken} handles` }} of what is copied
      {{ taken === 1 ? 'listens' : 'listen' }} to a controller that moves the original.
    </p>
    <fieldset class="text-body">
      <legend class="sr-only">What moves the copies</legend>
      <label v-for="way in WAYS" :key="way.id" class="flex min-h-7 items-center gap-2"
        ><input v-model="how" type="radio" name="controllers" class="accent-[var(--rope)]" :value="way.id" />
        {{ way.label }} <span class="text-note text-soft">{{ way.help }}</span></label
      >
    </fieldset>
    <template #actions>
      <button type="button" class="btn" @click="emit('close')">Cancel</button>
      <button type="button" class="btn btn-main" @click="done">{{ label }}</button>
    </template>
  </Sheet>
</template>
