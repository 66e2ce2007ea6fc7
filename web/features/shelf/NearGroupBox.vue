<script setup lang="ts">
/** Presets that do nearly the same: their curves over each other, what differs, and the one that they are merged into. */
import { computed, onMounted, ref, shallowRef } from 'vue';
import type { MergePresets, NearGroup } from '../../../contract/index.ts';
import type { Preset } from '../../../core/index.ts';
import { api } from '../../api/index.ts';
import { useSheets } from '../../ui/sheets.ts';
import { useUi } from '../../ui/window.ts';
import { useMany } from './many.ts';
import { differText, nearText, responsePath } from './near.ts';

const props = defineProps<{ group: NearGroup }>();
const emit = defineEmits<{ merged: [] }>();
const ui = useUi();
const sheets = useSheets();
const many = useMany();
const WIDTH = 220;
const HEIGHT = 84;
/** presets whose settings are read: more curves over each other say nothing */
const DRAWN = 12;

const kept = ref(props.group[0].preset.id);
const ticked = ref(new Set(props.group.map((n) => n.preset.id)));
const documents = shallowRef(new Map<string, Preset>());
onMounted(async () => {
  try {
    const read = await Promise.all(props.group.slice(0, DRAWN).map((n) => api.preset(n.preset.id)));
    documents.value = new Map(read.map((d) => [d.id, d.preset]));
  } catch (e) {
    ui.fail(e);
  }
});
const curves = computed(() =>
  [...documents.value].map(([id, p]) => ({ id, path: responsePath(p, WIDTH, HEIGHT) })),
);
const one = computed(() => props.group.find((n) => n.preset.id === kept.value)!.preset);
const others = computed(() => [...ticked.value].filter((id) => id !== kept.value));
function differs(id: string): string {
  const [a, b] = [documents.value.get(kept.value), documents.value.get(id)];
  return a && b ? differText(a, b) : '';
}
function flip(id: string) {
  const now = new Set(ticked.value);
  if (!now.delete(id)) now.add(id);
  ticked.value = now;
}
function used(n: number): string {
  if (!n) return 'in no session';
  return n === 1 ? 'in 1 session' : `in ${n} sessions`;
}
async function merge(as: MergePresets['as']) {
  if (await many.merge(one.value, { others: others.value, as })) emit('merged');
}
</script>

<template>
  <section class="mb-3 rounded border border-rule p-2" :aria-label="`Near to ${group[0].preset.name}`">
    <div class="flex flex-wrap gap-3">
      <figure class="shrink-0">
        <svg
          :viewBox="`0 0 ${WIDTH} ${HEIGHT}`"
          :width="WIDTH"
          :height="HEIGHT"
          role="img"
          aria-label="Responses over each other, 20 Hz to 20 kHz, 18 dB up and down"
          class="rounded border border-rule bg-paper"
        >
          <line x1="0" :x2="WIDTH" :y1="HEIGHT / 2" :y2="HEIGHT / 2" stroke="var(--edge)" />
          <path
            v-for="c in curves"
            :key="c.id"
            :d="c.path"
            fill="none"
            :stroke="c.id === kept ? 'var(--rope)' : 'var(--soft)'"
            :stroke-width="c.id === kept ? 2 : 1"
            :stroke-dasharray="c.id === kept ? undefined : '4 3'"
          />
        </svg>
        <figcaption class="text-fine text-soft">20 Hz to 20 kHz; the one that stays is solid</figcaption>
      </figure>
      <table class="min-w-0 flex-1 text-body">
        <thead>
          <tr class="text-left text-note text-soft">
            <th class="pr-3 font-normal">Merge</th>
            <th class="pr-3 font-normal">Keep</th>
            <th class="font-normal">Name</th>
            <th class="font-normal">What differs</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="n in group" :key="n.preset.id" class="border-t border-rule align-top">
            <td class="py-1">
              <input
                type="checkbox"
                class="accent-[var(--rope)]"
                :aria-label="`Merge ${n.preset.name}`"
                :disabled="n.preset.id === kept"
                :checked="ticked.has(n.preset.id)"
                @change="flip(n.preset.id)"
              />
            </td>
            <td class="py-1">
              <input
                v-model="kept"
                type="radio"
                class="accent-[var(--rope)]"
                :aria-label="`Keep ${n.preset.name}`"
                :name="`keep-${group[0].preset.id}`"
                :value="n.preset.id"
              />
            </td>
            <td class="min-w-[180px] py-1 pr-2">
              {{ n.preset.name }}
              <span class="block text-note text-soft">{{ used(n.sessions) }}</span>
            </td>
            <td class="py-1 text-note">
              <template v-if="n.preset.id === kept">—</template>
              <button
                v-else
                type="button"
                class="text-left underline"
                :title="nearText(n.distance)"
                @click="sheets.open('compare', { a: { preset: kept }, b: { preset: n.preset.id } })"
              >
                {{ differs(n.preset.id) || 'look' }}
              </button>
            </td>
          </tr>
        </tbody>
      </table>
    </div>
    <p class="mt-2 flex flex-wrap items-center gap-2">
      <button type="button" class="btn" :disabled="!others.length" @click="merge('versions')">
        Merge {{ others.length }} as versions of “{{ one.name }}”
      </button>
      <button type="button" class="btn" :disabled="!others.length" @click="merge('variants')">
        Keep them as its variants
      </button>
    </p>
  </section>
</template>
