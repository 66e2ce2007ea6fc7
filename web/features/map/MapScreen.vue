<script setup lang="ts">
/**
 * The session as a graph: layers from sources to the speakers, folders as frames; hovering traces a path, a
 * click goes to the line.
 */
import { computed, nextTick, ref, watch } from 'vue';
import { useKeyModifier } from '@vueuse/core';
import { useRouter } from 'vue-router';
import { pathThrough, safeName, type Flow, type FlowNode, type Id } from '../../../core/index.ts';
import { useSession } from '../../document/doc.ts';
import { useUi } from '../../ui/window.ts';
import { useOpened } from '../transport/index.ts';
import { useCamera } from './camera.ts';
import { save } from '../../ui/save.ts';
import { pngOf, svgText } from './export.ts';
import FlowWire from './FlowWire.vue';
import { useFoldedGraph } from './fold.ts';
import { useLaid } from './laid.ts';
import MapBar from './MapBar.vue';
import MapNode from './MapNode.vue';
import { flowTold, nodeText, nodeTold, type Fault } from './words.ts';

const router = useRouter();
const session = useSession();
const ui = useUi();
const { failed } = useOpened();
const svg = ref<SVGSVGElement | null>(null);
const box = ref<HTMLElement | null>(null);
const { camera, fit, zoom, show, isInSight, hold, pan } = useCamera(box);
const { folders, folded, fold, full, shown, frames } = useFoldedGraph();
const { laid, busy } = useLaid(shown, frames, (was, now) => {
  if (was) hold(was, now);
  else void nextTick(() => fit(now));
});

const query = ref('');
const found = computed(() => {
  const words = query.value.trim().toLowerCase();
  const nodes = words ? (shown.value?.nodes ?? []) : [];
  return nodes.filter((n) => n.label.toLowerCase().includes(words)).map((n) => n.id);
});
let next = 0;
watch(query, () => {
  next = 0;
});
function findNext() {
  const id = found.value[next++ % found.value.length];
  const at = id && laid.value?.boxes.get(id);
  if (at) show(at);
}

const hovered = ref<Id | null>(null);
const path = computed(() => (hovered.value && shown.value ? pathThrough(shown.value, hovered.value) : null));
/** While Shift is held only the path is seen; otherwise it is lit, and the rest stays as it is. */
const onlyPath = useKeyModifier('Shift', { initial: false });
function isDim(id: Id): boolean {
  if (path.value) return onlyPath.value && !path.value.nodes.has(id);
  return found.value.length > 0 && !found.value.includes(id);
}
const isDimFlow = (f: Flow) =>
  path.value ? onlyPath.value && !path.value.flows.has(f.id) : found.value.length > 0;
/** Moving through the map by keyboard keeps what has the focus in sight. */
function focused(id: Id) {
  hovered.value = id;
  const at = laid.value?.boxes.get(id);
  if (at && !isInSight(at)) show(at);
}
function go(n: FlowNode) {
  if (!n.track) return;
  session.select(n.track.id);
  void router.push(`/session/${session.id}`);
}

const nameOf = (id: Id) => full.value?.nodes.find((n) => n.id === id)?.label ?? '?';
const linesIn = (folder: Id) => session.doc!.tracks.filter((t) => t.folder === folder).length;
const nodes = computed(() =>
  (shown.value?.nodes ?? []).flatMap((n) => {
    const at = laid.value?.boxes.get(n.id);
    if (!at) return [];
    const under = nodeText(n, folded.value, linesIn);
    return [{ n, at, under, told: nodeTold(n, under, shown.value!.flows, nameOf) }];
  }),
);
function faultOf(f: Flow): Fault {
  if (full.value?.loops.has(f.id)) return 'loop';
  return full.value?.doubles.has(f.id) ? 'double' : null;
}
/** Those that something is wrong with lie on top. */
const wires = computed(() => {
  const all = (shown.value?.flows ?? []).flatMap((f) => {
    const points = laid.value?.wires.get(f.id)?.points;
    const fault = faultOf(f);
    return points?.length ? [{ f, points, fault, told: flowTold(f, fault, nameOf) }] : [];
  });
  return all.sort((a, b) => Number(!!a.fault) - Number(!!b.fault));
});
const transform = computed(() => {
  const { x, y, k } = camera.value;
  return `translate(${x} ${y}) scale(${k})`;
});

async function download(kind: 'svg' | 'png') {
  if (!svg.value || !laid.value) return;
  try {
    const { width, height } = laid.value;
    const text = svgText(svg.value, width, height);
    const name = `${safeName(`${session.doc!.name}, signal map`)}.${kind}`;
    const drawing = () => new Blob([text], { type: 'image/svg+xml' });
    save(kind === 'svg' ? drawing() : await pngOf(text, width, height), name);
  } catch (e) {
    ui.fail(e);
  }
}
</script>

<template>
  <main class="flex min-h-0 flex-1 flex-col">
    <h1 class="sr-only">Signal map of {{ session.doc?.name }}</h1>
    <p v-if="failed" class="m-auto" role="alert">
      {{ failed }}
      <button type="button" class="btn ml-2" @click="router.push('/sessions')">To the sessions</button>
    </p>
    <template v-else-if="session.doc && full">
      <MapBar
        v-model:query="query"
        v-model:folded="folded"
        :found="found.length"
        :folders="folders"
        :graph="full"
        @next="findNext"
        @zoom="zoom"
        @fit="laid && fit(laid)"
        @fold="fold"
        @save="(kind) => void download(kind)"
      />
      <div
        ref="box"
        class="relative min-h-0 flex-1 cursor-grab touch-none overflow-hidden bg-paper"
        @pointerdown="pan"
      >
        <p v-if="busy && !laid" class="p-6 text-soft" role="status">Laying the map out …</p>
        <p v-if="session.doc.tracks.length <= 1" class="p-6 text-soft">
          There is nothing to trace yet: add lines to the session, or look at the map of “Kelp and Copper”.
        </p>
        <svg
          v-if="laid"
          ref="svg"
          class="absolute inset-0 h-full w-full"
          font-size="12"
          :aria-busy="busy"
          role="group"
          aria-label="Signal map"
        >
          <g data-camera :transform="transform">
            <g v-for="f in laid.frames" :key="f.id">
              <rect
                :x="f.x"
                :y="f.y"
                :width="f.w"
                :height="f.h"
                rx="8"
                fill="var(--sunk)"
                fill-opacity="0.55"
                stroke="var(--edge)"
                stroke-dasharray="6 4"
              />
              <text :x="f.x + 12" :y="f.y + 19" fill="var(--soft)" font-weight="600">{{ f.label }}</text>
            </g>
            <FlowWire
              v-for="w in wires"
              :key="w.f.id"
              :flow="w.f"
              :points="w.points"
              :fault="w.fault"
              :told="w.told"
              :dim="isDimFlow(w.f)"
              :lit="!!path?.flows.has(w.f.id)"
            />
            <MapNode
              v-for="{ n, at, under, told } in nodes"
              :key="n.id"
              :node="n"
              :box="at"
              :under="under"
              :told="told"
              :dim="isDim(n.id)"
              :lit="!!path?.nodes.has(n.id)"
              :found="found.includes(n.id)"
              :folded="folded.includes(n.id)"
              @hover="(on) => (hovered = on ? n.id : null)"
              @focused="focused(n.id)"
              @go="go(n)"
              @fold="fold(n.id)"
            />
          </g>
        </svg>
      </div>
    </template>
    <p v-else class="m-auto text-soft">Opening the session …</p>
  </main>
</template>
