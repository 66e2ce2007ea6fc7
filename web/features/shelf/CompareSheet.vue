<script setup lang="ts">
/**
 * Two versions, two presets, or a preset and a line: what differs in words and units, curves over each other,
 * and both heard on the same sound at equal loudness.
 */
import { Play, Square } from '@lucide/vue';
import { computed, onBeforeUnmount, onMounted, ref, shallowRef, watch } from 'vue';
import {
  DEVICE_TYPES,
  align,
  capture,
  createPreset,
  devicesIn,
  diffPresets,
  logFrequencies,
  responseCurve,
  type Device,
  type MediaRef,
  type Preset,
} from '../../../core/index.ts';
import { api } from '../../api/index.ts';
import type { PresetEntry } from '../../../contract/index.ts';
import type { Side } from './side.ts';
import { useAudio, CompareButton } from '../transport/index.ts';
import { useSession } from '../../document/doc.ts';
import { useUi } from '../../ui/window.ts';
import Sheet from '../../ui/Sheet.vue';
import { CurvePlot } from '../picture/index.ts';
import { listeningChain, listeningSession } from './listening.ts';

const props = defineProps<{ a: Side; b: Side | null }>();
const emit = defineEmits<{ close: [] }>();
const sides = shallowRef<{ a: Side; b: Side | null }>({ a: props.a, b: props.b });
const ui = useUi();
const audio = useAudio();
const session = useSession();
const shelf = shallowRef<PresetEntry[]>([]);
const sounds = shallowRef<MediaRef[]>([]);
const material = ref('');
const [first, second] = [shallowRef<Preset | null>(null), shallowRef<Preset | null>(null)];
const pair = ref(0);
const failed = ref('');

async function load(side: Side | null): Promise<Preset | null> {
  if (!side) return null;
  if ('line' in side) {
    const t = session.doc?.tracks.find((x) => x.id === side.line);
    return t
      ? createPreset(capture(session.doc!, [t.id]), { id: `line ${t.id}`, name: `${t.name}, as it is here` })
      : null;
  }
  const d = await api.preset(side.preset);
  return {
    ...(side.version && side.version !== d.version
      ? await api.presetVersion(side.preset, side.version)
      : d.preset),
    name: d.name,
  };
}
watch(
  sides,
  async (c) => {
    failed.value = '';
    pair.value = 0;
    audio.endListening();
    try {
      [first.value, second.value] = await Promise.all([load(c.a), load(c.b)]);
    } catch (e) {
      failed.value = (e as Error).message;
    }
  },
  { immediate: true },
);
onMounted(async () => {
  try {
    [shelf.value, sounds.value] = await Promise.all([
      api.presets({ limit: 200 }).then((p) => p.items),
      api.media(),
    ]);
    material.value = (sounds.value.find((m) => m.name.includes('lead')) ?? sounds.value[0])?.id ?? '';
  } catch (e) {
    ui.fail(e);
  }
});
onBeforeUnmount(() => audio.endListening());

const titleOf = (p: Preset) => (p.id.startsWith('line ') ? p.name : `${p.name}, v${p.version}`);
const differences = computed(() =>
  first.value && second.value ? diffPresets(first.value.content, second.value.content) : [],
);
const lines = computed(() =>
  Array.from(
    { length: Math.min(first.value?.content.tracks.length ?? 0, second.value?.content.tracks.length ?? 0) },
    (_, i) => i,
  ),
);
const tracks = computed(() => [first, second].map((p) => p.value?.content.tracks[pair.value] ?? null));
const FREQS = logFrequencies(220);
const RATE = 48000;
const curves = computed(() => tracks.value.map((t) => (t ? responseCurve(t.chain, FREQS, RATE) : null)));
const INPUT = Array.from({ length: 133 }, (_, i) => -60 + i * 0.5);
/** devices with a transfer curve that belong together in both chains */
const dynamics = computed(() => {
  const [x, y] = tracks.value;
  if (!x || !y) return [];
  const curve = (d: Device | null) =>
    d && d.state === 'on' && DEVICE_TYPES[d.type].curve
      ? INPUT.map((v) => DEVICE_TYPES[d.type].curve!(v, d.params))
      : null;
  return align(devicesIn(x.chain), devicesIn(y.chain))
    .map(([p, q]) => ({ name: (q ?? p)!.name, a: curve(p as Device | null), b: curve(q as Device | null) }))
    .filter((d) => d.a || d.b)
    .slice(0, 6);
});

const playing = computed(() => audio.listening?.preset === 'compare');
const line = computed(() =>
  playing.value
    ? (audio.listening!.session.tracks.find((t) => t.id === audio.listening!.track) ?? null)
    : null,
);
async function listen() {
  const sound = sounds.value.find((m) => m.id === material.value);
  const [x, y] = tracks.value;
  if (!sound || !x || !y || !first.value || !second.value) return;
  const { session: s, track } = listeningSession(first.value, sound, x.id);
  await audio.listen('compare', s, track);
  const t = s.tracks.find((k) => k.id === track)!;
  await audio.compareHearings(
    `compare ${first.value.hash} ${second.value.hash} ${pair.value}`,
    t,
    null,
    titleOf(first.value),
    [
      {
        id: 'other',
        label: titleOf(second.value),
        at: 'line',
        audition: { bypass: [], chains: { [track]: listeningChain(y.chain) } },
      },
    ],
  );
}
const pick = (which: 'a' | 'b', id: string) => {
  if (id) sides.value = { ...sides.value, [which]: { preset: id } };
};
</script>

