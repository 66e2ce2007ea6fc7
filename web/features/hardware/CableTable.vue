<script setup lang="ts">
/** The cables as a list, for the keyboard and for what is wrong with them. */
import { computed, ref } from 'vue';
import {
  CABLE_FAULTS,
  followSignal,
  placesOf,
  randomIds,
  type Cable,
  type CableFault,
  type Studio,
} from '../../../core/index.ts';
import { chosenIn } from '../../ui/events.ts';

const props = defineProps<{ studio: Studio }>();
const emit = defineEmits<{ change: [label: string, cables: Cable[]] }>();
const places = computed(() => placesOf(props.studio));
const nameOf = (jack: string) => places.value.get(jack)?.name ?? jack;
/** Points of bays, and connectors that nothing is wired to. */
const jacks = computed(() => {
  const wired = new Set(props.studio.wires.flatMap((w) => [w.from, w.to]));
  return [...places.value]
    .filter(([jack, p]) => p.kind === 'point' || !wired.has(jack))
    .map(([jack]) => jack);
});
const free = computed(() => {
  const filled = new Set(props.studio.cables.flatMap((c) => [c.from, c.to]));
  return jacks.value.filter((j) => !filled.has(j));
});
const from = ref('');
const to = ref('');
function add() {
  emit('change', 'Plug a cable', [
    ...props.studio.cables,
    { id: randomIds('cab'), from: from.value, to: to.value },
  ]);
  from.value = to.value = '';
}
function setFault(cable: Cable, fault: string) {
  const { fault: _was, ...rest } = cable;
  const next: Cable = fault ? { ...rest, fault: fault as CableFault } : rest;
  emit(
    'change',
    'What a cable does',
    props.studio.cables.map((c) => (c.id === cable.id ? next : c)),
  );
}
const pull = (cable: Cable) =>
  emit(
    'change',
    'Pull a cable',
    props.studio.cables.filter((c) => c.id !== cable.id),
  );
const asked = ref('');
const followed = computed(() => {
  if (!asked.value || !places.value.has(asked.value)) return null;
  const place = places.value.get(asked.value)!;
  const back = place.kind !== 'point' && place.is === 'sink';
  return { back, ...followSignal(props.studio, asked.value, back ? 'back' : 'forward') };
});
</script>

<template>
  <div class="mt-2 flex flex-col gap-2 text-body">
    <table v-if="studio.cables.length" class="w-full">
      <thead>
        <tr class="text-left text-note text-soft">
          <th class="font-normal">Cable from</th>
          <th class="font-normal">to</th>
          <th class="font-normal">What is wrong with it</th>
          <th><span class="sr-only">Pull</span></th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="c in studio.cables" :key="c.id" class="border-t border-rule">
          <td class="py-0.5">{{ nameOf(c.from) }}</td>
          <td>{{ nameOf(c.to) }}</td>
          <td>
            <select
              class="field py-0.5"
              :value="c.fault ?? ''"
              :aria-label="`What is wrong with the cable from ${nameOf(c.from)}`"
              @change="setFault(c, chosenIn($event))"
            >
              <option value="">nothing</option>
              <option v-for="f in CABLE_FAULTS" :key="f" :value="f">{{ f }}</option>
            </select>
          </td>
          <td class="text-right">
            <button
              type="button"
              class="btn px-2 py-0.5 text-note"
              :aria-label="`Pull it: the cable from ${nameOf(c.from)}`"
              @click="pull(c)"
            >
              Pull it
            </button>
          </td>
        </tr>
      </tbody>
    </table>
    <div class="flex flex-wrap items-center gap-2">
      <select v-model="from" class="field max-w-[260px] py-0.5" aria-label="Cable from">
        <option value="">from …</option>
        <option v-for="j in free" :key="j" :value="j">{{ nameOf(j) }}</option>
      </select>
      <select v-model="to" class="field max-w-[260px] py-0.5" aria-label="Cable to">
        <option value="">to …</option>
        <option v-for="j in free" :key="j" :value="j" :disabled="j === from">{{ nameOf(j) }}</option>
      </select>
      <button type="button" class="btn px-2 py-0.5" :disabled="!from || !to || from === to" @click="add">
        Plug it
      </button>
      <span class="flex-1" />
      <label class="flex items-center gap-2"
        >Follow
        <select v-model="asked" class="field max-w-[260px] py-0.5" aria-label="Follow the signal from">
          <option value="">a signal …</option>
          <option v-for="j in [...places.keys()]" :key="j" :value="j">{{ nameOf(j) }}</option>
        </select></label
      >
    </div>
    <p v-if="followed" role="status">
      {{ followed.back ? 'It hears' : 'It comes to' }}:
      <strong>{{ followed.reaches.map((r) => r.name).join(' → ') || 'nothing' }}</strong>.
      <span class="text-warn">{{ followed.problems.map((p) => p.message).join(' ') }}</span>
    </p>
  </div>
</template>
