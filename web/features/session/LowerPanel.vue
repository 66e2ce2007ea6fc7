<script setup lang="ts">
/** Below the lines: what is selected, opened; its height is the person's. */
import { useWindowSize } from '@vueuse/core';
import { computed, ref } from 'vue';
import { useSession } from '../../document/doc.ts';
import { useSheets } from '../../ui/sheets.ts';
import { afterFirst } from '../../ui/first.ts';
import { useUi } from '../../ui/window.ts';
import { DevicePanel } from '../device/index.ts';
import { LinePanel, MultiPanel } from '../lines/index.ts';
import { RackPanel } from '../rack/index.ts';

const session = useSession();
const sheets = useSheets();
const ui = useUi();
// the lines keep the larger part of a low window
const { height: windowHeight } = useWindowSize();
const height = computed(() =>
  ui.isSmall ? ui.panelHeight : Math.min(ui.panelHeight, Math.max(170, 0.45 * windowHeight.value)),
);
const panel = computed(() => {
  if (session.many.length > 1) return 'many';
  if (session.device) return 'device';
  if (session.rack) return 'rack';
  if (session.track) return 'line';
  return null;
});
/** Curves and tables beside each other keep their width in a small window, and scroll; fields go under each other. */
const isPicture = computed(() => panel.value !== 'line');
/** Whose panel it is, for those who skip to it. */
const panelName = computed(() => {
  const name = session.slot?.name ?? session.track?.name;
  return panel.value === 'many' ? 'chosen lines' : `panel of ${name}`;
});
// its place is there at once, what stands in it after the lines
const isOpened = ref(false);
void afterFirst().then(() => {
  isOpened.value = true;
});
function resize(e: PointerEvent) {
  const el = e.currentTarget as HTMLElement;
  el.setPointerCapture(e.pointerId);
  el.onpointermove = (m) => {
    ui.panelHeight = Math.max(170, Math.min(window.innerHeight - 260, window.innerHeight - m.clientY));
  };
  el.onpointerup = () => {
    el.onpointermove = null;
  };
}
</script>

<template>
  <div
    v-if="panel"
    class="relative shrink-0 border-t border-edge bg-sheet small:overflow-x-auto"
    :class="{ 'small:[&>*:last-child]:min-w-[980px]': isPicture }"
    :data-panel="panelName"
    :style="{ height: height + 'px' }"
  >
    <div
      class="absolute -top-1 left-0 right-0 z-10 h-2 cursor-row-resize"
      role="separator"
      aria-orientation="horizontal"
      aria-label="Height of the lower panel"
      tabindex="0"
      :aria-valuenow="ui.panelHeight"
      aria-valuemin="170"
      aria-valuemax="600"
      @pointerdown="resize"
      @keydown.up.prevent="ui.panelHeight = Math.min(600, ui.panelHeight + 20)"
      @keydown.down.prevent="ui.panelHeight = Math.max(170, ui.panelHeight - 20)"
    />
    <template v-if="isOpened">
      <MultiPanel v-if="panel === 'many'" />
      <DevicePanel
        v-else-if="session.track && session.device"
        :track="session.track"
        :device="session.device"
      />
      <RackPanel v-else-if="session.track && session.rack" :track="session.track" :rack="session.rack" />
      <LinePanel
        v-else-if="session.track"
        :track="session.track"
        @save="sheets.open('save', { lines: [session.track!.id] })"
      />
    </template>
  </div>
</template>
