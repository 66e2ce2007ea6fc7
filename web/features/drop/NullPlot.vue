<script setup lang="ts">
/** The null test as a picture: the preset's own sound, the same here, and the difference, over frequency and over time. */
import { computed } from 'vue';
import { NULL_STRETCHES, NULL_THIRDS, type NullPicture } from '../../../core/index.ts';

const props = defineProps<{ picture: NullPicture; seconds: number }>();
const [WIDTH, HEIGHT] = [370, 112];
/** dBFS at the top and the foot */
const [TOP, FOOT] = [0, -140];
const GRID = [-30, -60, -90, -120];
const SOUNDS = [
  { id: 'preset', label: 'the preset', stroke: 'var(--ink)', width: 3, dash: undefined },
  { id: 'session', label: 'here', stroke: 'var(--rope)', width: 1.5, dash: '5 3' },
  { id: 'difference', label: 'the difference', stroke: 'var(--bad)', width: 1.5, dash: '1 2' },
] as const;
const y = (dB: number) => ((TOP - Math.min(TOP, Math.max(FOOT, dB))) / (TOP - FOOT)) * HEIGHT;
const pathOf = (levels: readonly number[]) =>
  levels
    .map((dB, i) => `${i ? 'L' : 'M'}${((i / (levels.length - 1)) * WIDTH).toFixed(1)} ${y(dB).toFixed(1)}`)
    .join('');
const isNothing = (levels: readonly number[]) => levels.every((dB) => dB <= FOOT);
const plots = computed(() => [
  {
    id: 'thirds' as const,
    title: 'over frequency',
    from: '25 Hz',
    to: '20 kHz',
    marks: [100, 1000, 10000].map((f) => ({
      at: NULL_THIRDS.findIndex((centre) => centre > f * 0.99) / (NULL_THIRDS.length - 1),
      text: f < 1000 ? `${f}` : `${f / 1000}k`,
    })),
  },
  {
    id: 'time' as const,
    title: 'over time',
    from: '0 s',
    to: `${props.seconds} s`,
    marks: [1, 2].map((s) => ({ at: (s * NULL_STRETCHES) / props.seconds / NULL_STRETCHES, text: `${s} s` })),
  },
]);
const told = computed(() => {
  const most = Math.max(...props.picture.difference.thirds);
  const loudest = Math.max(...props.picture.preset.thirds);
  return `The loudest third of the preset lies at ${loudest} dB, that of the difference at ${most <= FOOT ? '−∞' : most} dB.`;
});
</script>

<template>
  <figure>
    <div class="flex flex-wrap gap-4" role="img" :aria-label="told">
      <div v-for="plot in plots" :key="plot.id">
        <svg
          :width="WIDTH"
          :height="HEIGHT + 14"
          :viewBox="`0 0 ${WIDTH} ${HEIGHT + 14}`"
          class="block max-w-full"
        >
          <g v-for="dB in GRID" :key="dB">
            <line x1="0" :x2="WIDTH" :y1="y(dB)" :y2="y(dB)" stroke="var(--rule)" />
            <text x="2" :y="y(dB) - 2" font-size="9" fill="var(--soft)">
              {{ String(dB).replace('-', '−') }}
            </text>
          </g>
          <g v-for="mark in plot.marks" :key="mark.text">
            <line :x1="mark.at * WIDTH" :x2="mark.at * WIDTH" y1="0" :y2="HEIGHT" stroke="var(--rule)" />
            <text :x="mark.at * WIDTH" :y="HEIGHT + 11" font-size="9" fill="var(--soft)" text-anchor="middle">
              {{ mark.text }}
            </text>
          </g>
          <template v-for="sound in SOUNDS" :key="sound.id">
            <path
              v-if="!isNothing(picture[sound.id][plot.id])"
              :d="pathOf(picture[sound.id][plot.id])"
              fill="none"
              :stroke="sound.stroke"
              :stroke-width="sound.width"
              :stroke-dasharray="sound.dash"
            />
          </template>
          <text x="0" :y="HEIGHT + 11" font-size="9" fill="var(--soft)">{{ plot.from }}</text>
          <text :x="WIDTH" :y="HEIGHT + 11" font-size="9" fill="var(--soft)" text-anchor="end">
            {{ plot.to }}
          </text>
        </svg>
        <p class="text-note text-soft">{{ plot.title }}, dBFS</p>
      </div>
    </div>
    <figcaption class="flex gap-4 text-note">
      <span v-for="sound in SOUNDS" :key="sound.id" class="flex items-center gap-1"
        ><svg width="26" height="8" aria-hidden="true">
          <line
            x1="0"
            x2="26"
            y1="4"
            y2="4"
            :stroke="sound.stroke"
            :stroke-width="sound.width"
            :stroke-dasharray="sound.dash"
          />
        </svg>
        {{ sound.label
        }}{{ sound.id === 'difference' && isNothing(picture.difference.thirds) ? ': nothing' : '' }}</span
      >
    </figcaption>
  </figure>
</template>
