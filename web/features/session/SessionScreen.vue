<script setup lang="ts">
/** The main screen: lines, the shelf beside them, the selected device or line below. */
import { Cable, Package, Plus } from '@lucide/vue';
import { useVirtualizer } from '@tanstack/vue-virtual';
import { useResizeObserver } from '@vueuse/core';
import { computed, onBeforeUnmount, ref, watch } from 'vue';
import { useRouter } from 'vue-router';
import { ADDABLE, devicesIn, pathThrough, signalGraph, type Id } from '../../../core/index.ts';
import { useAudio, useOpened } from '../transport/index.ts';
import { useDrop, DropSheet, ReportSheet, SeveralSheet, startDrag } from '../drop/index.ts';
import { useDefaults } from '../defaults/index.ts';
import { useSession } from '../../document/doc.ts';
import { useUi } from '../../ui/window.ts';
import { ShelfPanel } from '../shelf/index.ts';
import PopMenu from '../../ui/PopMenu.vue';
import ConflictSheet from './ConflictSheet.vue';
import { ControllerPanel, useRackView } from '../rack/index.ts';
import { KeyLines, LineRow, addMenu, lineLayout, useLineView } from '../lines/index.ts';
import { dropped } from './dropped.ts';
import { listed } from './listed.ts';
import LowerPanel from './LowerPanel.vue';
import Transport from './Transport.vue';
import { useSheets } from '../../ui/sheets.ts';

const router = useRouter();
const session = useSession();
const audio = useAudio();
const drop = useDrop();
const ui = useUi();
const racks = useRackView();
const lines = useLineView();
const sheets = useSheets();
const { failed, load } = useOpened();
void useDefaults().load();
void drop.loadPieces();

const items = computed(() => listed(session.doc?.tracks ?? []));
const scroller = ref<HTMLElement | null>(null);
const width = ref(1000);
useResizeObserver(scroller, () => {
  if (scroller.value) width.value = scroller.value.clientWidth;
});
const heights = computed(() =>
  items.value.map((i) =>
    i.kind === 'head' ? 20 : lineLayout(i.track, width.value, i.depth, racks.isOpen).height,
  ),
);
const rows = useVirtualizer(
  computed(() => ({
    count: items.value.length,
    getScrollElement: () => scroller.value,
    estimateSize: (i: number) => heights.value[i] ?? 52,
    overscan: 6,
    getItemKey: (i: number) => items.value[i]?.key ?? i,
  })),
);
watch(
  () => heights.value.join(),
  () => rows.value.measure(),
);
/** Where a line stands in the list, drawn or not. */
const rowOf = (id: Id) => {
  let y = 0;
  for (const [i, item] of items.value.entries()) {
    const size = heights.value[i];
    if (item.kind === 'line' && item.track.id === id) return { start: y, size };
    y += size;
  }
  return null;
};
const hasKeys = computed(
  () => !!session.doc?.tracks.some((t) => devicesIn(t.chain).some((d) => d.key.kind === 'track')),
);

/** Hovering a line lights everything that feeds it and that it feeds. */
const hovered = ref<Id | null>(null);
const lit = computed(() => {
  if (!hovered.value || !session.doc) return null;
  const flows = signalGraph(session.doc).flows.filter(
    (f) => f.on && (f.kind === 'output' || f.kind === 'send'),
  );
  return pathThrough({ flows }, hovered.value).nodes;
});
let hoverTimer: ReturnType<typeof setTimeout> | undefined;
function hover(id: Id, on: boolean) {
  clearTimeout(hoverTimer);
  if (on) {
    hoverTimer = setTimeout(() => {
      hovered.value = id;
    }, 350);
  } else hovered.value = null;
}

/** A chosen line is saved with all that are chosen with it. */
function save(line: Id) {
  const together = session.together.length > 1 && session.chosen.includes(line);
  sheets.open('save', { lines: together ? session.together : [line] });
}

onBeforeUnmount(() => {
  // what is compared does not belong to this screen
  sheets.keepOnly(['compare', 'shortcuts']);
});
</script>

