<script setup lang="ts">
/**
 * The lanes of a line: which values move along the song, and the open one as a curve with points to set, drag
 * and type.
 */
import { computed, ref } from 'vue';
import { formatValue, laneTarget, laneValue, type LanePoint, type Track } from '../../../core/index.ts';
import { useSession } from '../../document/doc.ts';
import { useAudio } from '../transport/index.ts';
import { useCurve } from './curve.ts';
import LaneList from './LaneList.vue';
import PointFields from './PointFields.vue';
import { useLaneView } from './view.ts';
import { usePoints } from './points.ts';

const props = defineProps<{ track: Track }>();
const session = useSession();
const audio = useAudio();
const view = useLaneView();
const lane = computed(() => {
  const lanes = props.track.automation ?? [];
  return lanes.find((l) => l.id === view.lane) ?? lanes[0] ?? null;
});
const target = computed(() => lane.value && laneTarget(props.track, lane.value, session.nameOf));

const box = ref<HTMLElement | null>(null);
const curve = useCurve(box, lane, target);
const { size, span, isSwitch, x, y, path, bars, place, scale } = curve;
const { at, point, move, setHold, remove, press, keys } = usePoints(
  () => props.track,
  lane,
  target,
  box,
  curve,
);

const shown = (value: number) => formatValue(target.value!.spec, isSwitch.value ? value >= 0.5 : value);
const area = computed(() => `${path.value} L ${size.value.w} ${size.value.h} L 0 ${size.value.h} Z`);
const nowText = computed(() => {
  if (!lane.value || !target.value) return '—';
  const value = laneValue(target.value.spec, lane.value.points, audio.seconds);
  return Number.isNaN(value) ? '—' : shown(value);
});
const placeText = computed(() => {
  if (!point.value) return '';
  return `Point ${at.value + 1} of ${lane.value!.points.length}, bar ${place(point.value.at)}`;
});
function pointLabel(p: LanePoint, i: number): string {
  const what = `Point ${i + 1} of ${target.value!.label}: ${shown(p.value)} at ${p.at} s`;
  return `${what}; arrow keys move it, Delete takes it away`;
}
</script>

<template>
  <!-- Delete means the line elsewhere on the screen, never in here -->
  <div class="grid min-h-0 flex-1 grid-cols-[232px_minmax(0,1fr)] gap-3 p-3 text-body" @keydown.delete.stop>
    <LaneList :track="track" :open="lane" />

    <div v-if="lane && target" class="flex min-h-0 min-w-0 flex-col gap-2">
      <div
        ref="box"
        class="relative min-h-[84px] flex-1 touch-none overflow-hidden rounded border border-rule bg-paper"
        :class="{ 'opacity-60': !lane.on }"
        role="group"
        :aria-label="`Curve of ${target.label}`"
        tabindex="-1"
        data-curve
        @pointerdown.self="press($event, null)"
      >
        <svg class="pointer-events-none absolute inset-0 h-full w-full" aria-hidden="true">
          <g v-for="b in bars" :key="b.n">
            <line :x1="x(b.at)" :x2="x(b.at)" y1="0" :y2="size.h" stroke="var(--rule)" />
            <text :x="x(b.at) + 3" y="11" font-size="11" fill="var(--soft)">{{ b.n }}</text>
          </g>
          <g v-for="s in scale" :key="s.y">
            <line x1="0" :x2="size.w" :y1="s.y" :y2="s.y" stroke="var(--rule)" stroke-dasharray="2 4" />
            <text :x="size.w - 4" :y="s.y - 3" font-size="11" text-anchor="end" fill="var(--soft)">
              {{ shown(s.value) }}
            </text>
          </g>
          <path v-if="path" :d="area" fill="var(--rope)" opacity="0.1" />
          <path v-if="path" :d="path" fill="none" stroke="var(--rope)" stroke-width="2" />
          <line
            :x1="x(audio.seconds)"
            :x2="x(audio.seconds)"
            y1="0"
            :y2="size.h"
            stroke="var(--ink)"
            stroke-width="1"
          />
        </svg>
        <button
          v-for="(p, i) in lane.points"
          :key="i"
          type="button"
          data-point
          class="absolute grid h-6 w-6 -translate-x-1/2 -translate-y-1/2 touch-none place-items-center rounded-full"
          :style="{ left: x(p.at) + 'px', top: y(p.value) + 'px' }"
          :aria-label="pointLabel(p, i)"
          @pointerdown="press($event, i)"
          @focus="at = i"
          @keydown="keys($event, i)"
        >
          <span
            class="h-3 w-3 border-2"
            :class="[
              p.hold || isSwitch ? '' : 'rotate-45',
              i === at ? 'border-ink bg-rope' : 'border-rope bg-sheet',
            ]"
          />
        </button>
      </div>
      <div class="flex h-[30px] shrink-0 items-center gap-3 text-note">
        <PointFields
          v-if="point"
          :point="point"
          :place="placeText"
          :spec="target.spec"
          :span="span"
          @move="move"
          @hold="setHold"
          @remove="remove"
        />
        <span v-else class="text-soft"
          >No points: the value stands still. Press on the curve to set one.</span
        >
        <span class="flex-1" />
        <span class="whitespace-nowrap text-soft"
          >Now: <b class="text-ink" data-testid="lane-now">{{ nowText }}</b></span
        >
      </div>
    </div>
    <p v-else-if="lane" class="text-soft">
      What this lane moved is not on the line any more. It moves again when it comes back; otherwise remove
      the lane.
    </p>
    <p v-else class="text-soft">
      Level rides, a send that opens for one word, a filter that closes: choose a value on the left.
    </p>
  </div>
</template>
