<script setup lang="ts">
/** What a device goes through outside the computer: its units with their panels, and what was measured. */
import { computed, onMounted, ref, shallowRef } from 'vue';
import {
  findSlot,
  formatDb,
  loopLevels,
  portsNamed,
  restOf,
  setHardware,
  setParams,
  simulatedLine,
  type Device,
  type HardwareUse,
  type Measured,
  type Session,
  type Studio,
  type Track,
} from '../../../core/index.ts';
import { api } from '../../api/index.ts';
import { jobs } from '../../audio/jobs.ts';
import { useSession } from '../../document/doc.ts';
import { chosenIn } from '../../ui/events.ts';
import { useSheets } from '../../ui/sheets.ts';
import { useUi } from '../../ui/window.ts';
import { usePorts } from '../ports/index.ts';
import { useAudio } from '../transport/index.ts';
import UnitCard from './UnitCard.vue';
import { measuredText } from './words.ts';

const props = defineProps<{ track: Track; device: Device }>();
const session = useSession();
const ui = useUi();
const sheets = useSheets();
const ports = usePorts();
const audio = useAudio();
const studio = shallowRef<Studio | null>(null);
const useOf = (device: Device): HardwareUse => device.hardware ?? { units: [], measured: null };
const use = computed(() => useOf(props.device));
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
function wayOf(device: Device, next: HardwareUse): HardwareUse {
  const { sendPort, returnPort } = device.params;
  const line = studio.value
    ? simulatedLine(studio.value, String(sendPort), next.units, String(returnPort))
    : next.line;
  return { ...next, ...(line ? { line } : {}) };
}
function put(label: string, next: HardwareUse, key?: string) {
  const { track, device } = props;
  session.edit(label, setHardware(track.id, device.id, wayOf(device, next)), key);
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
const isConnected = computed(() => !!ports.connectionOf(session.doc?.setup?.studio));
const isLive = computed(() => ports.isOpen && !!session.doc && ports.isLive(session.doc, props.device));
/** Where the loop goes at this moment, in words. */
const where = computed(() => {
  const { through } = props.device.params;
  if (isLive.value) return `over real ports, at a buffer of ${ports.buffer} frames`;
  if (through === 'simulated') return 'always simulated';
  const instead = through === 'silence' ? 'silent' : 'simulated';
  if (!isConnected.value) return `${instead}: no real ports are connected`;
  return ports.isOpen ? `${instead}: its ports are not on the devices that are connected` : 'not opened yet';
});
/** What a full-scale peak does on its way, in words; '' where the ports are not known. */
const headroom = computed(() => {
  if (!studio.value) return '';
  const { sendPort, returnPort, send } = props.device.params;
  const [out] = portsNamed(studio.value, 'out', String(sendPort));
  const [back] = portsNamed(studio.value, 'in', String(returnPort));
  if (!out || !back) return '';
  const unit = use.value.units[0]?.unit ?? null;
  const at = loopLevels(out, back, Number(send), unit, measured.value?.gain);
  const left = (db: number) =>
    `${formatDb(Math.abs(db)).replace('+', '')} ${db < 0 ? 'too hot for' : 'left in'}`;
  const inUnit = unit && at.inUnit !== null ? `${left(at.inUnit)} ${unit.name}, ` : '';
  const sent = `${formatDb(at.sent).replace(' dB', ' dBu')}, ${at.volts.toFixed(1)} V`;
  return `A full-scale peak leaves at ${sent}: ${inUnit}${left(at.onReturn)} the converter on the way back.`;
});
/** Why what was measured may not hold any more, in words; '' where it does. */
const stale = computed(() => {
  const m = measured.value;
  if (!isLive.value || !m) return '';
  if (m.buffer === null) return 'It was measured simulated: measure it again.';
  if (m.buffer !== ports.buffer) return `It was measured at ${m.buffer} frames: measure it again.`;
  return m.at < ports.openedAt ? 'It was measured before the interface was opened: measure it again.' : '';
});
/** Over its real ports where they are connected, else as it is simulated. */
async function measureNow(s: Session, device: Device): Promise<Measured> {
  const taken = await audio.measureLive(s, device);
  const measured = taken ? jobs.realLoop(device, taken) : jobs.loop(device, s.sampleRate);
  return (await measured.done).now;
}
/** It takes a while: another device may be looked at by then, and this one may have been changed. */
async function measureLoop() {
  const [s, { track, device }, edit] = [session.doc!, props, session.editLater()];
  const found = await measureNow(s, device);
  edit('Measure the loop', (now) => {
    const there = findSlot(now.tracks.find((t) => t.id === track.id)?.chain ?? [], device.id);
    if (there?.kind !== 'device') return now;
    return setHardware(track.id, device.id, wayOf(there, { ...useOf(there), measured: found }))(now);
  });
  const roundTrip = Math.round((found.delay * 1e6) / s.sampleRate) / 1000;
  edit('Round trip as measured', setParams(track.id, device.id, { roundTrip }));
  const faults = found.faults.length ? ` ${found.faults.join('; ')}.` : ' Nothing is wrong with it.';
  ui.say(`“${device.name}”: ${measuredText(found)}.${faults}`, found.faults.length ? 'info' : 'done');
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
        v-if="use.units.length || isConnected"
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
    <p v-if="isConnected || device.params.through !== 'ports'" class="flex items-center gap-2 text-note">
      <span class="font-semibold">Plays</span>
      <span role="status">{{ where }}</span>
      <span v-if="stale" class="text-warn">{{ stale }}</span>
      <button
        v-if="session.doc?.setup?.studio"
        type="button"
        class="btn px-2 py-0.5"
        @click="sheets.open('realPorts', { studio: session.doc!.setup!.studio! })"
      >
        Real ports …
      </button>
    </p>
    <p v-if="headroom && (use.units.length || isConnected)" class="text-note text-soft">{{ headroom }}</p>
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
