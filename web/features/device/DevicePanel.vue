<script setup lang="ts">
/** The selected device: its picture, every value, its state, key and comparison. */
import { computed, ref, watch } from 'vue';
import {
  DEVICE_TYPES,
  formatValue,
  moversOf,
  noteMs,
  racksAround,
  type Device,
  type ParamSpec,
  type ParamValue,
  type Track,
  onDevice,
  setParams,
  isUsed,
} from '../../../core/index.ts';
import { bandName } from '../../../core/devices/bands.ts';
import { measureRoundTrip } from '../../../core/devices/outboard.ts';
import { useSession } from '../../document/doc.ts';
import { useUi } from '../../ui/window.ts';
import ValueField from '../../ui/ValueField.vue';
import { KitActions, KitPanel, PatternPanel, PlayerPanel, useKit } from '../kit/index.ts';
import { DevicePicture, EqPicture, Readings } from '../picture/index.ts';
import SlotHeader from './SlotHeader.vue';

const props = defineProps<{ track: Track; device: Device }>();
const session = useSession();
const ui = useUi();
const kit = useKit();
const spec = computed(() => DEVICE_TYPES[props.device.type]);
const band = ref(1);
watch(
  () => props.device.id,
  () => {
    const d = props.device;
    band.value = d.type === 'eq' ? ([1, 2, 3, 4, 5, 6, 7, 8].find((n) => d.params[`b${n}.on`]) ?? 1) : 1;
  },
  { immediate: true },
);

const set = (values: Record<string, ParamValue>, sliding = false) =>
  session.edit(
    `${Object.keys(values)
      .map((k) => spec.value.byId[k].label)
      .join(', ')} of ${props.device.name}`,
    setParams(props.track.id, props.device.id, values),
    sliding ? props.device.id + Object.keys(values).join() : undefined,
  );
const racks = computed(() => racksAround(props.track.chain, props.device.id));
/** Who moves a value, if a handle or a lane does. */
const mark = (id: string) => {
  const m = moversOf(racks.value, props.device.id, id);
  const lane = props.track.automation?.find((l) => l.on && l.of === props.device.id && l.param === id);
  if (lane && !m.length) {
    return {
      colour: props.track.colour,
      text: 'moved by its lane along the song',
      go: () => {
        session.select(props.track.id, null);
        ui.linePage = 'lanes';
        ui.lane = lane.id;
      },
    };
  }
  return m.length
    ? {
        colour: m[0].handle.colour,
        text: `moved by ${m.map((x) => `${x.handle.name} of ${x.rack.name}`).join(' and ')}`,
        go: () => session.select(props.track.id, m[0].rack.id),
      }
    : undefined;
};

const groups = computed(() => {
  const out = new Map<string, ParamSpec[]>();
  for (const p of spec.value.params) {
    if (!p.group.startsWith('Band')) out.set(p.group, [...(out.get(p.group) ?? []), p]);
  }
  return [...out].map(([name, params]) => ({ name, params }));
});
const usable = (p: ParamSpec) => isUsed(props.device, p.id);
const columns = [
  ['threshold', 'Threshold'],
  ['ratio', 'Ratio'],
  ['attack', 'Attack'],
  ['release', 'Release'],
  ['gain', 'Gain'],
] as const;
const shownBands = computed(() =>
  Array.from({ length: Number(props.device.params.bands ?? 0) }, (_, i) => i + 1),
);
/** The simulated unit is measured as hardware would be: an impulse out, and when it comes back. */
function measure() {
  const ms =
    Math.round(measureRoundTrip(String(props.device.params.unit), session.doc!.sampleRate) * 100) / 100;
  set({ roundTrip: ms });
  ui.say(
    `Round trip of “${props.device.name}”: ${ms} ms (${Math.round((ms * session.doc!.sampleRate) / 1000)} samples). Everything beside it waits for it.`,
    'done',
  );
}
const bands = Array.from({ length: 8 }, (_, i) => i + 1);
const bandSpec = (n: number, k: string) => spec.value.byId[`b${n}.${k}`];
const bandValue = (n: number, k: string) => props.device.params[`b${n}.${k}`];
const isPass = (n: number) => ['highPass', 'lowPass'].includes(String(bandValue(n, 'type')));
const hasGain = (n: number) => ['bell', 'lowShelf', 'highShelf'].includes(String(bandValue(n, 'type')));

const keys = computed(() =>
  session.doc!.tracks.filter((t) => t.id !== props.track.id && t.role !== 'master'),
);
function setKey(id: string, tap: 'pre' | 'post') {
  session.edit(
    `Key of ${props.device.name}`,
    onDevice(props.track.id, props.device.id, {
      key: id ? { kind: 'track', track: id, tap } : { kind: 'own' },
    }),
  );
}
</script>

