<script setup lang="ts">
/** The bands of a device that works on each by itself: one row each, with its values beside each other. */
import { computed } from 'vue';
import { DEVICE_TYPES, type Device, type Track } from '../../../core/index.ts';
import ValueField from '../../ui/ValueField.vue';
import { useValues } from './values.ts';

const props = defineProps<{ track: Track; device: Device; names: string[] }>();
const { set, mark } = useValues(props);
const spec = computed(() => DEVICE_TYPES[props.device.type]);
const specOf = (n: number, k: string) => spec.value.byId[`b${n}.${k}`];
const valueOf = (n: number, k: string) => props.device.params[`b${n}.${k}`];
const turn = (n: number, k: string) => set({ [`b${n}.${k}`]: !valueOf(n, k) });
/** The numbers of the first band, whose labels begin with its name: “Band 1 threshold”. */
const columns = computed(() =>
  spec.value.params
    .filter((p) => p.group === 'Band 1' && p.kind === 'number')
    .map((p) => {
      const word = p.label.replace('Band 1 ', '');
      return { id: p.id.replace('b1.', ''), label: word[0].toUpperCase() + word.slice(1) };
    }),
);
</script>

<template>
  <table class="bands w-full text-note">
    <thead>
      <tr class="text-left text-soft">
        <th class="font-normal">Band</th>
        <th v-for="column in columns" :key="column.id" class="font-normal">{{ column.label }}</th>
        <th class="font-normal">Alone</th>
      </tr>
    </thead>
    <tbody>
      <tr v-for="(name, i) in names" :key="name">
        <td>
          <button
            type="button"
            class="switch"
            :aria-pressed="valueOf(i + 1, 'on') === true"
            :aria-label="`Band ${i + 1} compresses`"
            @click="turn(i + 1, 'on')"
          >
            {{ name }}
          </button>
        </td>
        <td v-for="{ id } in columns" :key="id" class="w-[118px] pr-1">
          <ValueField
            compact
            :spec="specOf(i + 1, id)"
            :value="valueOf(i + 1, id)"
            :disabled="id !== 'gain' && !valueOf(i + 1, 'on')"
            :mark="mark(`b${i + 1}.${id}`)"
            @change="(v, s) => set({ [`b${i + 1}.${id}`]: v }, s)"
          />
        </td>
        <td>
          <button
            type="button"
            class="switch"
            :aria-pressed="valueOf(i + 1, 'solo') === true"
            :aria-label="`Band ${i + 1} alone`"
            @click="turn(i + 1, 'solo')"
          >
            S
          </button>
        </td>
      </tr>
    </tbody>
  </table>
</template>

<style scoped>
.bands :deep(select) {
  height: 22px;
}
</style>
