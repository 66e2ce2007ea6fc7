<script setup lang="ts">
/**
 * The bays as rows of points, with the cables as threads. A cable is drawn from one point to another; with the keyboard,
 * Enter on a point takes one end, Enter on another plugs the other.
 */
import { computed, ref } from 'vue';
import { randomIds, type Cable, type Jack, type Studio } from '../../../core/index.ts';
import {
  COLUMN,
  LABEL,
  LEFT,
  spotsOf,
  thread,
  threadColour,
  topOf,
  widthOf,
  BAY_HEIGHT,
  type Spot,
} from './board.ts';

const props = defineProps<{ studio: Studio; fixed?: boolean }>();
const emit = defineEmits<{ plug: [cable: Cable]; pull: [cable: Cable] }>();
const svg = ref<SVGSVGElement | null>(null);
const held = ref<Jack | null>(null);
const pointer = ref<{ x: number; y: number } | null>(null);
const spots = computed(() => props.studio.bays.flatMap(spotsOf));
const at = computed(() => new Map(spots.value.map((s) => [s.jack, s])));
const drawn = computed(() =>
  props.studio.cables.flatMap((cable) => {
    const [a, b] = [at.value.get(cable.from), at.value.get(cable.to)];
    if (!a || !b) return [];
    const name = `Cable from ${a.name} to ${b.name}${cable.fault ? `, ${cable.fault}` : ''}`;
    return [{ cable, a, b, name, path: thread(a, b), colour: threadColour(props.studio.cables, cable.id) }];
  }),
);
const filled = computed(() => new Set(props.studio.cables.flatMap((c) => [c.from, c.to])));
const heldSpot = computed(() => (held.value ? at.value.get(held.value) : undefined));

function place(e: PointerEvent) {
  const box = svg.value!.getBoundingClientRect();
  const scale = widthOf(props.studio) / box.width;
  return { x: (e.clientX - box.left) * scale, y: (e.clientY - box.top) * scale };
}
function take(spot: Spot, e?: PointerEvent) {
  if (props.fixed || filled.value.has(spot.jack)) return;
  if (held.value && held.value !== spot.jack) {
    plug(spot.jack);
    return;
  }
  held.value = held.value === spot.jack ? null : spot.jack;
  if (e) pointer.value = place(e);
}
function plug(to: Jack) {
  if (!held.value || filled.value.has(to)) return;
  emit('plug', { id: randomIds('cab'), from: held.value, to });
  held.value = null;
  pointer.value = null;
}
function letGo(e: PointerEvent) {
  if (!held.value) return;
  const p = place(e);
  const near = spots.value.find((s) => Math.hypot(s.x - p.x, s.y - p.y) < 14);
  if (near && near.jack !== held.value) plug(near.jack);
  else if (!near) held.value = null;
  pointer.value = null;
}
/** Labels stand upright away from their points. */
const turned = (s: Spot) =>
  s.row === 'upper'
    ? `translate(${s.x + 4} ${s.y - 12}) rotate(-90)`
    : `translate(${s.x - 3} ${s.y + 14}) rotate(90)`;
const modeText: Record<string, string> = { normal: 'n', 'half-normal': 'h', parallel: 'p', thru: '' };
</script>

<template>
  <div class="overflow-x-auto">
    <svg
      ref="svg"
      :width="widthOf(studio)"
      :height="studio.bays.length * BAY_HEIGHT"
      :viewBox="`0 0 ${widthOf(studio)} ${studio.bays.length * BAY_HEIGHT}`"
      class="touch-none select-none"
      role="group"
      aria-label="Patchbays"
      @pointermove="pointer = held ? place($event) : null"
      @pointerup="letGo"
      @keydown.esc.stop="held = null"
    >
      <g v-for="(bay, b) in studio.bays" :key="bay.id">
        <text x="4" :y="topOf(b) - 8" class="fill-ink text-note font-semibold">{{ bay.name }}</text>
        <g v-for="(pair, i) in bay.pairs" :key="i">
          <template v-if="pair.mode !== 'thru'">
            <line
              :x1="LEFT + i * COLUMN"
              :x2="LEFT + i * COLUMN"
              :y1="topOf(b) + LABEL + 9"
              :y2="topOf(b) + LABEL + 25"
              stroke="var(--edge)"
              :stroke-width="pair.mode === 'parallel' ? 4 : 1.5"
              :stroke-dasharray="pair.mode === 'half-normal' ? '3 2' : undefined"
            />
            <text :x="LEFT + 5 + i * COLUMN" :y="topOf(b) + LABEL + 21" class="fill-soft text-tiny">
              {{ modeText[pair.mode] }}
            </text>
          </template>
        </g>
      </g>
      <g v-for="s in spots" :key="s.jack">
        <text :transform="turned(s)" class="fill-ink text-tiny">
          {{ s.label }}
        </text>
        <circle
          :cx="s.x"
          :cy="s.y"
          r="8"
          tabindex="0"
          role="button"
          :aria-label="s.name"
          :aria-pressed="held === s.jack"
          :fill="filled.has(s.jack) ? 'var(--ink)' : held === s.jack ? 'var(--rope)' : 'var(--sheet)'"
          stroke="var(--edge)"
          stroke-width="2"
          class="cursor-pointer"
          @pointerdown.prevent="take(s, $event)"
          @keydown.enter.prevent="take(s)"
        >
          <title>{{ s.name }}</title>
        </circle>
      </g>
      <path
        v-for="c in drawn"
        :key="c.cable.id"
        :d="c.path"
        fill="none"
        :stroke="c.colour"
        stroke-width="4"
        stroke-linecap="round"
        :stroke-dasharray="c.cable.fault ? '8 5' : undefined"
        role="button"
        tabindex="0"
        :aria-label="fixed ? c.name : `${c.name}: pull it`"
        class="cursor-pointer opacity-90"
        @click="fixed || emit('pull', c.cable)"
        @keydown.enter.prevent="fixed || emit('pull', c.cable)"
      >
        <title>{{ fixed ? c.name : `${c.name}: click to pull it` }}</title>
      </path>
      <path
        v-if="heldSpot && pointer"
        :d="thread(heldSpot, pointer)"
        fill="none"
        stroke="var(--rope)"
        stroke-width="3"
        stroke-dasharray="4 4"
        pointer-events="none"
      />
    </svg>
  </div>
</template>
