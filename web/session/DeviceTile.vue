<script setup lang="ts">
/** A device on the line: its live picture, its name, its state (solid on, hollow bypassed, dashed inactive) and gain reduction. */
import { computed, ref } from 'vue';
import type { Device } from '../../core/index.ts';
import { useAudio } from '../stores/audio.ts';
import { useSession } from '../stores/session.ts';
import { useFrame } from '../ui/frame.ts';
import { shapeOf, stateWord } from './shapes.ts';

const props = defineProps<{ device: Device; track: string; width: number; selected: boolean }>();
const session = useSession();
const audio = useAudio();
const named = computed(() => props.width >= 46);
const w = computed(() => props.width - 8);
const shape = computed(() => shapeOf(props.device, w.value, 22, session.doc!.sampleRate, session.doc!.tempo));
const bar = ref<HTMLElement | null>(null);
const compared = computed(() => audio.compare?.without === true && audio.compare.bypass.includes(props.device.id));
useFrame(() => {
  if (!bar.value) return;
  const r = audio.slots.get(props.device.id)?.reduction ?? 0;
  bar.value.style.transform = `scaleX(${Math.min(1, -r / 20).toFixed(3)})`;
});
</script>

<template>
  <button
    type="button" class="tile relative block shrink-0 overflow-hidden rounded-md px-[3px] text-left" :class="[device.state, { chosen: selected, compared }]" :style="{ width: width + 'px' }"
    :aria-label="`${device.name}, ${stateWord[device.state]}`" :aria-pressed="selected" :title="`${device.name} · ${stateWord[device.state]}`" draggable="true"
  >
    <svg :width="w" height="22" :viewBox="`0 0 ${w} 22`" class="block" aria-hidden="true">
      <path v-if="shape.fill" :d="shape.fill" fill="currentColor" opacity="0.14" />
      <path :d="shape.line" fill="none" stroke="currentColor" stroke-width="1.5" stroke-linejoin="round" />
    </svg>
    <span v-if="device.type === 'compressor'" class="absolute left-[3px] right-[3px] top-0 h-[3px]"><span ref="bar" class="block h-full origin-right bg-warn" style="transform: scaleX(0)" /></span>
    <span v-if="named" class="block truncate leading-[14px]" :class="width < 60 ? 'text-[10px]' : 'text-[11px]'">{{ device.name }}</span>
  </button>
</template>

<style scoped>
.tile { border: 1.5px solid var(--ink); background: var(--sheet); color: var(--ink); height: 42px; }
/* the tile is one target for the pointer, so that a drag over it is steady */
.tile > * { pointer-events: none; }
.tile.bypassed { border-color: var(--edge); background: transparent; color: var(--soft); }
.tile.bypassed span, .tile.compared span { text-decoration: line-through; text-decoration-thickness: 1px; }
.tile.inactive { border-style: dashed; border-color: var(--edge); background: var(--sunk); color: var(--soft); }
.tile.compared { border-color: var(--warn); }
.tile.chosen { box-shadow: 0 0 0 2px var(--rope); }
</style>