<template>
  <Sheet title="Side by side" :width="940" @close="emit('close')">
    <div class="flex flex-col gap-3 text-[13px]">
      <div class="grid grid-cols-2 gap-3">
        <label v-for="(p, i) in [first, second]" :key="i" class="flex flex-col"
          ><span class="label">{{ i === 0 ? 'First (dashed)' : 'Second (solid)' }}</span>
          <select
            class="field"
            :aria-label="i === 0 ? 'First to compare' : 'Second to compare'"
            :value="p?.id ?? ''"
            @change="pick(i === 0 ? 'a' : 'b', ($event.target as HTMLSelectElement).value)"
          >
            <option v-if="!p" value="">Choose a preset …</option>
            <option v-if="p && !shelf.some((s) => s.id === p!.id)" :value="p.id">{{ titleOf(p) }}</option>
            <option v-for="s in shelf" :key="s.id" :value="s.id">
              {{ s.id === p?.id ? titleOf(p) : s.name }}
            </option>
          </select></label
        >
      </div>
      <p v-if="failed" role="alert" class="text-bad">{{ failed }}</p>
      <template v-if="first && second">
        <div class="flex flex-wrap items-center gap-3" role="group" aria-label="Listen to both">
          <label v-if="lines.length > 1" class="flex items-center gap-2"
            >Line
            <select v-model.number="pair" class="field py-0.5" aria-label="Line to compare">
              <option v-for="i in lines" :key="i" :value="i">{{ first.content.tracks[i].name }}</option>
            </select></label
          >
          <label class="flex items-center gap-2"
            >On
            <select v-model="material" class="field max-w-[220px] py-0.5" aria-label="Sound to compare on">
              <option v-for="m in sounds" :key="m.id" :value="m.id">
                {{ m.name.replace(/\.wav$/, '') }}
              </option>
            </select></label
          >
          <button
            v-if="!playing || !audio.playing"
            type="button"
            class="btn btn-main px-2 py-0.5"
            :disabled="!sounds.length || !lines.length"
            @click="listen"
          >
            <Play :size="14" aria-hidden="true" /> Hear both
          </button>
          <button v-else type="button" class="btn px-2 py-0.5" @click="audio.endListening()">
            <Square :size="13" aria-hidden="true" /> Stop
          </button>
          <template v-if="line && audio.compare?.match"
            ><div
              class="flex overflow-hidden rounded border border-edge"
              role="group"
              aria-label="Which is heard"
            >
              <button
                v-for="(n, i) in [titleOf(first), titleOf(second)]"
                :key="i"
                type="button"
                class="min-h-6 max-w-[220px] truncate px-2 py-0.5"
                :class="audio.compare.now === i ? 'bg-ink text-paper' : 'bg-sheet'"
                :aria-pressed="audio.compare.now === i"
                @click="audio.hear(i)"
              >
                {{ n }}
              </button>
            </div>
            <span class="text-soft">at equal loudness</span></template
          >
          <CompareButton v-else-if="line && audio.compare" :track="line" />
        </div>
        <div v-if="tracks[0] && tracks[1]" class="grid grid-cols-3 gap-3">
          <CurvePlot
            class="col-span-2"
            title="Frequency response of the whole chain"
            :a="curves[0]"
            :b="curves[1]"
            :low="-24"
            :high="24"
            left="20 Hz"
            right="20 kHz"
            unit="dB"
          />
          <CurvePlot
            v-for="d in dynamics"
            :key="d.name"
            :title="d.name"
            :a="d.a"
            :b="d.b"
            :low="-60"
            :high="12"
            left="−60 dB in"
            right="+6 dB"
            unit="dB out"
          />
        </div>
        <section aria-label="Differences">
          <h3 class="mb-1 font-semibold">
            {{ differences.length === 1 ? 'One difference' : `${differences.length} differences` }}
          </h3>
          <p v-if="!differences.length" class="text-soft">The settings are the same, value by value.</p>
          <table v-else class="w-full">
            <thead>
              <tr class="text-left text-soft">
                <th class="font-normal">Value</th>
                <th class="font-normal">{{ titleOf(first) }}</th>
                <th class="font-normal">{{ titleOf(second) }}</th>
              </tr>
            </thead>
            <tbody>
              <tr v-for="d in differences" :key="d.label + d.kind" class="border-t border-rule">
                <td class="py-0.5 pr-2">{{ d.label }}</td>
                <td class="pr-2">{{ d.from }}</td>
                <td class="font-semibold">{{ d.to }}</td>
              </tr>
            </tbody>
          </table>
        </section>
      </template>
    </div>
    <template #actions
      ><button type="button" class="btn btn-main" @click="emit('close')">Close</button></template
    >
  </Sheet>
</template>
