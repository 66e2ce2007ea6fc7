<script setup lang="ts">
/**
 * A device on the line: its live picture, its name, its state (solid on, hollow bypassed, dashed inactive)
 * and gain reduction.
 */
import { computed, ref } from 'vue';
import { DEVICE_TYPES, type Slot } from '../../../core/index.ts';
import { useAudio } from '../transport/index.ts';
import { useSession } from '../../document/doc.ts';
import { useFrame } from '../../ui/frame.ts';
import { shapeOf, stateWord } from '../picture/index.ts';

const props = defineProps<{
  slotData: Slot;
  track: string;
  width: number;
  selected: boolean;
  small?: boolean;
}>();
const device = computed(() => props.slotData);
const high = computed(() => (props.small ? 15 : 22));
const session = useSession();
const audio = useAudio();
const named = computed(() => props.width >= 46);
const w = computed(() => props.width - 8);
const shape = computed(() =>
  shapeOf(props.slotData, w.value, high.value, session.doc!.sampleRate, session.doc!.tempo),
);
const bar = ref<HTMLElement | null>(null);
const reduces = computed(
  () => props.slotData.kind === 'device' && !!DEVICE_TYPES[props.slotData.type].reduces,
);
const compared = computed(
  () => audio.compare?.hearings[audio.compare.now].audition.bypass.includes(props.slotData.id) === true,
);
useFrame(() => {
  if (!bar.value) return;
  const r = audio.slots.get(props.slotData.id)?.reduction ?? 0;
  bar.value.style.transform = `scaleX(${Math.min(1, -r / 20).toFixed(3)})`;
});
</script>

<template>
  <button
    type="button"
    data-lets-go
    class="tile relative block shrink-0 overflow-hidden rounded-md px-[3px] text-left"
    :class="[device.state, { chosen: selected, compared, rack: device.kind === 'rack' }]"
    :style="{ width: width + 'px', height: (small ? 34 : 42) + 'px' }"
    :aria-label="`${device.kind === 'rack' ? 'Rack ' : ''}${device.name}, ${stateWord[device.state]}`"
    :aria-pressed="selected"
    :title="`${device.name} · ${stateWord[device.state]}`"
    draggable="true"
  >
    <svg :width="w" :height="high" :viewBox="`0 0 ${w} ${high}`" class="block" aria-hidden="true">
      <path v-if="shape.fill" :d="shape.fill" fill="currentColor" opacity="0.14" />
      <path :d="shape.line" fill="none" stroke="currentColor" stroke-width="1.5" stroke-linejoin="round" />
    </svg>
    <span v-if="reduces" class="absolute left-[3px] right-[3px] top-0 h-[3px]"
      ><span ref="bar" class="block h-full origin-right bg-warn" style="transform: scaleX(0)"
    /></span>
    <span
      v-if="named"
      class="block truncate"
      :class="
        small
          ? 'text-tiny leading-[12px]'
          : width < 60
            ? 'text-tiny leading-[14px]'
            : 'text-fine leading-[14px]'
      "
      >{{ device.name }}</span
    >
  </button>
</template>

<style scoped>
.tile {
  border: 1.5px solid var(--ink);
  background: var(--sheet);
  color: var(--ink);
}
.tile.rack {
  box-shadow:
    inset 0 0 0 2px var(--sheet),
    inset 0 0 0 3px var(--edge);
}
/* the tile is one target for the pointer, so that a drag over it is steady */
.tile > * {
  pointer-events: none;
}
.tile.bypassed {
  border-color: var(--edge);
  background: transparent;
  color: var(--soft);
}
.tile.bypassed span,
.tile.compared span {
  text-decoration: line-through;
  text-decoration-thickness: 1px;
}
.tile.inactive {
  border-style: dashed;
  border-color: var(--edge);
  background: var(--sunk);
  color: var(--soft);
}
.tile.compared {
  border-color: var(--warn);
}
.tile.chosen {
  box-shadow: 0 0 0 2px var(--rope);
}
</style>
