<script setup lang="ts">
/** Colours for several lines: one for all, or some in turn, in the order in which they are pressed. */
import { computed, ref } from 'vue';
import { COLOURS, type Id } from '../../../core/index.ts';
import { useSession } from '../../document/doc.ts';
import Sheet from '../../ui/Sheet.vue';
import { useUi } from '../../ui/window.ts';
import { setColour, wordsFor } from './many.ts';

const props = defineProps<{ lines: Id[] }>();
const emit = defineEmits<{ close: [] }>();
const session = useSession();
const ui = useUi();
const lines = computed(() => session.doc!.tracks.filter((t) => props.lines.includes(t.id)));
const turn = ref<string[]>([]);
/** colours that are pressed in quick succession are one step to undo */
const step = `colours${Date.now()}`;
function press(colour: string) {
  turn.value = turn.value.includes(colour) ? turn.value.filter((c) => c !== colour) : [...turn.value, colour];
  if (turn.value.length) setColour(lines.value, turn.value, step);
}
</script>

<template>
  <Sheet :title="`Colours of ${wordsFor(lines)}`" :width="520" @close="emit('close')">
    <p class="mb-3 text-body text-soft">
      Press one for all of them, or several: the lines take them in turn, at once.
    </p>
    <div class="grid grid-cols-4 gap-2" role="group" aria-label="Colours">
      <button
        v-for="c in COLOURS"
        :key="c.id"
        type="button"
        class="btn justify-start gap-2"
        :aria-pressed="turn.includes(c.id)"
        @click="press(c.id)"
      >
        <span class="h-4 w-4 rounded-sm" :style="{ background: ui.swatch(c.id) }" aria-hidden="true" />
        {{ c.label }}
        <span v-if="turn.includes(c.id)" class="ml-auto text-note text-soft">{{
          turn.indexOf(c.id) + 1
        }}</span>
      </button>
    </div>
    <template #actions>
      <button type="button" class="btn btn-main" @click="emit('close')">Done</button>
    </template>
  </Sheet>
</template>
