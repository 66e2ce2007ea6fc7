<script setup lang="ts">
/** An equaliser: its curve over the live spectrum, and its bands as a table. */
import { computed, ref } from 'vue';
import { DEVICE_TYPES, EQ_BANDS, type Device, type Track } from '../../../core/index.ts';
import { useSession } from '../../document/doc.ts';
import ValueField from '../../ui/ValueField.vue';
import { EqPicture } from '../picture/index.ts';
import { useValues } from './values.ts';

const props = defineProps<{ track: Track; device: Device }>();
const session = useSession();
const { set, mark } = useValues(props);
const spec = computed(() => DEVICE_TYPES[props.device.type]);
const bands = Array.from({ length: EQ_BANDS }, (_, i) => i + 1);
/** the band that the picture and the table both show as chosen */
const band = ref(bands.find((n) => props.device.params[`b${n}.on`]) ?? 1);
const whole = computed(() => spec.value.params.filter((p) => !p.group.startsWith('Band')));

const specOf = (n: number, k: string) => spec.value.byId[`b${n}.${k}`];
const valueOf = (n: number, k: string) => props.device.params[`b${n}.${k}`];
const isPass = (n: number) => ['highPass', 'lowPass'].includes(String(valueOf(n, 'type')));
const hasGain = (n: number) => ['bell', 'lowShelf', 'highShelf'].includes(String(valueOf(n, 'type')));
</script>

<template>
  <div class="grid min-h-0 flex-1 grid-cols-[minmax(0,1fr)_540px] gap-3 p-2">
    <EqPicture
      :device="device"
      :sample-rate="session.doc!.sampleRate"
      :band="band"
      @set="set"
      @pick="(n) => (band = n)"
    />
    <div class="min-h-0 overflow-auto">
      <table class="bands w-full text-note">
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
                :aria-pressed="valueOf(n, 'on') === true"
                :aria-label="`Band ${n} on`"
                @click="set({ [`b${n}.on`]: !valueOf(n, 'on') })"
              >
                {{ n }}
              </button>
            </td>
            <td class="pr-1">
              <ValueField
                compact
                :spec="specOf(n, 'type')"
                :value="valueOf(n, 'type')"
                @change="(v) => set({ [`b${n}.type`]: v, [`b${n}.on`]: true })"
              />
            </td>
            <td class="w-[136px]">
              <ValueField
                compact
                :spec="specOf(n, 'freq')"
                :value="valueOf(n, 'freq')"
                :mark="mark(`b${n}.freq`)"
                :disabled="!valueOf(n, 'on')"
                @change="(v, s) => set({ [`b${n}.freq`]: v }, s)"
              />
            </td>
            <td class="w-[128px]">
              <ValueField
                v-if="hasGain(n)"
                compact
                :spec="specOf(n, 'gain')"
                :value="valueOf(n, 'gain')"
                :mark="mark(`b${n}.gain`)"
                :disabled="!valueOf(n, 'on')"
                @change="(v, s) => set({ [`b${n}.gain`]: v }, s)"
              /><span v-else class="text-soft">—</span>
            </td>
            <td class="w-[108px]">
              <ValueField
                v-if="isPass(n)"
                compact
                :spec="specOf(n, 'slope')"
                :value="valueOf(n, 'slope')"
                @change="(v) => set({ [`b${n}.slope`]: v })"
              /><ValueField
                v-else
                compact
                :spec="specOf(n, 'q')"
                :value="valueOf(n, 'q')"
                :mark="mark(`b${n}.q`)"
                :disabled="!valueOf(n, 'on')"
                @change="(v, s) => set({ [`b${n}.q`]: v }, s)"
              />
            </td>
          </tr>
        </tbody>
      </table>
      <div class="mt-1 grid grid-cols-2 gap-4 px-1">
        <ValueField
          v-for="p in whole"
          :key="p.id"
          :spec="p"
          :value="device.params[p.id]"
          @change="(v, s) => set({ [p.id]: v }, s)"
        />
      </div>
    </div>
  </div>
</template>

<style scoped>
.bands :deep(select) {
  height: 22px;
}
</style>
