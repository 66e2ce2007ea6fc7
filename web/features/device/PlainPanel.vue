<script setup lang="ts">
/** A device without a panel of its own: its picture, and its values in the groups of its table. */
import { computed } from 'vue';
import {
  DEVICE_TYPES,
  formatValue,
  isUsed,
  noteMs,
  simulatedRoundTrip,
  type Device,
  type ParamSpec,
  type Track,
  valueIn,
} from '../../../core/index.ts';
import { useSession } from '../../document/doc.ts';
import { useUi } from '../../ui/window.ts';
import { usePorts } from '../ports/index.ts';
import ValueField from '../../ui/ValueField.vue';
import { DeviceHardware } from '../hardware/index.ts';
import { KitActions, useKit } from '../kit/index.ts';
import { DevicePicture, Readings } from '../picture/index.ts';
import BandTable from './BandTable.vue';
import ImpulseChoice from './ImpulseChoice.vue';
import KeyInput from './KeyInput.vue';
import { useValues } from './values.ts';

const props = defineProps<{ track: Track; device: Device }>();
const session = useSession();
const ui = useUi();
const kit = useKit();
const { set, mark } = useValues(props);
const spec = computed(() => DEVICE_TYPES[props.device.type]);
const parts = computed(() => spec.value.instrument?.parts(props.device.params));
const bands = computed(() => spec.value.bands?.(props.device.params));
const groups = computed(() => {
  const found = new Map<string, ParamSpec[]>();
  for (const p of spec.value.params) {
    if (!p.group.startsWith('Band')) found.set(p.group, [...(found.get(p.group) ?? []), p]);
  }
  return [...found].map(([name, params]) => ({ name, params }));
});
/** What sounds without a unit is nothing to set beside one; what a device plays with has a field of its own. */
const isIdle = (id: string) =>
  (id === 'unit' && !!props.device.hardware?.units.length) || id === spec.value.plays;
const usable = (group: { params: ParamSpec[] }) =>
  group.params.filter((p) => isUsed(props.device, p.id) && !isIdle(p.id));
const has = (group: { params: ParamSpec[] }, id: string) => group.params.some((p) => p.id === id);

/** How long a note value is in this song. */
const noteText = computed(() => {
  const note = spec.value.noteSet?.(props.device.params);
  if (!note) return '';
  const { tempo } = session.doc!;
  return `${formatValue(spec.value.byId.time, noteMs(note, tempo))} at ${tempo} bpm`;
});

/** Where real ports are connected, the hardware above measures the whole loop. */
const isConnected = computed(() => !!usePorts().connectionOf(useSession().doc?.setup?.studio));
/** The simulated unit is measured as hardware would be: an impulse out, and when it comes back. */
function measure() {
  const loop = spec.value.loop!;
  const rate = session.doc!.sampleRate;
  const ms = Math.round(simulatedRoundTrip(props.device, rate) * 1000) / 1000;
  set({ [loop.roundTrip]: ms });
  const samples = Math.round((ms * rate) / 1000);
  const found = `Round trip of “${props.device.name}”: ${ms.toFixed(2)} ms (${samples} samples).`;
  ui.say(`${found} Everything beside it waits for it.`, 'done');
}
</script>

<template>
  <div class="grid min-h-0 flex-1 grid-cols-[300px_minmax(0,1fr)] gap-3 p-2">
    <div class="flex min-h-0 flex-col gap-1">
      <div
        v-if="parts"
        class="flex min-h-0 flex-1 flex-wrap content-start gap-2 rounded border border-rule p-3"
      >
        <button
          v-for="p in parts"
          :key="p.id"
          type="button"
          class="btn h-[64px] min-w-[110px] flex-1"
          @click="kit.hit(device.id, p.strike)"
        >
          {{ p.name }}
        </button>
      </div>
      <DevicePicture
        v-else
        class="min-h-0 flex-1"
        :device="device"
        :tempo="session.doc!.tempo"
        :sample-rate="session.doc!.sampleRate"
      /><Readings :device="device" />
    </div>
    <div class="flex min-h-0 flex-col gap-2 overflow-auto">
      <KitActions v-if="parts" :track="track" :device="device" />
      <DeviceHardware v-if="spec.loop" :track="track" :device="device" />
      <ImpulseChoice v-if="spec.plays" :track="track" :device="device" />
      <BandTable v-if="bands" :track="track" :device="device" :names="bands" />
      <div class="grid min-h-0 auto-cols-[minmax(112px,230px)] grid-flow-col gap-5 px-1">
        <fieldset v-for="g in groups" :key="g.name" class="min-w-[112px]">
          <legend class="mb-0.5 text-note font-semibold">{{ g.name }}</legend>
          <div class="flex flex-col gap-1">
            <ValueField
              v-for="p in usable(g)"
              :key="p.id"
              :spec="p"
              :value="valueIn(device, p)"
              :mark="mark(p.id)"
              @change="(v, s) => set({ [p.id]: v }, s)"
            />
            <p v-if="noteText && has(g, 'note')" class="text-note text-soft">{{ noteText }}</p>
            <button
              v-if="spec.loop && has(g, spec.loop.roundTrip) && !device.hardware && !isConnected"
              type="button"
              class="btn mt-1 self-start px-2 py-0.5 text-note"
              @click="measure"
            >
              Measure the round trip
            </button>
            <KeyInput v-if="spec.hasKey && g.name === 'Key'" :track="track" :device="device" />
          </div>
        </fieldset>
        <p v-if="!groups.length" class="text-note text-soft">
          Nothing to set. Its figures are live while the session plays.
        </p>
      </div>
    </div>
  </div>
</template>
