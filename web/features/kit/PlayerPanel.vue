<script setup lang="ts">
/**
 * The parts of a parts player as a table: sound, address, keys, level, output, and the controllers that move
 * it with the standard's names.
 */
import { Music2 } from '@lucide/vue';
import { computed } from 'vue';
import { CONTROLLER_NAMES, freeController } from '../../../core/session/handles.ts';
import { controllerName, type Device, type Track } from '../../../core/index.ts';
import { PLAYER_CONTROLLERS } from '../../../core/devices/parts.ts';
import { useKit } from './store.ts';
import ValueField from '../../ui/ValueField.vue';
import KitActions from './KitActions.vue';
import { useValues } from './values.ts';

const props = defineProps<{ track: Track; device: Device }>();
const kit = useKit();
const { spec, val, set } = useValues(props);
const all = Array.from({ length: 16 }, (_, i) => `p${i + 1}`);
const used = computed(() => all.filter((p) => val(`${p}.sound`) !== 'none'));
const free = computed(() => all.find((p) => val(`${p}.sound`) === 'none'));
const clashes = (p: string, c: string) =>
  (val(`${p}.${c}`) as number) >= 0 &&
  PLAYER_CONTROLLERS.some(([x]) => x !== c && val(`${p}.${x}`) === val(`${p}.${c}`));
/** An undefined number that nothing of this part uses: the standard leaves those to us. */
function empty(p: string, c: string) {
  const n = freeController([
    ...PLAYER_CONTROLLERS.map(([x]) => val(`${p}.${x}`) as number),
    ...Object.keys(CONTROLLER_NAMES).map(Number),
  ]);
  if (n !== null) set(`${p}.${c}`, n);
}
/** A controller number in words. */
function numberText(param: string): string {
  const cc = val(param) as number;
  return cc < 0 ? 'no controller' : controllerName(cc);
}
</script>

<template>
  <div class="flex min-h-0 flex-1 flex-col">
    <KitActions :track="track" :device="device" />
    <div class="min-h-0 flex-1 overflow-auto px-2 pb-2">
      <table class="w-full text-note" aria-label="Parts of the player">
        <thead class="sticky top-0 z-10 bg-sheet">
          <tr class="text-left text-soft">
            <th class="w-8 font-normal">Hear</th>
            <th class="w-[110px] font-normal">Part</th>
            <th class="w-[104px] font-normal">Sound</th>
            <th class="w-[66px] font-normal">Port</th>
            <th class="w-[56px] font-normal">Channel</th>
            <th class="w-[60px] font-normal">Keys</th>
            <th class="w-[142px] font-normal">Level</th>
            <th class="w-[92px] font-normal">Output</th>
            <th v-for="[c, label] in PLAYER_CONTROLLERS" :key="c" class="w-[74px] font-normal">
              {{ label }}
            </th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="p in used" :key="p">
            <td>
              <button
                type="button"
                class="btn px-1.5 py-0.5"
                :aria-label="`Hear ${val(`${p}.name`)}`"
                @click="kit.hit(device.id, Number(p.slice(1)) - 1)"
              >
                <Music2 :size="13" aria-hidden="true" />
              </button>
            </td>
            <td class="pr-1">
              <ValueField
                compact
                :spec="spec.byId[`${p}.name`]"
                :value="val(`${p}.name`)"
                :name="`Name of part ${p.slice(1)}`"
                @change="(v) => set(`${p}.name`, v || `Part ${p.slice(1)}`)"
              />
            </td>
            <td class="pr-1">
              <ValueField
                compact
                :spec="spec.byId[`${p}.sound`]"
                :value="val(`${p}.sound`)"
                :name="`Sound of ${val(`${p}.name`)}`"
                @change="(v) => set(`${p}.sound`, v)"
              />
            </td>
            <td class="pr-1">
              <select
                class="field h-[24px] w-full px-1 py-0"
                :aria-label="`Port of ${val(`${p}.name`)}`"
                :value="val(`${p}.port`)"
                @change="set(`${p}.port`, ($event.target as HTMLSelectElement).value)"
              >
                <option v-for="x in ['A', 'B', 'C', 'D']" :key="x">{{ x }}</option>
              </select>
            </td>
            <td class="pr-1">
              <select
                class="field h-[24px] w-full px-1 py-0"
                :aria-label="`Channel of ${val(`${p}.name`)}`"
                :value="val(`${p}.channel`)"
                @change="set(`${p}.channel`, Number(($event.target as HTMLSelectElement).value))"
              >
                <option v-for="n in 16" :key="n" :value="n">{{ n }}</option>
              </select>
            </td>
            <td class="pr-1 whitespace-nowrap text-soft">
              <input
                type="number"
                min="0"
                max="127"
                class="field h-[24px] w-[44px] px-1 py-0"
                :aria-label="`Lowest key of ${val(`${p}.name`)}`"
                :value="val(`${p}.low`)"
                @change="
                  set(
                    `${p}.low`,
                    Math.min(127, Math.max(0, Math.round(Number(($event.target as HTMLInputElement).value)))),
                  )
                "
              />–<input
                type="number"
                min="0"
                max="127"
                class="field h-[24px] w-[48px] px-1 py-0"
                :aria-label="`Highest key of ${val(`${p}.name`)}`"
                :value="val(`${p}.high`)"
                @change="
                  set(
                    `${p}.high`,
                    Math.min(127, Math.max(0, Math.round(Number(($event.target as HTMLInputElement).value)))),
                  )
                "
              />
            </td>
            <td class="pr-1">
              <ValueField
                compact
                :spec="spec.byId[`${p}.level`]"
                :value="val(`${p}.level`)"
                :name="`Level of ${val(`${p}.name`)}`"
                @change="(v, s) => set(`${p}.level`, v, s)"
              />
            </td>
            <td class="pr-1">
              <ValueField
                compact
                :spec="spec.byId[`${p}.out`]"
                :value="val(`${p}.out`)"
                :name="`Output of ${val(`${p}.name`)}`"
                @change="(v) => set(`${p}.out`, v)"
              />
            </td>
            <td v-for="[c, label, usual] in PLAYER_CONTROLLERS" :key="c" class="pr-1">
              <span class="flex items-center gap-0.5"
                ><input
                  type="number"
                  min="-1"
                  max="119"
                  class="field h-[24px] w-[46px] px-1 py-0"
                  :class="{ 'border-warn': clashes(p, c) }"
                  :aria-label="`${label} controller of ${val(`${p}.name`)}`"
                  :title="`${numberText(`${p}.${c}`)}; usually ${usual}`"
                  :value="val(`${p}.${c}`)"
                  @change="
                    set(
                      `${p}.${c}`,
                      Math.min(
                        119,
                        Math.max(-1, Math.round(Number(($event.target as HTMLInputElement).value))),
                      ),
                    )
                  "
                /><button
                  v-if="clashes(p, c)"
                  type="button"
                  class="min-h-6 text-fine text-warn underline"
                  :aria-label="`Give ${label} of ${val(`${p}.name`)} an empty number`"
                  @click="empty(p, c)"
                >
                  empty
                </button></span
              >
            </td>
          </tr>
        </tbody>
      </table>
      <button
        v-if="free"
        type="button"
        class="btn mt-1 px-2 py-0.5 text-note"
        @click="set(`${free}.sound`, 'strings')"
      >
        Add a part
      </button>
    </div>
  </div>
</template>
