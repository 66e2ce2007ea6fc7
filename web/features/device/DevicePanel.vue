<script setup lang="ts">
/** The selected device: a head, and the panel that its type names. */
import { computed, type Component } from 'vue';
import { DEVICE_TYPES, type Device, type PanelKind, type Track } from '../../../core/index.ts';
import { KitPanel, PatternPanel, PlayerPanel } from '../kit/index.ts';
import EqPanel from './EqPanel.vue';
import ForeignPanel from './ForeignPanel.vue';
import PlainPanel from './PlainPanel.vue';
import SlotHeader from './SlotHeader.vue';

const PANELS: Record<PanelKind, Component> = {
  curve: EqPanel,
  drums: KitPanel,
  parts: PlayerPanel,
  steps: PatternPanel,
  foreign: ForeignPanel,
};

const props = defineProps<{ track: Track; device: Device }>();
const panel = computed(() => {
  const kind = DEVICE_TYPES[props.device.type].panel;
  return kind ? PANELS[kind] : PlainPanel;
});
</script>

<template>
  <section class="flex h-full min-h-0 flex-col" :aria-label="`${device.name} on ${track.name}`">
    <SlotHeader :key="device.id" :track="track" :slot-data="device" />
    <component :is="panel" :key="device.id" :track="track" :device="device" />
  </section>
</template>
