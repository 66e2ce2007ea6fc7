<script setup lang="ts">
/** The layers of a pattern source: steps to click, channel, key, semitones and length. */
import { computed } from 'vue';
import { PERCUSSION, keyName, type Device, type Track } from '../../../core/index.ts';
import { STEP_SIGNS, stepsOf } from '../../../core/devices/pattern.ts';
import { useAudio } from '../transport/index.ts';
import { useSession } from '../../document/doc.ts';
import ValueField from '../../ui/ValueField.vue';
import { useValues } from './values.ts';

const props = defineProps<{ track: Track; device: Device }>();
const session = useSession();
const audio = useAudio();
const { spec, val, set } = useValues(props);
const layers = ['l1', 'l2', 'l3', 'l4'];
const signs = (l: string) => [...String(val(`${l}.steps`)).replace(/[\s|]/g, '')];
/** Silent, soft, normal, strong, silent … */
function step(l: string, i: number) {
  const row = signs(l);
  const at = STEP_SIGNS.indexOf(row[i]);
  row[i] = STEP_SIGNS[(at + 1) % STEP_SIGNS.length] ?? '.';
  set(`${l}.steps`, row.join(''));
}
const heights = (l: string) => stepsOf(String(val(`${l}.steps`))).map((v) => Math.round((v / 127) * 100));
const words: Record<string, string> = { '.': 'silent', o: 'soft', x: 'normal', X: 'strong' };
const now = computed(() => (audio.playing ? Math.floor((audio.seconds * session.doc!.tempo) / 15) : -1));
function length(l: string, n: number) {
  const row = signs(l);
  set(`${l}.steps`, Array.from({ length: n }, (_, i) => row[i] ?? '.').join(''));
}
/** Where the pattern is heard. */
const playsOn = computed(() => {
  const { role, output } = props.track;
  if (role !== 'midi') return 'A pattern plays from a MIDI line; here it does nothing.';
  if (output.kind !== 'midi') return 'Its line sends to nobody: choose its output.';
  const channel = output.channel ? `channel ${output.channel}` : 'each layer on its channel';
  return `Plays on port ${output.port}, ${channel}.`;
});
</script>

<template>
  <div class="min-h-0 flex-1 overflow-auto p-2 text-note">
    <div
      v-for="l in layers"
      :key="l"
      class="flex items-center gap-2 border-b border-rule py-1"
      :class="{ 'opacity-60': !val(`${l}.on`) }"
      role="group"
      :aria-label="`Layer ${l.slice(1)}`"
    >
      <label class="flex w-[70px] shrink-0 items-center gap-1"
        ><input
          type="checkbox"
          class="accent-[var(--rope)]"
          :checked="val(`${l}.on`) === true"
          @change="set(`${l}.on`, !val(`${l}.on`))"
        />
        Layer {{ l.slice(1) }}</label
      >
      <label class="flex items-center gap-1 text-soft"
        >Channel
        <select
          class="field h-[24px] px-1 py-0 text-ink"
          :aria-label="`Channel of layer ${l.slice(1)}`"
          :value="val(`${l}.channel`)"
          @change="set(`${l}.channel`, Number(($event.target as HTMLSelectElement).value))"
        >
          <option v-for="n in 16" :key="n" :value="n">{{ n }}</option>
        </select></label
      >
      <label class="flex items-center gap-1 text-soft"
        >Key
        <input
          type="number"
          min="0"
          max="127"
          class="field h-[24px] w-[52px] px-1 py-0 text-ink"
          :aria-label="`Key of layer ${l.slice(1)}`"
          :value="val(`${l}.key`)"
          @change="
            set(
              `${l}.key`,
              Math.min(127, Math.max(0, Math.round(Number(($event.target as HTMLInputElement).value)))),
            )
          "
        /><span class="w-[92px] truncate" :title="PERCUSSION[val(`${l}.key`) as number]"
          >{{ keyName(val(`${l}.key`) as number)
          }}<template v-if="val(`${l}.channel`) === 10"
            >&nbsp;{{ PERCUSSION[val(`${l}.key`) as number] ?? '' }}</template
          ></span
        ></label
      >
      <div class="flex min-w-0 flex-1 items-end gap-[2px] overflow-x-auto pb-1" tabindex="-1">
        <button
          v-for="(h, i) in heights(l)"
          :key="i"
          type="button"
          class="relative h-[34px] min-w-6 max-w-[34px] flex-1 overflow-hidden rounded-sm border"
          :class="[
            i % 4 === 0 ? 'border-edge' : 'border-rule',
            now >= 0 && now % heights(l).length === i ? 'bg-rope-wash' : 'bg-paper',
          ]"
          :aria-label="`Layer ${l.slice(1)}, step ${i + 1}: ${words[signs(l)[i]] ?? signs(l)[i]}`"
          @click="step(l, i)"
        >
          <span class="absolute bottom-0 left-0 right-0 bg-rope" :style="{ height: h + '%' }" />
        </button>
      </div>
      <label class="flex shrink-0 items-center gap-1 text-soft"
        >Steps
        <select
          class="field h-[24px] px-1 py-0 text-ink"
          :aria-label="`Steps of layer ${l.slice(1)}`"
          :value="signs(l).length"
          @change="length(l, Number(($event.target as HTMLSelectElement).value))"
        >
          <option
            v-for="n in [...new Set([8, 12, 16, 24, 32, signs(l).length])].sort((a, b) => a - b)"
            :key="n"
            :value="n"
          >
            {{ n }}
          </option>
        </select></label
      >
      <ValueField
        class="w-[96px]"
        :spec="spec.byId[`${l}.keys`]"
        label="Semitones"
        :name="`Semitones of layer ${l.slice(1)}`"
        :value="val(`${l}.keys`)"
        @change="(v) => set(`${l}.keys`, v || '0')"
      />
      <ValueField
        class="w-[96px]"
        :spec="spec.byId[`${l}.gate`]"
        label="Length"
        :name="`Length of layer ${l.slice(1)}`"
        :value="val(`${l}.gate`)"
        @change="(v, s) => set(`${l}.gate`, v, s)"
      />
    </div>
    <div class="mt-1 flex items-end gap-4">
      <ValueField
        class="w-[150px]"
        :spec="spec.byId.swing"
        :value="val('swing')"
        @change="(v) => set('swing', v)"
      />
      <p class="text-soft">
        {{ playsOn }}
      </p>
    </div>
  </div>
</template>
