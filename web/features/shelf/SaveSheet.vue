<script setup lang="ts">
/** Saving to the shelf: lines, the whole session as a starter, or one device or rack. */
import { computed } from 'vue';
import { findSlot, type Id } from '../../../core/index.ts';
import { useSession } from '../../document/doc.ts';
import SaveForm from './SaveForm.vue';

const props = defineProps<{
  lines?: Id[] | 'starter';
  slot?: { track: Id; slot: Id };
  mode?: 'version' | 'new';
}>();
const emit = defineEmits<{ close: [] }>();
const session = useSession();
const tracks = computed(() => {
  const all = session.doc?.tracks ?? [];
  if (props.slot) return all.filter((t) => t.id === props.slot!.track);
  return all.filter((t) => props.lines === 'starter' || props.lines?.includes(t.id));
});
const piece = computed(() => {
  const line = tracks.value[0];
  return props.slot && line ? findSlot(line.chain, props.slot.slot) : undefined;
});
/** What was to be saved may have gone meanwhile. */
const there = computed(() => tracks.value.length > 0 && (!props.slot || !!piece.value));
</script>

<template>
  <SaveForm
    v-if="there"
    :tracks="tracks"
    :piece="piece"
    :starter="lines === 'starter'"
    :start-as="mode"
    @close="emit('close')"
  />
</template>
