<script setup lang="ts">
/** What is fixed behind the bays: a connector behind each point, and how each pair is joined. */
import { computed, ref } from 'vue';
import {
  NORMALS,
  bayJack,
  placesOf,
  type Bay,
  type Jack,
  type Normal,
  type Pair,
  type Studio,
} from '../../../core/index.ts';
import { chosenIn } from '../../ui/events.ts';

const props = defineProps<{ studio: Studio }>();
const emit = defineEmits<{ change: [label: string, over: Partial<Studio>] }>();
const open = ref(false);
const connectors = computed(() => [...placesOf(props.studio)].filter(([, p]) => p.kind !== 'point'));
const behind = (bay: Bay, i: number, row: 'upper' | 'lower'): Jack => {
  const jack = bayJack(bay.id, i + 1, row);
  const wire = props.studio.wires.find((w) => w.from === jack || w.to === jack);
  if (!wire) return '';
  return wire.from === jack ? wire.to : wire.from;
};
function setBehind(bay: Bay, i: number, row: 'upper' | 'lower', connector: Jack) {
  const jack = bayJack(bay.id, i + 1, row);
  const others = props.studio.wires.filter((w) => ![w.from, w.to].some((j) => j === jack || j === connector));
  const place = placesOf(props.studio).get(connector);
  const isSource = place?.kind !== 'point' && place?.is === 'source';
  const wire = isSource ? { from: connector, to: jack } : { from: jack, to: connector };
  const label = place?.name ?? '';
  const pairs = bay.pairs.map((p, k) => (k === i ? { ...p, [row]: label } : p));
  emit('change', 'Wire a point', {
    wires: connector ? [...others, wire] : others,
    bays: props.studio.bays.map((b) => (b.id === bay.id ? { ...b, pairs } : b)),
  });
}
const setPair = (bay: Bay, i: number, over: Partial<Pair>) =>
  emit('change', 'Change a pair of points', {
    bays: props.studio.bays.map((b) =>
      b.id === bay.id ? { ...b, pairs: b.pairs.map((p, k) => (k === i ? { ...p, ...over } : p)) } : b,
    ),
  });
const rename = (bay: Bay, name: string) =>
  emit('change', 'Rename a bay', {
    bays: props.studio.bays.map((b) => (b.id === bay.id ? { ...b, name } : b)),
  });
function removeBay(bay: Bay) {
  const free = (w: { from: string; to: string }) =>
    !w.from.startsWith(`bay/${bay.id}/`) && !w.to.startsWith(`bay/${bay.id}/`);
  emit('change', `Remove ${bay.name}`, {
    bays: props.studio.bays.filter((b) => b.id !== bay.id),
    wires: props.studio.wires.filter(free),
    cables: props.studio.cables.filter(free),
  });
}
const ROWS = ['upper', 'lower'] as const;
</script>

<template>
  <div v-if="studio.bays.length" class="mt-2">
    <button type="button" class="btn px-2 py-0.5" :aria-expanded="open" @click="open = !open">
      {{ open ? 'Close the wiring' : 'Wiring behind the bays …' }}
    </button>
    <div v-if="open">
      <section v-for="bay in studio.bays" :key="bay.id" class="mt-2" :aria-label="`Wiring of ${bay.name}`">
        <div class="flex items-center gap-2">
          <input
            class="field w-[180px] py-0.5 font-semibold"
            maxlength="80"
            :value="bay.name"
            :aria-label="`Name of ${bay.name}`"
            @change="rename(bay, chosenIn($event).trim() || bay.name)"
          /><button type="button" class="btn px-2 py-0.5 text-note" @click="removeBay(bay)">
            Remove {{ bay.name }}
          </button>
        </div>
        <table class="mt-1 text-body">
          <tbody>
            <tr v-for="(pair, i) in bay.pairs" :key="i" class="border-t border-rule">
              <td class="w-8 text-soft">{{ i + 1 }}</td>
              <td v-for="row in ROWS" :key="row" class="py-0.5 pr-2">
                <select
                  class="field w-[230px] py-0.5"
                  :value="behind(bay, i, row)"
                  :aria-label="`Behind ${bay.name} ${i + 1} ${row}`"
                  @change="setBehind(bay, i, row, chosenIn($event))"
                >
                  <option value="">{{ row }}: nothing behind</option>
                  <option v-for="[jack, p] in connectors" :key="jack" :value="jack">{{ p.name }}</option>
                </select>
              </td>
              <td>
                <select
                  class="field py-0.5"
                  :value="pair.mode"
                  :aria-label="`Pair ${i + 1} of ${bay.name}`"
                  @change="setPair(bay, i, { mode: chosenIn($event) as Normal })"
                >
                  <option v-for="n in NORMALS" :key="n" :value="n">{{ n }}</option>
                </select>
              </td>
            </tr>
          </tbody>
        </table>
      </section>
    </div>
  </div>
</template>
