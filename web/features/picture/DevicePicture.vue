<script setup lang="ts">
/** The large live picture of a device, as its own file draws it, and the spectrum before and after it. */
import { computed, onBeforeUnmount, onMounted, ref } from 'vue';
import {
  playedAs,
  frequencyGrid,
  pictured,
  runningParams,
  type Device,
  type PictureView,
} from '../../../core/index.ts';
import { prepare, themeColour, useFrame } from '../../ui/frame.ts';
import { useAudio, useSpectrum } from '../transport/index.ts';

const props = defineProps<{ device: Device; tempo: number; sampleRate: number }>();
const audio = useAudio();
const canvas = ref<HTMLCanvasElement | null>(null);
const type = computed(() => playedAs(props.device));
const picture = computed(() => type.value.picture);
const view = ref<'own' | 'spectrum'>('own');
const spectrum = useSpectrum(() => props.sampleRate);
onMounted(() => audio.watchSlot(props.device.id));
onBeforeUnmount(() => audio.watchSlot(null));

/** dB, smoothed for the eye */
let level = -60;
let reduction = 0;
function follow() {
  const live = audio.playing ? audio.slots.get(props.device.id) : null;
  level += 0.35 * ((live ? Math.max(-60, live.level) : -60) - level);
  reduction += 0.4 * ((live?.reduction ?? 0) - reduction);
}

const memory: PictureView['memory'] = {};
useFrame(() => {
  const c = canvas.value;
  if (!c) return;
  const { g, w, h } = prepare(c);
  if (view.value === 'spectrum') {
    frequencyGrid(g, themeColour, w, h);
    spectrum.draw(g, w, h);
    return;
  }
  follow();
  const seen: PictureView = {
    ...pictured(type.value, runningParams(props.device), props.sampleRate, props.tempo),
    playing: audio.playing,
    level,
    reduction,
    readings: audio.scope.readings,
    colour: themeColour,
    spectrum: (width, height) => spectrum.draw(g, width, height),
    memory,
  };
  picture.value.draw?.(g, seen, w, h);
});
const label = computed(
  () => `${view.value === 'own' ? picture.value.name : 'Spectrum before and after'} of ${props.device.name}`,
);
</script>

<template>
  <div class="relative h-full min-h-[120px] rounded border border-rule bg-paper">
    <canvas ref="canvas" class="h-full w-full" role="img" :aria-label="label" />
    <button
      v-if="!picture.overSpectrum"
      type="button"
      class="absolute left-7 top-1 min-h-6 rounded bg-sheet px-1.5 text-fine text-soft hover:bg-sunk"
      :aria-pressed="view === 'spectrum'"
      title="Spectrum before (dotted) and after (filled) this device"
      @click="view = view === 'own' ? 'spectrum' : 'own'"
    >
      {{ view === 'own' ? 'spectrum' : 'its picture' }}
    </button>
  </div>
</template>
