<script setup lang="ts">
/** What a device goes through outside the computer: its units with their panels, and what was measured. */
import { computed, onMounted, ref, shallowRef } from 'vue';
import {
  restOf,
  setHardware,
  setParams,
  simulatedLine,
  type Device,
  type HardwareUse,
  type Studio,
  type Track,
} from '../../../core/index.ts';
import { api } from '../../api/index.ts';
import { jobs } from '../../audio/jobs.ts';
import { useSession } from '../../document/doc.ts';
import { chosenIn } from '../../ui/events.ts';
import { useUi } from '../../ui/window.ts';
import UnitCard from './UnitCard.vue';
import { measuredText } from './words.ts';

const props = defineProps<{ track: Track; device: Device }>();
const session = useSession();
const ui = useUi();
const studio = shallowRef<Studio | null>(null);
const use = computed<HardwareUse>(() => props.device.hardware ?? { units: [], measured: null });
const measuring = ref(false);
const measured = computed(() => use.value.measured);
onMounted(async () => {
  const setup = session.doc?.setup;
  studio.value = setup?.studio ?? null;
  if (!session.doc?.setupId) return;
  try {
    studio.value = (await api.setup(session.doc.setupId)).studio;
  } catch {
    // the copy in the session does, with the units that it uses
  }
});
const free = computed(() => {
  const taken = new Set(use.value.units.map((u) => u.unit.id));
  return (studio.value?.units ?? []).filter((u) => !taken.has(u.id));
});
/** With the way there as the studio's cables are now. */
function put(label: string, next: HardwareUse, key?: string) {
  const { sendPort, returnPort } = props.device.params;
  const line = studio.value
    ? simulatedLine(studio.value, String(sendPort), next.units, String(returnPort))
    : next.line;
  session.edit(
    label,
    setHardware(props.track.id, props.device.id, { ...next, ...(line ? { line } : {}) }),
    key,
  );
}
function add(id: string) {
  const unit = studio.value?.units.find((u) => u.id === id);
  if (!unit) return;
  const numbers = use.value.units.map((u) => Number(u.id)).filter(Number.isFinite);
  const place = String(Math.max(0, ...numbers) + 1);
  const units = [...use.value.units, { id: place, unit, positions: restOf(unit.panel) }];
  put(`Through ${unit.name}`, { ...use.value, units, measured: null });
}
const remove = (place: string) => {
  const units = use.value.units.filter((u) => u.id !== place);
  if (units.length) put('One unit less', { ...use.value, units, measured: null });
  else session.edit('Without units', setHardware(props.track.id, props.device.id, undefined));
};
const set = (place: string, control: string, position: number, sliding: boolean) =>
  put(
    `Set ${control} of a unit`,
    {
      ...use.value,
      units: use.value.units.map((u) =>
        u.id === place ? { ...u, positions: { ...u.positions, [control]: position } } : u,
      ),
    },
    sliding ? `${props.device.id}${place}${control}` : undefined,
  );
/** The return raised or lowered until the loop comes back as loud as it left. */
function unity() {
  const { params } = props.device;
  const wanted = -measured.value!.gain - Number(params.send);
  const held = Math.max(-36, Math.min(12, Math.round(wanted * 10) / 10));
  session.edit('As loud as it left', setParams(props.track.id, props.device.id, { return: held }));
}
async function measure() {
  measuring.value = true;
  try {
    await measureLoop();
  } catch (e) {
    ui.fail(e);
  } finally {
    measuring.value = false;
  }
}
async function measureLoop() {
  const rate = session.doc!.sampleRate;
  const { now: found } = await jobs.loop(props.device, rate).done;
  put('Measure the loop', { ...use.value, measured: found });
  const roundTrip = Math.round((found.delay * 1e6) / rate) / 1000;
  session.edit('Round trip as measured', setParams(props.track.id, props.device.id, { roundTrip }));
  const faults = found.faults.length ? ` ${found.faults.join('; ')}.` : ' Nothing is wrong with it.';
  ui.say(`“${props.device.name}”: ${measuredText(found)}.${faults}`, found.faults.length ? 'info' : 'done');
}
</script>

<template>
  <section class="flex flex-col gap-2" aria-label="Hardware of this device">
    <div class="flex flex-wrap items-center gap-2 text-body">
      <span class="font-semibold">Units</span>
      <select
        v-if="free.length"
        class="field py-0.5"
        aria-label="Go through a unit"
        :value="''"
        @change="add(chosenIn($event))"
      >
        <option value="">go through …</option>
        <option v-for="u in free" :key="u.id" :value="u.id">{{ u.name }}, {{ u.family }}</option>
      </select>
      <span v-else-if="!studio" class="text-soft"
        >This session is in no studio: choose one under “Hardware of this session”.</span
      >
      <button
        v-if="use.units.length"
        type="button"
        class="btn px-2 py-0.5"
        :disabled="measuring"
        @click="measure"
      >
        {{ measuring ? 'Measuring …' : 'Measure the loop' }}
      </button>
      <button v-if="measured" type="button" class="btn px-2 py-0.5" @click="unity">As loud as it left</button>
      <span v-if="measured" class="text-soft" role="status"
        >{{ measuredText(measured)
        }}<template v-if="measured.faults.length"
          >: <strong>{{ measured.faults.join('; ') }}</strong></template
        ></span
      >
    </div>
    <UnitCard
      v-for="u in use.units"
      :key="u.id"
      :unit="u.unit"
      :positions="u.positions"
      @set="(control, position, sliding) => set(u.id, control, position, sliding)"
    >
      <template #actions
        ><button type="button" class="btn px-2 py-0.5 text-note" @click="remove(u.id)">
          Not through {{ u.unit.name }}
        </button></template
      >
    </UnitCard>
  </section>
</template>
