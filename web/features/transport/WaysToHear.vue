<script setup lang="ts">
/** A line heard as it is and with other chains, at once and at equal loudness, while the session plays: keys 1, 2, 3. */
import { useEventListener } from '@vueuse/core';
import { computed, onBeforeUnmount, watch } from 'vue';
import type { Slot, Track } from '../../../core/index.ts';
import { useAudio } from './store.ts';

const props = defineProps<{
  line: Track;
  /** what the line is called as it is now */
  now: string;
  ways: { label: string; chain: Slot[] }[];
  /** what is said before anything was pressed */
  hint: string;
}>();
const audio = useAudio();
const id = computed(() => `ways ${props.line.id} ${JSON.stringify(props.ways)}`);
const mine = computed(() => (audio.compare?.id === id.value ? audio.compare : null));
const labels = computed(() => [props.now, ...props.ways.map((way) => way.label)]);
const said = computed(() => {
  if (!mine.value) return props.hint;
  return mine.value.match ? 'at equal loudness' : 'softly, until its loudness is known';
});
function hear(n: number) {
  if (!audio.playing) void audio.play();
  if (!mine.value) {
    const hearings = props.ways.map(({ label, chain }) => ({
      id: label,
      label,
      at: 'line' as const,
      audition: { bypass: [], chains: { [props.line.id]: chain } },
    }));
    void audio.hearAtOnce(id.value, props.line, null, props.line.name, hearings);
  }
  audio.hear(n);
}
useEventListener(window, 'keydown', (e: KeyboardEvent) => {
  const n = Number(e.key) - 1;
  const isTyped = e.target instanceof HTMLInputElement && e.target.type === 'text';
  if (labels.value[n] && !isTyped) hear(n);
});
function end() {
  if (mine.value) audio.endCompare();
}
// what is decided has changed: what sounds says nothing of it any more
watch(id, (_now, before) => {
  if (audio.compare?.id === before) audio.endCompare();
});
onBeforeUnmount(end);
</script>

<template>
  <div
    v-if="ways.length"
    class="flex flex-wrap items-center gap-2"
    role="group"
    aria-label="Hear it at equal loudness"
  >
    <span class="font-semibold">Listen</span>
    <button
      v-for="(label, n) in labels"
      :key="label"
      type="button"
      class="btn px-2 py-0.5"
      :class="{ 'bg-rope-wash font-semibold': mine?.now === n }"
      :aria-pressed="mine?.now === n"
      @click="hear(n)"
    >
      <kbd class="font-sans text-note text-soft">{{ n + 1 }}</kbd> {{ label }}
    </button>
    <span class="text-note text-soft" role="status">{{ said }}</span>
  </div>
</template>
