<script setup lang="ts">
/** What is in a preset, line by line and device by device, with every value that says something. */
import {
  DEVICE_TYPES,
  formatDb,
  formatPan,
  laneTarget,
  racksAround,
  walkSlots,
  type PresetContent,
  type Slot,
  type Track,
} from '../../../core/index.ts';
import { figuresOf } from './figures.ts';

const props = defineProps<{ content: PresetContent; piece: boolean }>();
const endName = (id: string) =>
  props.content.looseEnds.find((e) => e.id === id)?.label ??
  props.content.tracks.find((t) => t.id === id)?.name ??
  '?';
const lanesOf = (t: Track) =>
  t.automation!.map((lane) => laneTarget(t, lane, endName)?.label ?? '?').join(', ');
function lineText(t: Track): string {
  if (props.content.spares.includes(t)) return `${t.role}, travels along`;
  const width = t.channels === 1 ? 'mono' : 'stereo';
  return `${width}, level ${formatDb(t.level)}, pan ${formatPan(t.pan)}`;
}
function slotText(slot: Slot): string {
  const type = slot.kind === 'rack' ? 'Rack' : DEVICE_TYPES[slot.type].label;
  return slot.state === 'on' ? type : `${type}, ${slot.state}`;
}
const indent = (t: Track, slot: Slot) => `${racksAround(t.chain, slot.id).length * 14}px`;
</script>

<template>
  <section v-for="t in [...content.tracks, ...content.spares]" :key="t.id" class="mb-2" :aria-label="t.name">
    <h2 v-if="!piece" class="font-semibold">
      {{ t.name }}
      <span class="font-normal text-soft">{{ lineText(t) }}</span>
    </h2>
    <p v-if="t.automation?.length" class="text-body text-soft">Moves along the song: {{ lanesOf(t) }}</p>
    <div
      v-for="slot in walkSlots(t.chain)"
      :key="slot.id"
      class="border-t border-rule py-1"
      :style="{ paddingLeft: indent(t, slot) }"
    >
      <span class="font-semibold">{{ slot.name }}</span>{{ ' ' }}
      <span class="text-soft">{{ slotText(slot) }}</span>
      <span
        v-for="figure in figuresOf(slot)"
        :key="figure.id"
        class="ml-3 inline-block whitespace-nowrap text-note"
        ><span class="text-soft">{{ figure.label }}</span> {{ figure.text }}</span
      >
    </div>
  </section>
</template>