<template>
  <div class="flex min-h-0 flex-1">
    <div v-if="failed" class="m-auto max-w-md text-center">
      <p class="mb-3">{{ failed }}</p>
      <button type="button" class="btn btn-main" @click="router.push('/sessions')">To the sessions</button
      >{{ ' ' }}
      <button type="button" class="btn" @click="load">Try again</button>
    </div>
    <template v-else-if="session.doc">
      <ShelfPanel v-if="ui.shelfOpen" />
      <main class="flex min-w-0 flex-1 flex-col">
        <h1 class="sr-only">Session {{ session.doc.name }}</h1>
        <Transport />
        <div class="flex items-center gap-2 border-b border-rule px-2 py-1 text-note text-soft">
          <PopMenu label="Add a line" :items="addMenu" button-class="btn px-2 py-0.5 text-ink"
            ><Plus :size="14" aria-hidden="true" /> Add a line</PopMenu
          >
          <span class="flex min-w-0 flex-wrap items-center gap-1" aria-label="Devices to drag onto a line"
            ><span
              class="chip cursor-grab border-rope font-semibold text-ink"
              draggable="true"
              @dragstart="startDrag($event, { kind: 'new-device', type: 'rack' })"
              >Rack</span
            >
            <span
              v-for="d in ADDABLE.filter((x) => !x.instrument && !x.pattern)"
              :key="d.type"
              class="chip cursor-grab text-ink"
              draggable="true"
              @dragstart="startDrag($event, { kind: 'new-device', type: d.type })"
              >{{ d.label }}</span
            ></span
          >
          <span class="flex-1" />
          <label v-if="hasKeys" class="flex items-center gap-1 whitespace-nowrap"
            ><input v-model="lines.keyLines" type="checkbox" class="accent-[var(--rope)]" /> keys</label
          >
          <span class="whitespace-nowrap">{{ session.doc.tracks.length }} lines</span>
          <span v-if="audio.latency" class="whitespace-nowrap" title="From a sound to the master’s output"
            >latency {{ ((audio.latency / session.doc.sampleRate) * 1000).toFixed(1) }} ms</span
          >
        </div>
        <div
          ref="scroller"
          class="min-h-0 flex-1 overflow-y-auto overflow-x-hidden bg-paper"
          aria-label="Lines"
          role="region"
          tabindex="-1"
        >
          <div class="relative" :style="{ height: rows.getTotalSize() + 'px' }">
            <div
              v-for="v in rows.getVirtualItems()"
              :key="String(v.key)"
              class="absolute left-0 right-0"
              :style="{ transform: `translateY(${v.start}px)`, height: v.size + 'px' }"
            >
              <template v-for="item in [items[v.index]]" :key="item?.key">
                <div
                  v-if="item?.kind === 'head'"
                  class="flex h-5 items-center gap-2 px-2 text-fine text-soft"
                >
                  <span>{{ item.text }}</span><span class="h-px flex-1 bg-rule" />
                </div>
                <LineRow
                  v-else-if="item"
                  :track="item.track"
                  :depth="item.depth"
                  :width="width"
                  :lit="lit ? lit.has(item.track.id) : null"
                  @drop="dropped"
                  @save="save(item.track.id)"
                  @hover="(on: boolean) => hover(item.track.id, on)"
                  @menu="
                    session.select(item.track.id);
                    ui.paletteStart = 'onto ';
                    ui.palette = true;
                  "
                />
              </template>
            </div>
            <KeyLines
              v-if="lines.keyLines && hasKeys"
              :row-of="rowOf"
              :height="rows.getTotalSize()"
              :version="
                rows.getVirtualItems().length +
                heights.join() +
                width +
                (rows.getVirtualItems()[0]?.index ?? 0)
              "
            />
          </div>
          <div v-if="session.doc.tracks.length <= 1" class="mx-auto max-w-md p-8 text-center text-soft">
            <Cable class="mx-auto mb-2" :size="28" aria-hidden="true" />
            <p class="mb-3 text-ink">This session has no lines yet.</p>
            <p class="mb-3">
              Add a line and put a sound and devices on it, or drag a preset from the shelf to the master’s
              upper edge.
            </p>
            <button type="button" class="btn" @click="router.push('/session/kelp-and-copper')">
              <Package :size="14" aria-hidden="true" /> Look at the demo session
            </button>
          </div>
        </div>
        <LowerPanel />
      </main>
      <DropSheet />
      <ReportSheet />
      <SeveralSheet />
      <ControllerPanel v-if="racks.controller" />
      <ConflictSheet />
    </template>
    <p v-else class="m-auto text-soft">Opening the session …</p>
  </div>
</template>
