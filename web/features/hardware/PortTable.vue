<script setup lang="ts">
/** The interface's ports in both directions, with levels and the alignment of full scale. */
import { computed } from 'vue';
import {
  NOMINALS,
  NOMINAL_LABELS,
  randomIds,
  type Nominal,
  type Port,
  type Studio,
} from '../../../core/index.ts';
import { chosenIn } from '../../ui/events.ts';
import RemoveButton from '../../ui/RemoveButton.vue';

const props = defineProps<{ studio: Studio }>();
const emit = defineEmits<{ change: [label: string, ports: Port[]] }>();
const sides = computed(() =>
  (['out', 'in'] as const).map((side) => ({
    side,
    title: side === 'out' ? 'Out of the computer' : 'Back into the computer',
    ports: props.studio.ports.filter((p) => p.side === side),
  })),
);
const set = (port: Port, over: Partial<Port>) =>
  emit(
    'change',
    `Change ${port.name}`,
    props.studio.ports.map((p) => (p.id === port.id ? { ...p, ...over } : p)),
  );
const remove = (port: Port) =>
  emit(
    'change',
    `Remove ${port.name}`,
    props.studio.ports
      .filter((p) => p.id !== port.id)
      .map((p) => (p.pair === port.id ? { ...p, pair: null } : p)),
  );
/** A pair more on one side. */
function addPair(side: Port['side']) {
  const first = Math.max(0, ...props.studio.ports.filter((p) => p.side === side).map((p) => p.number)) + 1;
  const ids = [randomIds('port'), randomIds('port')];
  const pair = ids.map((id, i): Port => ({
    id,
    name: `${side === 'out' ? 'Out' : 'In'} ${first + i}`,
    side,
    number: first + i,
    pair: ids[1 - i],
    connector: 'XLR',
    nominal: 'plus4',
    alignment: 18,
  }));
  emit('change', `Add ${pair[0].name} and ${pair[1].name}`, [...props.studio.ports, ...pair]);
}
function setMonitor(port: Port, on: boolean) {
  const { monitor: _was, ...rest } = port;
  const next = on ? { ...rest, monitor: true as const } : rest;
  emit(
    'change',
    `${port.name} feeds the monitors`,
    props.studio.ports.map((p) => (p.id === port.id ? next : p)),
  );
}
const align = (port: Port, text: string) => {
  const value = Number(text.replace('−', '-').replace(',', '.'));
  if (Number.isFinite(value)) set(port, { alignment: Math.min(40, Math.max(-20, value)) });
};
</script>

<template>
  <section class="grid grid-cols-1 gap-4 lg:grid-cols-2" aria-label="Ports">
    <div v-for="s in sides" :key="s.side">
      <div class="mb-1 flex items-center gap-2">
        <h2 class="flex-1 text-lead font-semibold">{{ s.title }}</h2>
        <button type="button" class="btn px-2 py-0.5" @click="addPair(s.side)">
          Add a pair of {{ s.side === 'out' ? 'outputs' : 'inputs' }}
        </button>
      </div>
      <p v-if="!s.ports.length" class="text-soft">None yet.</p>
      <table v-else class="w-full text-body">
        <thead>
          <tr class="text-left text-note text-soft">
            <th class="font-normal">Name</th>
            <th class="font-normal">Connector</th>
            <th class="font-normal">Level</th>
            <th class="font-normal" title="dBu of a full-scale sine: +18 by EBU R 68, +24 by SMPTE RP 155">
              0 dBFS, dBu
            </th>
            <th v-if="s.side === 'out'" class="font-normal">Monitors</th>
            <th><span class="sr-only">Remove</span></th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="p in s.ports" :key="p.id" class="border-t border-rule">
            <td>
              <input
                class="field w-[110px] py-0.5"
                maxlength="80"
                :value="p.name"
                :aria-label="`Name of ${p.name}`"
                @change="set(p, { name: chosenIn($event).trim() || p.name })"
              />
            </td>
            <td>
              <input
                class="field w-[74px] py-0.5"
                maxlength="40"
                :value="p.connector"
                :aria-label="`Connector of ${p.name}`"
                @change="set(p, { connector: chosenIn($event) })"
              />
            </td>
            <td>
              <select
                class="field py-0.5"
                :value="p.nominal"
                :aria-label="`Level of ${p.name}`"
                @change="set(p, { nominal: chosenIn($event) as Nominal })"
              >
                <option v-for="n in NOMINALS" :key="n" :value="n">{{ NOMINAL_LABELS[n] }}</option>
              </select>
            </td>
            <td>
              <input
                class="field w-[56px] py-0.5 text-right"
                :value="p.alignment"
                :aria-label="`0 dBFS of ${p.name} in dBu`"
                @change="align(p, chosenIn($event))"
              />
            </td>
            <td v-if="s.side === 'out'">
              <input
                type="checkbox"
                class="accent-[var(--rope)]"
                :checked="!!p.monitor"
                :aria-label="`${p.name} feeds the monitors`"
                @change="setMonitor(p, !p.monitor)"
              />
            </td>
            <td class="text-right">
              <RemoveButton :what="p.name" @remove="remove(p)" />
            </td>
          </tr>
        </tbody>
      </table>
    </div>
  </section>
</template>
