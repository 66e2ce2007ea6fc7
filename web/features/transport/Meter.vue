<script setup lang="ts">
/**
 * Level meter of a track: two bars from −60 to 0 dBFS with a slow fall and a peak hold, an over mark that
 * stays until clicked.
 */
import { ref } from 'vue';
import { useAudio } from './store.ts';
import { prepare, sizeOf, themeColour, useFrame } from '../../ui/frame.ts';

const props = defineProps<{ track: string; name: string }>();
const audio = useAudio();
const canvas = ref<HTMLCanvasElement | null>(null);
const over = ref(false);
const broken = ref(false);
const text = ref('−∞');
const bar = [0, 0];
const hold = [0, 0];
const age = [0, 0];
let frame = 0;
let topSince = 0;
const at = (g: number) => Math.max(0, Math.min(1, (20 * Math.log10(Math.max(g, 1e-6)) + 60) / 60));

useFrame(() => {
  const c = canvas.value;
  if (!c || sizeOf(c).width === 0) return;
  const m = audio.nodes.get(props.track);
  const { g, w, h } = prepare(c);
  const values = m ? [m.left, m.right] : [0, 0];
  if (m && m.broken > 0) broken.value = true;
  g.fillStyle = themeColour('rule');
  g.fillRect(0, 0, w, h);
  values.forEach((v, i) => {
    const p = at(v);
    bar[i] = Math.max(p, bar[i] - 0.036);
    if (p >= hold[i]) {
      hold[i] = p;
      age[i] = 0;
    } else if (++age[i] > 30) hold[i] = Math.max(p, hold[i] - 0.02);
    if (v > 1) over.value = true;
    const y = i ? h / 2 + 0.5 : 0;
    const bh = h / 2 - 0.5;
    for (const [from, to, name] of [
      [0, 0.8, 'meter-a'],
      [0.8, 0.95, 'meter-b'],
      [0.95, 1, 'meter-c'],
    ] as const) {
      if (bar[i] <= from) break;
      g.fillStyle = themeColour(name);
      g.fillRect(from * w, y, (Math.min(bar[i], to) - from) * w, bh);
    }
    if (hold[i] > 0.01) {
      g.fillStyle = themeColour('ink');
      g.fillRect(Math.min(w - 1.5, hold[i] * w), y, 1.5, bh);
    }
  });
  // the number is for reading, so it changes slowly
  topSince = Math.max(topSince, values[0], values[1]);
  if (++frame % 10 === 0) {
    text.value = topSince > 1e-5 ? (20 * Math.log10(topSince)).toFixed(1).replace('-', '−') : '−∞';
    topSince = 0;
  }
});
</script>

<template>
  <div class="flex items-center gap-1" :title="`${name}: ${text} dBFS peak`">
    <canvas
      ref="canvas"
      class="h-[10px] min-w-0 flex-1 rounded-sm"
      role="img"
      :aria-label="`Level of ${name}`"
    />
    <span class="w-[34px] text-right text-fine text-soft" :data-testid="'peak-' + name">{{ text }}</span>
    <button
      v-if="over"
      type="button"
      class="rounded bg-bad px-1 text-tiny font-semibold text-sheet"
      :aria-label="`${name} went over full scale; reset`"
      @click.stop="over = false"
    >
      over
    </button>
    <button
      v-if="broken"
      type="button"
      class="rounded bg-bad px-1 text-tiny font-semibold text-sheet"
      :aria-label="`${name} gets sound that is no number, played as silence; reset`"
      title="Something in the sound is no number (a broken file, mostly): it is played as silence"
      @click.stop="broken = false"
    >
      broken
    </button>
  </div>
</template>
