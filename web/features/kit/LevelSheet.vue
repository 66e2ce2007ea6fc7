<script setup lang="ts">
/**
 * What every output of an instrument reaches when each of its parts is played as hard as it goes, and the
 * trims that bring them to one level.
 */
import { computed, ref } from 'vue';
import { WORKING_LEVEL, formatDb, instrumentAt, measureOutputs, type Id } from '../../../core/index.ts';
import { useKit } from './store.ts';
import { useSession } from '../../document/doc.ts';
import Sheet from '../../ui/Sheet.vue';

const props = defineProps<{ slotId: Id }>();
const emit = defineEmits<{ close: [] }>();
const session = useSession();
const kit = useKit();
const target = ref(WORKING_LEVEL);
const rows = computed(() => {
  try {
    return measureOutputs(session.doc!, props.slotId, target.value);
  } catch {
    return [];
  }
});
const name = instrumentAt(session.doc!, props.slotId).track.name;
const word = (peak: number) => {
  if (peak > 0) return 'clips';
  if (peak < -18) return 'low';
  return '';
};
function apply() {
  if (kit.level(props.slotId, rows.value)) emit('close');
}
</script>

<template>
  <Sheet :title="`Output levels of “${name}”`" :width="640" @close="emit('close')">
    <label class="mb-2 flex items-center gap-2 text-body"
      >Peak of each output before the faders
      <select v-model.number="target" class="field py-0.5" aria-label="Working level">
        <option v-for="v in [-18, -15, -12, -9, -6]" :key="v" :value="v">{{ formatDb(v) }}FS</option>
      </select></label
    >
    <table class="w-full text-body" aria-label="Output levels">
      <thead>
        <tr class="text-left text-note text-soft">
          <th class="w-[80px] font-normal">Output</th>
          <th class="font-normal">Parts</th>
          <th class="w-[120px] font-normal">Peak now</th>
          <th class="w-[150px] font-normal">Trim</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="r in rows" :key="r.pair" class="border-t border-rule">
          <td class="font-semibold">{{ r.pair || 'Main' }}</td>
          <td>{{ r.parts.join(', ') || 'bleed' }}</td>
          <td class="tabular-nums">
            {{ formatDb(r.peak) }}FS <span v-if="word(r.peak)" class="text-warn">{{ word(r.peak) }}</span>
          </td>
          <td class="tabular-nums">
            {{ formatDb(r.was) }} → <strong>{{ formatDb(r.trim) }}</strong>
          </td>
        </tr>
      </tbody>
    </table>
    <p class="mt-2 text-body text-soft">
      Each part is played once as hard as it goes. The faders of the lines stay where they are; “Levelling
      off” in the instrument’s panel takes all trims back.
    </p>
    <template #actions
      ><button type="button" class="btn" @click="emit('close')">Cancel</button
      ><button type="button" class="btn btn-main" :disabled="!rows.length" @click="apply">
        Set the trims
      </button></template
    >
  </Sheet>
</template>
