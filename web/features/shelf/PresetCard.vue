<script setup lang="ts">
/** What a preset beside the lines is: heard on the chosen line before it is dropped, or dropped. */
import { Play, Square } from '@lucide/vue';
import { computed, watch } from 'vue';
import { isPiece } from '../../../core/index.ts';
import type { PresetEntry } from '../../../contract/index.ts';
import { useSession } from '../../document/doc.ts';
import { useDrop } from '../drop/index.ts';
import { useAudio } from '../transport/index.ts';
import { kindText, sizeText } from './words.ts';

const props = defineProps<{ preset: PresetEntry }>();
const emit = defineEmits<{
  drop: [];
  /** nothing is listened to any more */
  silent: [];
}>();
const drop = useDrop();
const audio = useAudio();
const session = useSession();

// by the time it is listened to it is there
watch(
  () => props.preset,
  (preset) => void drop.readAhead(preset).catch(() => undefined),
  { immediate: true },
);
const line = computed(() => session.track);
const isOne = computed(() => props.preset.summary.tracks === 1);
/** the trial of this very preset, not of another */
const trial = computed(() => (drop.trial?.preset.id === props.preset.id ? drop.trial : null));
const heardOn = computed(() => session.doc?.tracks.find((t) => t.id === trial.value?.track)?.name ?? '');
const WAYS = ['As it is', 'With it'];
const about = computed(() => {
  const { category, version } = props.preset;
  const kind = kindText(props.preset, '');
  return [category.replace('/', ' › '), kind, sizeText(props.preset), `version ${version}`]
    .filter(Boolean)
    .join(' · ');
});
const devices = computed(() =>
  isOne.value ? props.preset.summary.devices.map((d) => d.name).join(' → ') : '',
);
const matchText = computed(() => {
  const match = audio.compare?.match;
  if (!match) return 'softly, until its loudness is known';
  if (!match.lufs.every(Number.isFinite)) return 'this line is silent: nothing to hear';
  const gain = match.gains[1];
  return `as loud as the line (${gain < 0 ? '−' : '+'}${Math.abs(gain).toFixed(1)} dB)`;
});
const listenText = computed(() => (line.value ? `Listen on “${line.value.name}”` : ''));
const dropText = computed(() => {
  if (trial.value) return `Drop onto “${heardOn.value}”`;
  if (isPiece(props.preset.kind) && line.value) return `Drop at the end of “${line.value.name}”`;
  return isOne.value ? 'Drop as a new line' : 'Drop as new lines';
});
function take() {
  emit('silent');
  if (trial.value) drop.keepTrial();
  else emit('drop');
}
function end() {
  emit('silent');
  drop.endTrial();
}
</script>

<template>
  <section
    class="max-h-[46%] shrink-0 overflow-auto border-t border-rule bg-sheet p-2 text-note"
    aria-label="Chosen preset"
  >
    <h2 class="text-body font-semibold">{{ preset.name }}</h2>
    <p class="text-soft">{{ about }}</p>
    <p v-if="devices" class="mt-1">{{ devices }}</p>
    <p v-if="preset.summary.note" class="mt-1 line-clamp-3" :title="preset.summary.note">
      {{ preset.summary.note }}
    </p>
    <div v-if="trial" class="mt-1.5" role="group" :aria-label="`Listening on ${heardOn}`">
      <div class="flex gap-1">
        <button
          v-for="(way, n) in WAYS"
          :key="way"
          type="button"
          class="btn flex-1 justify-center px-1 py-0.5"
          :aria-pressed="audio.compare?.now === n"
          :class="{ 'bg-rope-wash font-semibold': audio.compare?.now === n }"
          @click="audio.hear(n)"
        >
          {{ way }}</button><button
          type="button"
          class="btn px-1.5 py-0.5"
          aria-label="End listening"
          title="End listening"
          @click="end"
        >
          <Square :size="12" aria-hidden="true" />
        </button>
      </div>
      <p class="mt-0.5 text-soft" role="status">Its chain, {{ matchText }}</p>
    </div>
    <button
      v-else-if="isOne && line"
      type="button"
      class="btn mt-1.5 w-full justify-center px-2 py-0.5"
      :title="listenText"
      @click="drop.listenOn(preset, line.id)"
    >
      <Play :size="13" aria-hidden="true" /><span class="truncate">{{ listenText }}</span>
    </button>
    <p v-else-if="isOne" class="mt-1.5 text-soft">Choose a line to listen to it there.</p>
    <button
      type="button"
      class="btn mt-1 w-full justify-center px-2 py-0.5"
      :class="{ 'btn-main': trial }"
      :title="dropText"
      @click="take"
    >
      <span class="truncate">{{ dropText }}</span>
    </button>
  </section>
</template>
