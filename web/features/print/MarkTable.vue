<script setup lang="ts">
/** Places of the song that are marked in the files, and between which a part of it lies. */
import { sessionLength, type PrintPlan, type Session } from '../../../core/index.ts';
import { chosenIn } from '../../ui/events.ts';
import RemoveButton from '../../ui/RemoveButton.vue';
import { useAudio } from '../transport/index.ts';
import NumberField from '../../ui/NumberField.vue';

type Marks = NonNullable<PrintPlan['marks']>;
const props = defineProps<{ session: Session; marks: Marks }>();
const emit = defineEmits<{ change: [label: string, marks: Marks] }>();
const audio = useAudio();
/** Marks are kept in the order of the song. */
const keep = (label: string, marks: Marks) =>
  emit(
    'change',
    label,
    [...marks].sort((a, b) => a.at - b.at),
  );
const put = (label: string, i: number, over: Partial<Marks[number]>) =>
  keep(
    label,
    props.marks.map((m, k) => (k === i ? { ...m, ...over } : m)),
  );
/** Where the song stands, to a thousandth of a second. */
function add() {
  const at = Math.round(Math.min(audio.seconds, sessionLength(props.session)) * 1000) / 1000;
  keep('Add a mark', [...props.marks, { at, name: `Mark ${props.marks.length + 1}` }]);
}
</script>

<template>
  <section aria-label="Marks">
    <h2 class="mb-1 text-lead font-semibold">Marks</h2>
    <ul v-if="marks.length" class="flex flex-col gap-1">
      <li v-for="(m, i) in marks" :key="i" class="flex items-center gap-2">
        <input
          class="field w-[180px] py-0.5"
          maxlength="200"
          :value="m.name"
          :aria-label="`Name of the mark ${m.name}`"
          @change="put('Rename a mark', i, { name: chosenIn($event).trim() || m.name })"
        />
        <NumberField
          :label="`Place of ${m.name}`"
          unit="s"
          :value="m.at"
          :min="0"
          :max="86400"
          @change="put('Move a mark', i, { at: $event })"
          >at</NumberField
        >
        <RemoveButton
          :what="`the mark ${m.name}`"
          @remove="
            emit(
              'change',
              `Without the mark ${m.name}`,
              marks.filter((_, k) => k !== i),
            )
          "
        />
      </li>
    </ul>
    <p v-else class="text-soft">
      None. Marks are written into the files, and a part of the song can lie between two.
    </p>
    <button type="button" class="btn mt-1 px-2 py-0.5 text-note" @click="add">
      Mark where the song stands
    </button>
  </section>
</template>
