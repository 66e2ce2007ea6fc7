<script setup lang="ts">
/** One studio: what leaves the computer, the bays, the units, what comes back. */
import { computed, ref } from 'vue';
import {
  UNIT_MODELS,
  patchProblems,
  randomIds,
  type Bay,
  type Cable,
  type Studio,
  type Unit,
} from '../../../core/index.ts';
import { chosenIn } from '../../ui/events.ts';
import { useSheets } from '../../ui/sheets.ts';
import { usePorts } from '../ports/index.ts';
import BayPicture from './BayPicture.vue';
import CableTable from './CableTable.vue';
import LoopTable from './LoopTable.vue';
import MidiTable from './MidiTable.vue';
import PortTable from './PortTable.vue';
import UnitCard from './UnitCard.vue';
import UnitSheet from './UnitSheet.vue';
import WireTable from './WireTable.vue';
import { useStudios } from './studios.ts';

const props = defineProps<{ studio: Studio }>();
const studios = useStudios();
const sheets = useSheets();
const connected = computed(() => usePorts().connectionOf(props.studio));
const editing = ref<Unit | null>(null);
const problems = computed(() => patchProblems(props.studio));
const change = (label: string, over: Partial<Studio>) => studios.change(label, (s) => ({ ...s, ...over }));

const plug = (cable: Cable) => change('Plug a cable', { cables: [...props.studio.cables, cable] });
const pull = (cable: Cable) =>
  change('Pull a cable', { cables: props.studio.cables.filter((c) => c.id !== cable.id) });
function addBay() {
  const pairs = Array.from({ length: 24 }, () => ({ mode: 'thru' as const, upper: '', lower: '' }));
  const bay: Bay = { id: randomIds('bay'), name: `Bay ${props.studio.bays.length + 1}`, pairs };
  change('Add a bay', { bays: [...props.studio.bays, bay] });
}
function addUnit(model: string) {
  const known = UNIT_MODELS[model];
  const { family, width, hasKey, nominal, panel, label } = known;
  const name = label[0].toUpperCase() + label.slice(1);
  const unit: Unit = {
    id: randomIds('unit'),
    name,
    family,
    width,
    hasKey,
    nominal,
    panel,
    simulated: model,
    note: '',
  };
  change(`Add ${name}`, { units: [...props.studio.units, unit] });
  editing.value = unit;
}
function blankUnit() {
  const unit: Unit = {
    id: randomIds('unit'),
    name: 'New unit',
    family: 'other',
    width: 'mono',
    hasKey: false,
    nominal: 'plus4',
    panel: [],
    simulated: null,
    note: '',
  };
  change('Add a unit', { units: [...props.studio.units, unit] });
  editing.value = unit;
}
function putUnit(unit: Unit) {
  change(`Change ${unit.name}`, { units: props.studio.units.map((u) => (u.id === unit.id ? unit : u)) });
}
function removeUnit(unit: Unit) {
  const free = (w: { from: string; to: string }) =>
    !w.from.startsWith(`unit/${unit.id}/`) && !w.to.startsWith(`unit/${unit.id}/`);
  change(`Remove ${unit.name}`, {
    units: props.studio.units.filter((u) => u.id !== unit.id),
    wires: props.studio.wires.filter(free),
    cables: props.studio.cables.filter(free),
  });
}
/** The panel's positions at rest are part of the unit. */
const setRest = (unit: Unit, id: string, position: number) =>
  putUnit({ ...unit, panel: unit.panel.map((c) => (c.id === id ? { ...c, default: position } : c)) });
const chosen = ref('compressor');
</script>

<template>
  <div class="flex flex-col gap-5">
    <div class="flex flex-wrap items-center gap-4">
      <label class="flex items-center gap-2"
        >Name
        <input
          class="field w-[240px]"
          maxlength="200"
          :value="studio.name"
          @change="change('Rename the studio', { name: chosenIn($event).trim() || studio.name })"
      /></label>
      <label class="flex min-w-[320px] flex-1 items-center gap-2"
        >Note
        <input
          class="field flex-1"
          maxlength="2000"
          :value="studio.note"
          @change="change('Note of the studio', { note: chosenIn($event) })"
      /></label>
    </div>
    <section v-if="problems.length" aria-label="What is wrong" role="status">
      <p v-for="p in problems" :key="p.message" class="text-warn">{{ p.message }}</p>
    </section>
    <p class="flex items-center gap-3">
      <button type="button" class="btn" @click="sheets.open('realPorts', { studio })">Real ports …</button>
      <span class="text-note text-soft">{{
        connected
          ? `connected to “${connected.output.label}” on this computer`
          : 'not connected to this computer’s inputs and outputs: everything is simulated'
      }}</span>
    </p>
    <PortTable :studio="studio" @change="(label, ports) => change(label, { ports })" />
    <section aria-label="Patchbays">
      <div class="mb-1 flex items-center gap-3">
        <h2 class="text-lead font-semibold">Patchbays</h2>
        <span class="text-note text-soft"
          >Draw a cable from point to point; click a cable to pull it. n normal · h half-normal · p
          parallel</span
        >
        <span class="flex-1" />
        <button type="button" class="btn px-2 py-0.5" @click="addBay">Add a bay</button>
      </div>
      <BayPicture v-if="studio.bays.length" :studio="studio" @plug="plug" @pull="pull" />
      <p v-else class="text-soft">No patchbay: cables go from connector to connector.</p>
      <CableTable :studio="studio" @change="(label, cables) => change(label, { cables })" />
      <WireTable :studio="studio" @change="(label, over) => change(label, over)" />
    </section>
    <section aria-label="Units">
      <div class="mb-1 flex flex-wrap items-center gap-3">
        <h2 class="text-lead font-semibold">Units</h2>
        <span class="text-note text-soft">The panels show where each control stands at rest.</span>
        <span class="flex-1" />
        <select v-model="chosen" class="field py-0.5" aria-label="Simulated unit">
          <option v-for="m in Object.values(UNIT_MODELS)" :key="m.id" :value="m.id">{{ m.label }}</option>
        </select>
        <button type="button" class="btn px-2 py-0.5" @click="addUnit(chosen)">Add it, simulated</button>
        <button type="button" class="btn px-2 py-0.5" @click="blankUnit">Add a unit of your own</button>
      </div>
      <div class="grid grid-cols-1 gap-3 xl:grid-cols-2">
        <UnitCard
          v-for="u in studio.units"
          :key="u.id"
          :unit="u"
          :positions="{}"
          @set="(id, position) => setRest(u, id, position)"
        >
          <template #actions
            ><button
              type="button"
              class="btn px-2 py-0.5 text-note"
              :aria-label="`Change ${u.name}`"
              @click="editing = u"
            >
              Change …</button
            ><button
              type="button"
              class="btn px-2 py-0.5 text-note"
              :aria-label="`Remove ${u.name}`"
              @click="removeUnit(u)"
            >
              Remove
            </button></template
          >
        </UnitCard>
      </div>
    </section>
    <LoopTable :studio="studio" @change="(label, loops) => change(label, { loops })" />
    <MidiTable :studio="studio" @change="(label, over) => change(label, over)" />
    <UnitSheet
      v-if="editing"
      :unit="editing"
      @close="editing = null"
      @keep="(u) => (putUnit(u), (editing = null))"
    />
  </div>
</template>