<template>
  <section class="flex h-full min-h-0 flex-col" :aria-label="`${device.name} on ${track.name}`">
    <SlotHeader :key="device.id" :track="track" :slot-data="device" />

    <div v-if="device.type === 'eq'" class="grid min-h-0 flex-1 grid-cols-[minmax(0,1fr)_540px] gap-3 p-2">
      <EqPicture
        :key="device.id"
        :device="device"
        :sample-rate="session.doc!.sampleRate"
        :band="band"
        @set="set"
        @pick="(n) => (band = n)"
      />
      <div class="min-h-0 overflow-auto">
        <table class="bands w-full text-[12px]">
          <thead>
            <tr class="text-left text-soft">
              <th class="w-6 font-normal">#</th>
              <th class="font-normal">Type</th>
              <th class="font-normal">Frequency</th>
              <th class="font-normal">Gain</th>
              <th class="font-normal">Q / slope</th>
            </tr>
          </thead>
          <tbody>
            <tr
              v-for="n in bands"
              :key="n"
              :class="{ 'bg-rope-wash': band === n }"
              @focusin="band = n"
              @pointerdown="band = n"
            >
              <td>
                <button
                  type="button"
                  class="switch"
                  :aria-pressed="bandValue(n, 'on') === true"
                  :aria-label="`Band ${n} on`"
                  @click="set({ [`b${n}.on`]: !bandValue(n, 'on') })"
                >
                  {{ n }}
                </button>
              </td>
              <td class="pr-1">
                <ValueField
                  compact
                  :spec="bandSpec(n, 'type')"
                  :value="bandValue(n, 'type')"
                  @change="(v) => set({ [`b${n}.type`]: v, [`b${n}.on`]: true })"
                />
              </td>
              <td class="w-[136px]">
                <ValueField
                  compact
                  :spec="bandSpec(n, 'freq')"
                  :value="bandValue(n, 'freq')"
                  :mark="mark(`b${n}.freq`)"
                  :disabled="!bandValue(n, 'on')"
                  @change="(v, s) => set({ [`b${n}.freq`]: v }, s)"
                />
              </td>
              <td class="w-[128px]">
                <ValueField
                  v-if="hasGain(n)"
                  compact
                  :spec="bandSpec(n, 'gain')"
                  :value="bandValue(n, 'gain')"
                  :mark="mark(`b${n}.gain`)"
                  :disabled="!bandValue(n, 'on')"
                  @change="(v, s) => set({ [`b${n}.gain`]: v }, s)"
                /><span v-else class="text-soft">—</span>
              </td>
              <td class="w-[108px]">
                <ValueField
                  v-if="isPass(n)"
                  compact
                  :spec="bandSpec(n, 'slope')"
                  :value="bandValue(n, 'slope')"
                  @change="(v) => set({ [`b${n}.slope`]: v })"
                /><ValueField
                  v-else
                  compact
                  :spec="bandSpec(n, 'q')"
                  :value="bandValue(n, 'q')"
                  :mark="mark(`b${n}.q`)"
                  :disabled="!bandValue(n, 'on')"
                  @change="(v, s) => set({ [`b${n}.q`]: v }, s)"
                />
              </td>
            </tr>
          </tbody>
        </table>
        <div class="mt-1 grid grid-cols-2 gap-4 px-1">
          <ValueField
            v-for="p in groups[0].params"
            :key="p.id"
            :spec="p"
            :value="device.params[p.id]"
            @change="(v, s) => set({ [p.id]: v }, s)"
          />
        </div>
      </div>
    </div>

    <div v-else-if="device.type === 'opaque'" class="grid grid-cols-2 gap-6 overflow-auto p-4 text-[13px]">
      <div>
        <p class="mb-2">
          This device belongs to another program and cannot run here. Sound passes through it unchanged; its
          state is kept byte for byte and goes out again with an export.
        </p>
        <dl class="grid grid-cols-[110px_1fr] gap-y-0.5">
          <dt class="text-soft">Format</dt>
          <dd>{{ device.foreign?.format }}</dd>
          <dt class="text-soft">Identifier</dt>
          <dd class="break-all">{{ device.foreign?.identifier || '—' }}</dd>
          <dt class="text-soft">Maker</dt>
          <dd>{{ device.foreign?.vendor || '—' }}</dd>
          <dt class="text-soft">State</dt>
          <dd class="break-all">
            {{
              device.foreign?.state
                ? `${device.foreign.state.path} (sha-256 ${device.foreign.state.sha256.slice(0, 16)}…)`
                : 'none'
            }}
          </dd>
        </dl>
      </div>
      <table class="self-start text-[12px]">
        <tbody>
          <tr v-for="p in device.foreign?.params" :key="p.id">
            <td class="pr-4 text-soft">{{ p.name }}</td>
            <td>{{ p.value }} {{ p.unit }}</td>
          </tr>
        </tbody>
      </table>
    </div>

    <KitPanel v-else-if="device.type === 'kit'" :key="device.id" :track="track" :device="device" />
    <PlayerPanel v-else-if="device.type === 'parts'" :key="device.id" :track="track" :device="device" />
    <PatternPanel v-else-if="device.type === 'pattern'" :key="device.id" :track="track" :device="device" />

    <div v-else class="grid min-h-0 flex-1 grid-cols-[300px_minmax(0,1fr)] gap-3 p-2">
      <div class="flex min-h-0 flex-col gap-1">
        <div
          v-if="spec.instrument"
          class="flex min-h-0 flex-1 flex-wrap content-start gap-2 rounded border border-rule p-3"
        >
          <button
            v-for="p in spec.instrument.parts(device.params)"
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
          :key="device.id"
          class="min-h-0 flex-1"
          :device="device"
          :tempo="session.doc!.tempo"
          :sample-rate="session.doc!.sampleRate"
        /><Readings :key="device.id" :device="device" />
      </div>
      <div class="flex min-h-0 flex-col gap-2 overflow-auto">
        <KitActions v-if="spec.instrument" :track="track" :device="device" />
        <table v-if="device.type === 'multiband'" class="bands w-full text-[12px]">
          <thead>
            <tr class="text-left text-soft">
              <th class="font-normal">Band</th>
              <th v-for="[k, label] in columns" :key="k" class="font-normal">{{ label }}</th>
              <th class="font-normal">Alone</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="n in shownBands" :key="n">
              <td>
                <button
                  type="button"
                  class="switch"
                  :aria-pressed="bandValue(n, 'on') === true"
                  :aria-label="`Band ${n} compresses`"
                  @click="set({ [`b${n}.on`]: !bandValue(n, 'on') })"
                >
                  {{ bandName(n, shownBands.length) }}
                </button>
              </td>
              <td v-for="[k] in columns" :key="k" class="w-[118px] pr-1">
                <ValueField
                  compact
                  :spec="bandSpec(n, k)"
                  :value="bandValue(n, k)"
                  :disabled="k !== 'gain' && !bandValue(n, 'on')"
                  :mark="mark(`b${n}.${k}`)"
                  @change="(v, s) => set({ [`b${n}.${k}`]: v }, s)"
                />
              </td>
              <td>
                <button
                  type="button"
                  class="switch"
                  :aria-pressed="bandValue(n, 'solo') === true"
                  :aria-label="`Band ${n} alone`"
                  @click="set({ [`b${n}.solo`]: !bandValue(n, 'solo') })"
                >
                  S
                </button>
              </td>
            </tr>
          </tbody>
        </table>
        <div class="grid min-h-0 auto-cols-[minmax(112px,230px)] grid-flow-col gap-5 px-1">
          <fieldset v-for="g in groups" :key="g.name" class="min-w-[112px]">
            <legend class="mb-0.5 text-[12px] font-semibold">{{ g.name }}</legend>
            <div class="flex flex-col gap-1">
              <template v-for="p in g.params" :key="p.id">
                <ValueField
                  v-if="usable(p)"
                  :spec="p"
                  :value="device.params[p.id]"
                  :mark="mark(p.id)"
                  @change="(v, s) => set({ [p.id]: v }, s)"
                />
              </template>
              <p
                v-if="device.type === 'delay' && g.name === 'Time' && device.params.mode === 'note'"
                class="text-[12px] text-soft"
              >
                {{ formatValue(spec.byId.time, noteMs(String(device.params.note), session.doc!.tempo)) }} at
                {{ session.doc!.tempo }} bpm
              </p>
              <button
                v-if="device.type === 'outboard' && g.name === 'Level'"
                type="button"
                class="btn mt-1 self-start px-2 py-0.5 text-[12px]"
                @click="measure"
              >
                Measure the round trip
              </button>
              <template v-if="spec.hasKey && g.name === 'Key'">
                <label class="label" :for="'key-' + device.id">Key input</label>
                <select
                  :id="'key-' + device.id"
                  class="field h-[24px] py-0 text-[13px]"
                  :value="device.key.kind === 'track' ? device.key.track : ''"
                  @change="
                    setKey(
                      ($event.target as HTMLSelectElement).value,
                      device.key.kind === 'track' ? device.key.tap : 'pre',
                    )
                  "
                >
                  <option value="">Its own input</option>
                  <option v-for="t in keys" :key="t.id" :value="t.id">{{ t.name }}</option>
                </select>
                <select
                  v-if="device.key.kind === 'track'"
                  class="field h-[24px] py-0 text-[13px]"
                  aria-label="Key tap"
                  :value="device.key.tap"
                  @change="
                    setKey(
                      device.key.kind === 'track' ? device.key.track : '',
                      ($event.target as HTMLSelectElement).value as 'pre' | 'post',
                    )
                  "
                >
                  <option value="pre">pre-fader</option>
                  <option value="post">post-fader</option>
                </select>
              </template>
            </div>
          </fieldset>
          <p v-if="!groups.length" class="text-[12px] text-soft">
            Nothing to set. Its figures are live while the session plays.
          </p>
        </div>
      </div>
    </div>
  </section>
</template>

<style scoped>
.bands :deep(select) {
  height: 22px;
}
</style>
