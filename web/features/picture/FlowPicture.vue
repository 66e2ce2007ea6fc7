<script setup lang="ts">
/**
 * How a preset flows: its lines with devices as beads, sends that peel off to their returns, outputs. Loose
 * ends are open rings, ends with a copy are full ones; what stays inside is an arrow.
 */
import { computed, ref } from 'vue';
import type { PresetContent } from '../../../core/index.ts';
import { useUi } from '../../ui/window.ts';
import {
  TILE,
  WORDS_AT,
  flowTold,
  layFlow,
  linesInSight,
  sendPath,
  sendText,
  sizeOf,
  threadOf,
  type FlowLine,
} from './flow.ts';

/** `piece`: a device or rack, which has no line of its own around it. */
const props = defineProps<{ content: PresetContent; tempo: number; piece?: boolean }>();
const ui = useUi();
const lines = computed(() => layFlow(props.content, props.tempo));
const size = computed(() => sizeOf(lines.value));
/** px: as wide as it is drawn at most, and as high as is in sight at most */
const WIDEST = 1400;
const HIGHEST = 300;
const width = computed(() => Math.min(size.value.width, WIDEST));
const scale = computed(() => width.value / size.value.width);
const scrolled = ref(0);
const drawn = computed(() =>
  linesInSight(lines.value, { scrolled: scrolled.value, height: HIGHEST, scale: scale.value }),
);
const colourOf = (l: FlowLine) => ui.swatch(l.track.colour);
const cut = (text: string, most: number) => (text.length > most ? text.slice(0, most - 1) + '…' : text);
const fromText = (l: FlowLine) => (l.beads.length ? cut(l.from, 17) : l.from);
</script>

<template>
  <div
    class="shrink-0 overflow-auto rounded border border-rule bg-paper"
    :style="{ maxHeight: `${HIGHEST}px` }"
    tabindex="0"
    role="img"
    :aria-label="flowTold(lines)"
    @scroll.passive="scrolled = ($event.target as HTMLElement).scrollTop"
  >
    <svg
      :viewBox="`0 0 ${size.width} ${size.height}`"
      :width="width"
      :height="size.height * scale"
      class="block max-w-none"
      aria-hidden="true"
      font-size="11"
    >
      <g v-for="l in drawn" :key="l.track.id">
        <path
          v-for="s in l.sends"
          :key="s.y"
          :d="sendPath(l, s)"
          fill="none"
          :stroke="colourOf(l)"
          stroke-width="1.5"
          stroke-dasharray="4 3"
        />
        <path :d="threadOf(l)" :stroke="colourOf(l)" stroke-width="2.5" fill="none" />
        <g v-for="f in l.forks" :key="f.id">
          <path v-for="p in f.paths" :key="p" :d="p" fill="none" :stroke="colourOf(l)" stroke-width="2" />
          <text :x="f.x" :y="f.y" fill="currentColor" font-weight="600">
            {{ cut(f.name, 30) }}
            <title>{{ f.name }}</title>
          </text>
        </g>
        <template v-if="!piece">
          <text x="8" :y="l.y - 8" fill="currentColor" font-weight="600">
            {{ cut(l.track.name, 15) }}
            <title>{{ l.track.name }}</title>
          </text>
          <text v-if="l.from" x="8" :y="l.y + 14" fill="var(--soft)" font-size="10">
            {{ fromText(l) }}
            <title>{{ l.from }}</title>
          </text>
        </template>
        <g
          v-for="b in l.beads"
          :key="b.slot.id"
          :transform="`translate(${b.x} ${b.y})`"
          :color="b.slot.state === 'on' ? 'var(--ink)' : 'var(--soft)'"
        >
          <rect
            :width="TILE"
            height="42"
            rx="6"
            :fill="b.slot.state === 'inactive' ? 'var(--sunk)' : 'var(--sheet)'"
            :stroke="b.slot.state === 'on' ? 'var(--ink)' : 'var(--edge)'"
            stroke-width="1.3"
            :stroke-dasharray="b.slot.state === 'inactive' ? '4 3' : undefined"
          />
          <g transform="translate(5 4)">
            <path v-if="b.shape().fill" :d="b.shape().fill" fill="currentColor" opacity="0.14" />
            <path :d="b.shape().line" fill="none" stroke="currentColor" stroke-width="1.4" />
          </g>
          <text
            x="5"
            y="36"
            fill="currentColor"
            :text-decoration="b.slot.state === 'bypassed' ? 'line-through' : undefined"
          >
            {{ cut(b.slot.name, 13) }}
          </text>
          <title>{{ b.slot.name }}</title>
        </g>
        <path v-if="l.out.inside" :d="`M${l.end + 60} ${l.y - 5}l8 5l-8 5z`" :fill="colourOf(l)" />
        <circle
          v-else
          :cx="l.end + 65"
          :cy="l.y"
          r="4.5"
          fill="var(--sheet)"
          :stroke="colourOf(l)"
          stroke-width="2"
        />
        <text v-if="!piece" :x="l.end + WORDS_AT" :y="l.y + 4" fill="currentColor">{{ l.out.label }}</text>
        <g v-for="s in l.sends" :key="s.label">
          <path v-if="s.inside" :d="`M${l.end + 60} ${s.y - 4}l7 4l-7 4z`" :fill="colourOf(l)" />
          <circle
            v-else
            :cx="l.end + 65"
            :cy="s.y"
            r="4"
            :fill="s.spare ? colourOf(l) : 'var(--sheet)'"
            :stroke="colourOf(l)"
            stroke-width="1.5"
          />
          <text :x="l.end + WORDS_AT" :y="s.y + 4" fill="currentColor">
            {{ s.label }}
            <tspan fill="var(--soft)">{{ sendText(s).level }}</tspan>
          </text>
        </g>
      </g>
    </svg>
  </div>
</template>
