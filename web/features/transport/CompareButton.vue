<script setup lang="ts">
/** With and without, at equal loudness: the first press measures both, then each press switches. */
import { ArrowLeftRight, X } from '@lucide/vue';
import { computed } from 'vue';
import type { Track } from '../../../core/index.ts';
import { useAudio } from './store.ts';
import { useShortcuts } from '../../ui/shortcuts.ts';

const props = defineProps<{
  track: Track;
  device?: string | null;
  label?: string;
  short?: boolean;
  one?: boolean;
}>();
const audio = useAudio();
const mine = computed(() => {
  const c = audio.compare;
  return c && c.track === props.track.id && c.slot === (props.device ?? null) ? c : null;
});
const lufs = (v: number) => (Number.isFinite(v) ? v.toFixed(1).replace('-', '−') : '−∞');
const signed = (v: number) => (v >= 0 ? '+' : '−') + Math.abs(v).toFixed(1);
const two = computed(() => mine.value?.hearings.length === 2);
/** How loud the first and the one heard last were before they were matched, and by how much that is. */
const figures = computed(() => {
  const m = mine.value;
  if (!m?.match || (!two.value && m.now === 0)) return null;
  const [first, last, gain] = [m.match.first[m.last], m.match.lufs[m.last], m.match.gains[m.last]];
  const silent = !Number.isFinite(last);
  const soundless = silent ? 'no sound here' : null;
  const where = m.hearings[m.last].at === 'master' ? 'the master' : 'the line';
  return {
    matched: soundless ?? `${signed(gain)} dB`,
    loud: `${lufs(first)} ⇄ ${lufs(last)} LUFS`,
    title: `Measured on ${where}: ${m.hearings[0].label} ${lufs(first)} LUFS, ${m.hearings[m.last].label} ${lufs(last)} LUFS`,
  };
});
/** What is heard now. */
const heard = computed(() => {
  const m = mine.value;
  if (!m) return '';
  if (m.hearings[1].id === 'without') return m.now ? 'Without' : 'With';
  return m.hearings[m.now].label;
});
/** What is compared already is switched over; otherwise with and without begins. */
function press() {
  const m = mine.value;
  if (m) audio.hear(m.now === 0 ? m.last : 0);
  else void audio.toggleCompare(props.track, props.device ?? null);
}
const shortcuts = useShortcuts();
</script>

<template>
  <div class="flex items-center gap-1 text-note" aria-live="polite">
    <button
      v-if="!mine || two || mine.busy !== null"
      type="button"
      class="btn min-w-0 px-2 py-0.5"
      :aria-pressed="!!mine && mine.now > 0"
      :disabled="!!mine && mine.busy !== null"
      :title="`Hear it with and without at equal loudness (${shortcuts.keyOf('W')})`"
      @click="press"
    >
      <ArrowLeftRight :size="13" aria-hidden="true" />
      <template v-if="!mine">{{ label ?? 'With / without' }}</template>
      <template v-else-if="mine.busy !== null">Measuring {{ Math.round(mine.busy * 100) }} %</template>
      <strong v-else class="truncate" :class="{ 'text-warn': mine.now > 0 }">{{ heard }}</strong>
    </button>
    <button
      v-else-if="one"
      type="button"
      class="btn px-2 py-0.5 whitespace-nowrap"
      :title="`${mine.label}: the next hearing; keys 1 to ${mine.hearings.length}`"
      @click="audio.hear((mine.now + 1) % mine.hearings.length)"
    >
      <ArrowLeftRight :size="13" aria-hidden="true" />{{ ' ' }}
      <strong :class="{ 'text-warn': mine.now > 0 }">{{ mine.hearings[mine.now].label }}</strong>
    </button>
    <div
      v-else
      class="flex overflow-hidden rounded border border-edge"
      role="group"
      :aria-label="`Hearings of ${mine.label}`"
    >
      <button
        v-for="(h, i) in mine.hearings"
        :key="h.id"
        type="button"
        class="px-1.5 py-0.5 whitespace-nowrap"
        :class="mine.now === i ? 'bg-ink text-paper' : 'bg-sheet'"
        :aria-pressed="mine.now === i"
        :title="`${h.label}: key ${i + 1}`"
        @click="audio.hear(i)"
      >
        <kbd class="text-tiny opacity-70">{{ i + 1 }}</kbd> {{ h.label }}
      </button>
    </div>
    <template v-if="mine?.match">
      <span v-if="figures" class="whitespace-nowrap text-soft" :title="figures.title"
        ><template v-if="!short">{{ figures.loud }}, matched by </template>{{ figures.matched }}</span
      >
      <button
        type="button"
        class="btn btn-plain px-1 py-0"
        aria-label="End the comparison"
        @click="audio.endCompare()"
      >
        <X :size="13" aria-hidden="true" />
      </button>
    </template>
  </div>
</template>
