<script setup lang="ts">
/** The parts of a kit as a table: sound, key, level, pan, output; struck by a button; microphones below. */
import { Drum } from '@lucide/vue';
import { computed } from 'vue';
import {
  PERCUSSION,
  hears,
  keyName,
  outPlace,
  takersOf,
  type Device,
  type Track,
} from '../../../core/index.ts';
import { useKit } from './store.ts';
import { useSession } from '../../document/doc.ts';
import ValueField from '../../ui/ValueField.vue';
import KitActions from './KitActions.vue';
import { useValues } from './values.ts';

const props = defineProps<{ track: Track; device: Device }>();
const session = useSession();
const kit = useKit();
const { spec, val, set } = useValues(props);
const rows = Array.from({ length: 16 }, (_, i) => `p${i + 1}`);
const takers = computed(() => takersOf(session.doc!, props.device.id));
const lineOf = (out: string) => {
  const p = outPlace(out);
  return p.pair === 0
    ? props.track.name
    : takers.value
        .filter(
          (t) => t.input.kind === 'deviceOutput' && t.input.output === p.pair && hears(t.input.take, p.side),
        )
        .map((t) => t.name)
        .join(', ') || 'no line';
};
const mics = [
  ['oh', 'Overheads'],
  ['room', 'Room'],
] as const;
</script>

<template>
  <div class="flex min-h-0 flex-1 flex-col">
    <KitActions :track="track" :device="device" />
    <div class="min-h-0 flex-1 overflow-auto px-2 pb-2">
      <table class="w-full text-note" aria-label="Parts of the kit">
        <thead class="sticky top-0 z-10 bg-sheet">
          <tr class="text-left text-soft">
            <th class="w-8 font-normal">Hit</th>
            <th class="w-[124px] font-normal">Part</th>
            <th class="w-[116px] font-normal">Sound</th>
            <th class="w-[150px] font-normal">Key</th>
            <th class="w-[160px] font-normal">Level</th>
            <th class="w-[140px] font-normal">Pan</th>
            <th class="w-[100px] font-normal">Output</th>
            <th class="font-normal">Comes to</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="(p, i) in rows" :key="p" :class="{ 'opacity-60': val(`${p}.sound`) === 'none' }">
            <td>
              <button
                type="button"
                class="btn px-1.5 py-0.5"
                :disabled="val(`${p}.sound`) === 'none'"
                :aria-label="`Hit ${val(`${p}.name`)}`"
                @click="kit.hit(device.id, i)"
              >
                <Drum :size="13" aria-hidden="true" />
              </button>
            </td>
            <td class="pr-1">
              <ValueField
                compact
                :spec="spec.byId[`${p}.name`]"
                :value="val(`${p}.name`)"
                :name="`Name of part ${i + 1}`"
                @change="(v) => set(`${p}.name`, v || `Part ${i + 1}`)"
              />
            </td>
            <td class="pr-1">
              <ValueField
                compact
                :spec="spec.byId[`${p}.sound`]"
                :value="val(`${p}.sound`)"
                :name="`Sound of part ${i + 1}`"
                @change="(v) => set(`${p}.sound`, v)"
              />
            </td>
            <td
              class="pr-1"
              :title="PERCUSSION[val(`${p}.key`) as number] ?? 'no percussion key of the standard'"
            >
              <ValueField
                compact
                :spec="spec.byId[`${p}.key`]"
                :value="val(`${p}.key`)"
                :name="`Key of ${val(`${p}.name`)} (${keyName(val(`${p}.key`) as number)})`"
                @change="(v, s) => set(`${p}.key`, v, s)"
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
                :spec="spec.byId[`${p}.pan`]"
                :value="val(`${p}.pan`)"
                :name="`Pan of ${val(`${p}.name`)}`"
                @change="(v, s) => set(`${p}.pan`, v, s)"
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
            <td
              class="truncate text-soft"
              :class="{ 'text-warn': lineOf(String(val(`${p}.out`))) === 'no line' }"
            >
              {{ lineOf(String(val(`${p}.out`))) }}
            </td>
          </tr>
          <tr v-for="[m, label] in mics" :key="m" class="border-t border-rule">
            <td />
            <td class="font-semibold">{{ label }}</td>
            <td class="text-soft">{{ m === 'oh' ? '0.9 m above' : 'at the far wall' }}</td>
            <td class="text-soft">hears every part</td>
            <td class="pr-1">
              <ValueField
                compact
                :spec="spec.byId[`${m}.level`]"
                :value="val(`${m}.level`)"
                @change="(v, s) => set(`${m}.level`, v, s)"
              />
            </td>
            <td class="pr-1">
              <ValueField
                v-if="m === 'oh'"
                compact
                :spec="spec.byId.bleed"
                :value="val('bleed')"
                @change="(v, s) => set('bleed', v, s)"
              />
            </td>
            <td class="pr-1">
              <ValueField
                compact
                :spec="spec.byId[`${m}.out`]"
                :value="val(`${m}.out`)"
                @change="(v) => set(`${m}.out`, v)"
              />
            </td>
            <td
              class="truncate text-soft"
              :class="{ 'text-warn': lineOf(String(val(`${m}.out`))) === 'no line' }"
            >
              {{ lineOf(String(val(`${m}.out`))) }}
            </td>
          </tr>
        </tbody>
      </table>
    </div>
  </div>
</template>
