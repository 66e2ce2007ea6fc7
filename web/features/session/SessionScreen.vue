<script setup lang="ts">
/** The main screen: lines, the shelf beside them, the selected device or line below. */
import { Cable, Package } from '@lucide/vue';
import { computed, onBeforeUnmount, ref } from 'vue';
import { useRouter } from 'vue-router';
import { devicesIn, pathThrough, signalGraph, type Id } from '../../../core/index.ts';
import { useOpened } from '../transport/index.ts';
import { useDrop, DragWords, DropSheet, ReportSheet, SeveralSheet } from '../drop/index.ts';
import { useDefaults } from '../defaults/index.ts';
import { useSession } from '../../document/doc.ts';
import { afterFirst } from '../../ui/first.ts';
import { useUi } from '../../ui/window.ts';
import { ShelfPanel } from '../shelf/index.ts';
import ConflictSheet from './ConflictSheet.vue';
import { ControllerPanel, useRackView } from '../rack/index.ts';
import {
  HeadingRow,
  KeyLines,
  LineRow,
  LineSketch,
  inHandWith,
  saveLines,
  useLineView,
} from '../lines/index.ts';
import { dropped, droppedOnEmpty, overEmpty } from './dropped.ts';
import LinesBar from './LinesBar.vue';
import LowerPanel from './LowerPanel.vue';
import Transport from './Transport.vue';
import { useRows } from './rows.ts';
import { useSheets } from '../../ui/sheets.ts';

const router = useRouter();
const session = useSession();
const drop = useDrop();
const ui = useUi();
const racks = useRackView();
const lines = useLineView();
const sheets = useSheets();
const { failed, load } = useOpened();
// after the lines; who adds a line or opens a menu before asks by that
void afterFirst().then(() => Promise.all([useDefaults().load(), drop.loadPieces()]));

const { width, least, items, heights, rows, rowOf, isSketch } = useRows();
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

onBeforeUnmount(() => {
  // what is compared does not belong to this screen
  sheets.keepOnly(['compare', 'shortcuts']);
});
</script>

<template>
  <div class="flex min-h-0 flex-1 small:flex-col">
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
        <Transport data-panel="transport" />
        <LinesBar :has-keys="hasKeys" />
        <div
          ref="scroller"
          class="min-h-0 flex-1 overflow-y-auto overflow-x-hidden bg-paper small:h-[320px] small:flex-none small:overflow-x-auto"
          aria-label="Lines"
          data-panel="lines"
          role="region"
          tabindex="-1"
          @dragover="overEmpty"
          @drop="droppedOnEmpty"
        >
          <div class="relative" :style="{ height: rows.getTotalSize() + 'px', minWidth: least + 'px' }">
            <div
              v-for="v in rows.getVirtualItems()"
              :key="String(v.key)"
              data-row
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
                <HeadingRow
                  v-else-if="item?.kind === 'heading'"
                  :heading="item.heading"
                  :count="item.count"
                />
                <LineSketch
                  v-else-if="item && isSketch(String(v.key))"
                  :track="item.track"
                  :depth="item.depth"
                />
                <LineRow
                  v-else-if="item"
                  :track="item.track"
                  :depth="item.depth"
                  :count="item.count"
                  :width="width"
                  :lit="!!lit?.has(item.track.id)"
                  @drop="dropped"
                  @save="saveLines(inHandWith(item.track))"
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
      <DragWords />
      <DropSheet />
      <ReportSheet />
      <SeveralSheet />
      <ControllerPanel v-if="racks.controller" />
      <ConflictSheet />
    </template>
    <p v-else class="m-auto text-soft">Opening the session …</p>
  </div>
</template>
