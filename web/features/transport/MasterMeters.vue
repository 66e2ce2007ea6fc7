<script setup lang="ts">
/** The master as it is heard: loudness, true peak, correlation, live; the mono check. */
import { RotateCcw } from '@lucide/vue';
import { ref } from 'vue';
import { METER_READINGS } from '../../../core/index.ts';
import { useAudio } from './store.ts';
import { prepare, themeColour, useFrame } from '../../ui/frame.ts';
import { readingText } from '../../../core/devices/readings.ts';

const audio = useAudio();
const texts = ref<string[]>([]);
const canvas = ref<HTMLCanvasElement | null>(null);
let count = 0;
let shown = 0;
useFrame(() => {
  const r = audio.master.readings;
  const c = canvas.value;
  if (c) {
    const { g, w, h } = prepare(c);
    shown += 0.3 * ((r[6] ?? 0) - shown);
    g.fillStyle = themeColour('rule');
    g.fillRect(0, 0, w, h);
    g.fillStyle = themeColour(shown < 0 ? 'bad' : 'meter-a');
    g.fillRect(w / 2, 0, (shown * w) / 2, h);
    g.fillStyle = themeColour('ink');
    g.fillRect(w / 2 - 0.5, 0, 1, h);
  }
  if (++count % 8 === 0) {
    texts.value = METER_READINGS.map((label, i) => (r.length ? readingText(label, r[i]) : '—'));
  }
});
</script>

<template>
  <fieldset class="min-w-0" aria-label="Master meters">
    <legend class="mb-1 text-note font-semibold">Heard now</legend>
    <dl class="grid grid-cols-[auto_1fr] gap-x-3 text-note">
      <template v-for="(label, i) in METER_READINGS" :key="label"
        ><dt class="text-soft">{{ label }}</dt>
        <dd :data-testid="'master-' + label.replace(' ', '-')">{{ texts[i] ?? '—' }}</dd></template
      >
    </dl>
    <div class="mt-1 flex items-center gap-1 text-fine text-soft">
      <span>−1</span
      ><canvas
        ref="canvas"
        class="h-[8px] flex-1"
        role="img"
        :aria-label="`Correlation of the sides ${texts[6] ?? ''}`"
      /><span>+1</span>
    </div>
    <div class="mt-2 flex gap-1.5">
      <button
        type="button"
        class="btn px-2 py-0.5 text-note"
        :aria-pressed="audio.mono"
        :class="{ 'border-warn text-warn': audio.mono }"
        title="Hear both sides as one; renders stay stereo"
        @click="audio.mono = !audio.mono"
      >
        {{ audio.mono ? 'Mono check is on' : 'Mono check' }}
      </button>
      <button
        type="button"
        class="btn px-2 py-0.5 text-note"
        title="Forget held peaks and the loudness so far"
        @click="audio.resetMeters()"
      >
        <RotateCcw :size="12" aria-hidden="true" /> Start again
      </button>
    </div>
  </fieldset>
</template>
