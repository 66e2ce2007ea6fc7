<script setup lang="ts">
/**
 * Two versions, two presets, or a preset and a line: what differs in words and units, curves over each other,
 * and both heard on the same sound at equal loudness.
 */
import { computed, onMounted, ref, shallowRef, watch } from 'vue';
import { diffPresets, type Preset } from '../../../core/index.ts';
import type { PresetEntry } from '../../../contract/index.ts';
import { api } from '../../api/index.ts';
import { chosenIn } from '../../ui/events.ts';
import Sheet from '../../ui/Sheet.vue';
import { useUi } from '../../ui/window.ts';
import { readSide, titleOf } from './compare.ts';
import CompareCurves from './CompareCurves.vue';
import CompareListen from './CompareListen.vue';
import DifferenceTable from './DifferenceTable.vue';
import type { Side } from './side.ts';

const props = defineProps<{ a: Side; b: Side | null }>();
const emit = defineEmits<{ close: [] }>();
const ui = useUi();
const sides = shallowRef<(Side | null)[]>([props.a, props.b]);
const presets = shallowRef<(Preset | null)[]>([null, null]);
const shelf = shallowRef<PresetEntry[]>([]);
const pair = ref(0);
const failed = ref('');

watch(
  sides,
  async (now) => {
    failed.value = '';
    pair.value = 0;
    try {
      presets.value = await Promise.all(now.map(readSide));
    } catch (e) {
      failed.value = (e as Error).message;
    }
  },
  { immediate: true },
);
onMounted(async () => {
  try {
    shelf.value = (await api.presets({ limit: 200 })).items;
  } catch (e) {
    ui.fail(e);
  }
});
function pick(which: number, e: Event) {
  const preset = chosenIn(e);
  if (preset) sides.value = sides.value.map((side, i) => (i === which ? { preset } : side));
}
const isListed = (p: Preset) => shelf.value.some((entry) => entry.id === p.id);
const both = computed(() => {
  const [first, second] = presets.value;
  return first && second ? { first, second } : null;
});
const lines = computed(() => {
  const first = both.value?.first.content.tracks[pair.value];
  const second = both.value?.second.content.tracks[pair.value];
  return first && second ? { first, second } : null;
});
const differences = computed(() =>
  both.value ? diffPresets(both.value.first.content, both.value.second.content) : [],
);
const countText = computed(() =>
  differences.value.length === 1 ? 'One difference' : `${differences.value.length} differences`,
);
</script>

<template>
  <Sheet title="Side by side" :width="940" @close="emit('close')">
    <div class="flex flex-col gap-3 text-body">
      <div class="grid grid-cols-2 gap-3">
        <label v-for="(p, i) in presets" :key="i" class="flex flex-col"
          ><span class="label">{{ i === 0 ? 'First (dashed)' : 'Second (solid)' }}</span>
          <select
            class="field"
            :aria-label="i === 0 ? 'First to compare' : 'Second to compare'"
            :value="p?.id ?? ''"
            @change="pick(i, $event)"
          >
            <option v-if="!p" value="">Choose a preset …</option>
            <option v-else-if="!isListed(p)" :value="p.id">{{ titleOf(p) }}</option>
            <option v-for="entry in shelf" :key="entry.id" :value="entry.id">
              {{ entry.id === p?.id ? titleOf(p) : entry.name }}
            </option>
          </select></label
        >
      </div>
      <p v-if="failed" role="alert" class="text-bad">{{ failed }}</p>
      <template v-if="both">
        <CompareListen v-model:pair="pair" :first="both.first" :second="both.second" />
        <CompareCurves v-if="lines" :first="lines.first" :second="lines.second" />
        <section aria-label="Differences">
          <h3 class="mb-1 font-semibold">{{ countText }}</h3>
          <DifferenceTable
            :list="differences"
            :titles="[titleOf(both.first), titleOf(both.second)]"
            none="The settings are the same, value by value."
          />
        </section>
      </template>
    </div>
    <template #actions
      ><button type="button" class="btn btn-main" @click="emit('close')">Close</button></template
    >
  </Sheet>
</template>
