<script setup lang="ts">
/**
 * The session as a graph: layers from sources to the speakers, folders as frames; hovering traces a path, a
 * click goes to the line.
 */
import { ArrowLeft, Download, Maximize, Minus, Plus, Search } from '@lucide/vue';
import { computed, nextTick, onBeforeUnmount, ref, shallowRef, watch } from 'vue';
import { useRoute, useRouter } from 'vue-router';
import {
  formatDb,
  pathThrough,
  signalGraph,
  type Flow,
  type FlowNode,
  type Id,
  type SignalGraph,
} from '../../../core/index.ts';
import { useSession } from '../../document/doc.ts';
import { useUi } from '../../ui/window.ts';
import { useOpened } from '../transport/index.ts';
import PopMenu from '../../ui/PopMenu.vue';
import { pngOf, save, svgText } from './export.ts';
import { layOut, pathOf, type Laid } from './layout.ts';

const route = useRoute();
const router = useRouter();
const session = useSession();
const ui = useUi();
const { failed } = useOpened();

/** Above this many lines the map opens with its folders folded: first the whole, then what is asked for. */
const MANY = 60;
const folded = ref<Id[]>([]);
watch(
  () => session.id,
  () => {
    folded.value =
      (session.doc?.tracks.length ?? 0) > MANY
        ? session.doc!.tracks.filter((t) => t.role === 'folder').map((t) => t.id)
        : [];
  },
  { immediate: true },
);
const query = ref('');
const full = computed<SignalGraph | null>(() => (session.doc ? signalGraph(session.doc) : null));
/**
 * Folded folders stand for everything in them: their lines' flows are the folder's, flows inside are gone.
 */
const shown = computed(() => {
  const g = full.value;
  if (!g) return null;
  const tracks = session.doc!.tracks;
  const folderOf = new Map(tracks.map((t) => [t.id, t.folder]));
  const standIn = (id: Id): Id => {
    let out = id;
    for (let f = folderOf.get(id) ?? null, n = 0; f && n < 20; f = folderOf.get(f) ?? null, n++) {
      if (folded.value.includes(f)) out = f;
    }
    return out;
  };
  const seen = new Set<string>();
  const flows = g.flows.flatMap((f): Flow[] => {
    const [from, to] = [standIn(f.from), standIn(f.to)];
    const moved = from !== f.from || to !== f.to;
    const key = `${from}>${to}>${f.kind}`;
    if ((from === to && f.from !== f.to) || (moved && seen.has(key))) return [];
    if (moved) seen.add(key);
    return [{ ...f, from, to }];
  });
  return { nodes: g.nodes.filter((n) => standIn(n.id) === n.id), flows };
});
const frames = computed(() => {
  const out = new Map<Id, string>();
  for (const n of shown.value?.nodes ?? []) {
    if (n.track?.role === 'folder' && !folded.value.includes(n.id)) out.set(n.id, n.label);
  }
  return out;
});

const laid = shallowRef<Laid | null>(null);
const busy = ref(false);
// the picture is laid out anew only when what is connected changes, not when a knob is turned
const shape = computed(() =>
  shown.value
    ? JSON.stringify([
        shown.value.nodes.map((n) => [n.id, n.folder]),
        shown.value.flows.map((f) => [f.id, f.from, f.to]),
        [...frames.value.keys()],
      ])
    : '',
);
let run = 0;
watch(
  shape,
  async (s) => {
    if (!s || !shown.value) return;
    const mine = ++run;
    const first = !laid.value;
    busy.value = true;
    try {
      const next = await layOut(shown.value.nodes, shown.value.flows, frames.value);
      if (mine !== run) return;
      const was = laid.value;
      laid.value = next;
      if (first || !was) {
        await nextTick();
        fit();
      } else hold(was, next);
    } catch (e) {
      ui.fail(e);
    } finally {
      if (mine === run) busy.value = false;
    }
  },
  { immediate: true },
);

/**
 * After a new layout most of what was there stays where it was on the screen: the view follows the middle one
 * of all shifts.
 */
function hold(was: Laid, now: Laid) {
  const both = [...now.boxes.values()].flatMap((b) => {
    const a = was.boxes.get(b.id);
    return a ? [[b.x - a.x, b.y - a.y]] : [];
  });
  if (!both.length) return;
  const middle = (i: number) => both.map((d) => d[i]).sort((x, y) => x - y)[both.length >> 1];
  const c = camera.value;
  camera.value = { ...c, x: c.x - middle(0) * c.k, y: c.y - middle(1) * c.k };
}

const hovered = ref<Id | null>(null);
const path = computed(() => (hovered.value && shown.value ? pathThrough(shown.value, hovered.value) : null));
const found = computed(() => {
  const q = query.value.trim().toLowerCase();
  return q && shown.value
    ? shown.value.nodes.filter((n) => n.label.toLowerCase().includes(q)).map((n) => n.id)
    : [];
});
const dim = (id: Id) =>
  path.value ? !path.value.nodes.has(id) : found.value.length > 0 && !found.value.includes(id);
const dimFlow = (f: Flow) => (path.value ? !path.value.flows.has(f.id) : found.value.length > 0);

const svg = ref<SVGSVGElement | null>(null);
const box = ref<HTMLElement | null>(null);
const camera = ref({ x: 0, y: 0, k: 1 });
const LEAST = 0.04;
const MOST = 3;
function fit() {
  const l = laid.value;
  const b = box.value;
  if (!l || !b) return;
  const k = Math.max(LEAST, Math.min(1.25, (b.clientWidth - 20) / l.width, (b.clientHeight - 20) / l.height));
  camera.value = {
    k,
    x: Math.max(10, (b.clientWidth - l.width * k) / 2),
    y: Math.max(10, (b.clientHeight - l.height * k) / 2),
  };
}
function zoom(by: number, cx = (box.value?.clientWidth ?? 0) / 2, cy = (box.value?.clientHeight ?? 0) / 2) {
  const c = camera.value;
  const k = Math.max(LEAST, Math.min(MOST, c.k * by));
  camera.value = { k, x: cx - ((cx - c.x) * k) / c.k, y: cy - ((cy - c.y) * k) / c.k };
}
function wheel(e: WheelEvent) {
  const r = box.value!.getBoundingClientRect();
  zoom(Math.pow(1.0015, -e.deltaY), e.clientX - r.left, e.clientY - r.top);
}
function pan(e: PointerEvent) {
  if (e.target instanceof Element && e.target.closest('[data-node]')) return;
  const el = e.currentTarget as HTMLElement;
  const start = { ...camera.value, px: e.clientX, py: e.clientY };
  el.setPointerCapture(e.pointerId);
  el.onpointermove = (m) => {
    camera.value = { ...camera.value, x: start.x + m.clientX - start.px, y: start.y + m.clientY - start.py };
  };
  el.onpointerup = el.onpointercancel = () => {
    el.onpointermove = null;
  };
}
/** Brings a node into the middle, near enough to be read. */
function show(id: Id) {
  const n = laid.value?.boxes.get(id);
  const b = box.value;
  if (!n || !b) return;
  const k = Math.max(0.9, camera.value.k);
  camera.value = {
    k,
    x: b.clientWidth / 2 - (n.x + n.w / 2) * k,
    y: b.clientHeight / 2 - (n.y + n.h / 2) * k,
  };
}
let next = 0;
function findNext() {
  if (found.value.length) {
    show(found.value[next % found.value.length]);
    next++;
  }
}
watch(query, () => {
  next = 0;
});
/** Moving through the map by keyboard keeps what has the focus in sight. */
function focused(id: Id) {
  hovered.value = id;
  const n = laid.value?.boxes.get(id);
  const b = box.value;
  const c = camera.value;
  if (
    n &&
    b &&
    (n.x * c.k + c.x < 0 ||
      (n.x + n.w) * c.k + c.x > b.clientWidth ||
      n.y * c.k + c.y < 0 ||
      (n.y + n.h) * c.k + c.y > b.clientHeight)
  ) {
    show(id);
  }
}

function go(n: FlowNode) {
  if (!n.track) return;
  session.select(n.track.id);
  void router.push(`/session/${route.params.id as string}`);
}
const fold = (id: Id) => {
  folded.value = folded.value.includes(id) ? folded.value.filter((x) => x !== id) : [...folded.value, id];
};
const folders = computed(() => session.doc?.tracks.filter((t) => t.role === 'folder') ?? []);
const short = (s: string, n: number) => (s.length > n ? s.slice(0, n - 1) + '…' : s);
const sub = (n: FlowNode) => {
  if (!n.track) return n.kind;
  if (n.track.role === 'folder' && folded.value.includes(n.id)) {
    return `folder of ${session.doc!.tracks.filter((t) => t.folder === n.id).length}`;
  }
  const { role, mute, state, chain } = n.track;
  const muted = mute ? ', muted' : '';
  const inactive = state === 'inactive' ? ', inactive' : '';
  const devices = chain.length === 1 ? '1 device' : `${chain.length} devices`;
  return `${role}${muted}${inactive}${chain.length ? ` · ${devices}` : ''}`;
};
const nameOf = (id: Id) => full.value?.nodes.find((n) => n.id === id)?.label ?? '?';
const WORDS = { output: 'out to', send: 'sends to', key: 'is the key of', input: 'goes into', midi: 'plays' };
const told = (n: FlowNode) => {
  const fs = shown.value?.flows.filter((f) => f.from === n.id) ?? [];
  return `${n.label} ${sub(n)}${fs.length ? '; ' + fs.map((f) => `${WORDS[f.kind]} ${nameOf(f.to)}`).join(', ') : ''}`;
};
const MARKS = { loop: ': part of a loop', double: ': one of two ways to the same place' };
/** A connection in words: from where to where, how loud, and what is wrong with it. */
function title(f: Flow): string {
  const mark = marked(f);
  return [
    `${nameOf(f.from)} ${WORDS[f.kind]} ${nameOf(f.to)}`,
    f.level === undefined ? '' : `, ${formatDb(f.level)}`,
    f.detail ? `, ${f.detail}` : '',
    f.tap ? `, ${f.tap}-fader` : '',
    f.live ? '' : ' (carries nothing now)',
    mark ? MARKS[mark] : '',
  ].join('');
}
const dash = { output: undefined, send: '7 4', key: '1.5 4', input: undefined, midi: '10 3 2 3' };
const marked = (f: Flow) => {
  if (full.value?.loops.has(f.id)) return 'loop';
  if (full.value?.doubles.has(f.id)) return 'double';
  return null;
};
const sorted = computed(() =>
  [...(shown.value?.flows ?? [])].sort((a, b) => Number(!!marked(a)) - Number(!!marked(b))),
);
const counts = computed(() => ({
  loops: full.value?.loops.size ?? 0,
  doubles: full.value?.doubles.size ?? 0,
}));

async function download(kind: 'svg' | 'png') {
  if (!svg.value || !laid.value) return;
  try {
    const { width, height } = laid.value;
    const text = svgText(svg.value, width, height);
    const name = `${session.doc!.name}, signal map.${kind}`.replace(/[\\/:*?"<>|]/g, '-');
    save(
      kind === 'svg' ? new Blob([text], { type: 'image/svg+xml' }) : await pngOf(text, width, height),
      name,
    );
  } catch (e) {
    ui.fail(e);
  }
}
const stopWheel = (e: WheelEvent) => {
  e.preventDefault();
  wheel(e);
};
watch(box, (el, old) => {
  old?.removeEventListener('wheel', stopWheel);
  el?.addEventListener('wheel', stopWheel, { passive: false });
});
onBeforeUnmount(() => box.value?.removeEventListener('wheel', stopWheel));
</script>

<template>
  <main class="flex min-h-0 flex-1 flex-col">
    <h1 class="sr-only">Signal map of {{ session.doc?.name }}</h1>
    <p v-if="failed" class="m-auto" role="alert">
      {{ failed }}
      <button type="button" class="btn ml-2" @click="router.push('/sessions')">To the sessions</button>
    </p>
    <template v-else-if="session.doc">
      <div class="flex flex-wrap items-center gap-2 border-b border-rule px-2 py-1.5 text-[13px]">
        <button type="button" class="btn px-2 py-0.5" @click="router.push(`/session/${route.params.id}`)">
          <ArrowLeft :size="14" aria-hidden="true" /> Lines
        </button>
        <label class="relative"
          ><Search :size="14" class="absolute left-2 top-2 text-soft" aria-hidden="true" /><input
            v-model="query"
            type="search"
            class="field w-[200px] pl-7"
            placeholder="Find on the map"
            aria-label="Find on the map"
            @keydown.enter="findNext"
        /></label>
        <span v-if="query" class="text-soft" role="status"
          >{{ found.length }} found{{ found.length ? '; Enter goes to each' : '' }}</span
        >
        <PopMenu
          v-if="folders.length"
          label="Folders"
          :items="
            () => [
              {
                label: 'Open all',
                run: () => {
                  folded = [];
                },
              },
              {
                label: 'Fold all',
                run: () => {
                  folded = folders.map((t) => t.id);
                },
              },
              { heading: ' ' },
              ...folders.map((t) => ({
                label: t.name,
                checked: !folded.includes(t.id),
                run: () => fold(t.id),
              })),
            ]
          "
          button-class="btn px-2 py-0.5"
          >Folders</PopMenu
        >
        <span class="flex-1" />
        <span v-if="counts.loops" class="chip border-bad text-bad"
          >⟳ {{ counts.loops }} {{ counts.loops === 1 ? 'flow' : 'flows' }} in a loop</span
        >
        <span
          v-if="counts.doubles"
          class="chip border-warn text-warn"
          title="A track reaches the same bus or the master by two dry ways: it may sound twice"
          >⇉ {{ counts.doubles }} on double paths</span
        >
        <span class="flex items-center gap-3 text-[12px] text-soft" aria-label="Kinds of connection">
          <span
            v-for="k in ['output', 'send', 'key', 'input', 'midi'] as const"
            :key="k"
            class="flex items-center gap-1"
            ><svg width="34" height="10" aria-hidden="true">
              <path
                d="M1 5H26"
                fill="none"
                stroke="currentColor"
                :stroke-width="k === 'output' ? 2.5 : k === 'input' ? 1 : 1.6"
                :stroke-dasharray="dash[k]"
                stroke-linecap="round"
              />
              <path v-if="k === 'input'" d="M1 8H26" stroke="currentColor" stroke-width="1" />
              <path v-if="k === 'key'" d="M28 5l3 -3l3 3l-3 3z" fill="currentColor" />
              <circle
                v-else-if="k === 'send'"
                cx="30"
                cy="5"
                r="3"
                fill="none"
                stroke="currentColor"
                stroke-width="1.5"
              />
              <rect v-else-if="k === 'midi'" x="27" y="2" width="6" height="6" fill="currentColor" />
              <path v-else d="M27 1l6 4l-6 4z" fill="currentColor" /></svg
            >{{ k === 'midi' ? 'MIDI' : k }}</span
          ></span
        >
        <button type="button" class="btn btn-plain px-1" aria-label="Smaller" @click="zoom(1 / 1.25)">
          <Minus :size="15" aria-hidden="true" />
        </button>
        <button type="button" class="btn btn-plain px-1" aria-label="Larger" @click="zoom(1.25)">
          <Plus :size="15" aria-hidden="true" />
        </button>
        <button
          type="button"
          class="btn btn-plain px-1"
          aria-label="All of it"
          title="All of it"
          @click="fit"
        >
          <Maximize :size="15" aria-hidden="true" />
        </button>
        <PopMenu
          label="Save the map"
          :items="
            () => [
              { label: 'As a picture (PNG)', run: () => void download('png') },
              { label: 'As a drawing (SVG)', run: () => void download('svg') },
            ]
          "
          button-class="btn px-2 py-0.5"
          ><Download :size="14" aria-hidden="true" /> Save the map</PopMenu
        >
      </div>
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
          <g data-camera :transform="`translate(${camera.x} ${camera.y}) scale(${camera.k})`">
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
            <g
              v-for="f in sorted"
              :key="f.id"
              :opacity="dimFlow(f) ? 0.13 : f.live ? 1 : 0.4"
              :data-flow="f.kind"
            >
              <template v-if="laid.wires.get(f.id)">
                <title>{{ title(f) }}</title>
                <path
                  :d="pathOf(laid.wires.get(f.id)!.points)"
                  fill="none"
                  stroke="transparent"
                  stroke-width="9"
                />
                <path
                  :d="pathOf(laid.wires.get(f.id)!.points)"
                  fill="none"
                  :stroke="
                    marked(f) === 'loop'
                      ? 'var(--bad)'
                      : marked(f) === 'double'
                        ? 'var(--warn)'
                        : f.kind === 'key'
                          ? 'var(--rope)'
                          : 'var(--ink)'
                  "
                  :stroke-width="
                    (f.kind === 'output' ? 2 : f.kind === 'input' ? 3.4 : 1.5) + (marked(f) ? 2 : 0)
                  "
                  :stroke-dasharray="dash[f.kind]"
                  stroke-linecap="round"
                />
                <path
                  v-if="f.kind === 'input'"
                  :d="pathOf(laid.wires.get(f.id)!.points)"
                  fill="none"
                  stroke="var(--paper)"
                  stroke-width="1.4"
                />
                <g
                  v-for="p in [laid.wires.get(f.id)!.points.at(-1)!]"
                  :key="p.join()"
                  :transform="`translate(${p[0]} ${p[1]})`"
                >
                  <path v-if="f.kind === 'key'" d="M-8 0l4 -4l4 4l-4 4z" fill="var(--rope)" />
                  <circle
                    v-else-if="f.kind === 'send'"
                    cx="-4"
                    r="3.4"
                    fill="var(--paper)"
                    stroke="var(--ink)"
                    stroke-width="1.5"
                  />
                  <rect v-else-if="f.kind === 'midi'" x="-7" y="-3" width="6" height="6" fill="var(--ink)" />
                  <path v-else d="M-7 -4.5l7 4.5l-7 4.5z" fill="var(--ink)" />
                </g>
                <g
                  v-if="marked(f)"
                  :transform="`translate(${laid.wires.get(f.id)!.points[0][0] + 12} ${laid.wires.get(f.id)!.points[0][1] - 4})`"
                >
                  <text :fill="marked(f) === 'loop' ? 'var(--bad)' : 'var(--warn)'" font-weight="700">
                    {{ marked(f) === 'loop' ? '⟳' : '⇉' }}
                  </text>
                </g>
              </template>
            </g>
            <template v-for="n in shown!.nodes" :key="n.id">
              <g
                v-if="laid.boxes.get(n.id)"
                data-node
                :transform="`translate(${laid.boxes.get(n.id)!.x} ${laid.boxes.get(n.id)!.y})`"
                :opacity="dim(n.id) ? 0.25 : 1"
                :class="n.track ? 'cursor-pointer' : ''"
                :tabindex="n.track ? 0 : undefined"
                :role="n.track ? 'button' : 'img'"
                :aria-label="told(n)"
                @mouseenter="hovered = n.id"
                @mouseleave="hovered = null"
                @focus="focused(n.id)"
                @blur="hovered = null"
                @click="go(n)"
                @keydown.enter="go(n)"
              >
                <rect
                  :width="laid.boxes.get(n.id)!.w"
                  :height="laid.boxes.get(n.id)!.h"
                  :rx="n.track ? 6 : 20"
                  :fill="n.track?.state === 'inactive' ? 'var(--sunk)' : 'var(--sheet)'"
                  :stroke="found.includes(n.id) ? 'var(--rope)' : 'var(--edge)'"
                  :stroke-width="found.includes(n.id) ? 3 : 1.2"
                  :stroke-dasharray="n.track?.state === 'inactive' ? '4 3' : undefined"
                />
                <rect
                  v-if="n.track"
                  width="6"
                  :height="laid.boxes.get(n.id)!.h"
                  rx="3"
                  :fill="ui.swatch(n.track.colour)"
                />
                <text x="14" y="17" fill="var(--ink)" font-weight="600">{{ short(n.label, 19) + ' ' }}</text>
                <text x="14" y="32" fill="var(--soft)" font-size="11">{{ short(sub(n), 24) }}</text>
                <g
                  v-if="n.track?.role === 'folder'"
                  class="cursor-pointer"
                  tabindex="0"
                  role="button"
                  :aria-label="`${folded.includes(n.id) ? 'Open' : 'Fold'} ${n.label}`"
                  @click.stop="fold(n.id)"
                  @keydown.enter.stop="fold(n.id)"
                >
                  <rect
                    x="122"
                    y="7"
                    width="26"
                    height="26"
                    rx="4"
                    fill="var(--paper)"
                    stroke="var(--rule)"
                  />
                  <text x="135" y="25" text-anchor="middle" fill="var(--ink)">
                    {{ folded.includes(n.id) ? '+' : '−' }}
                  </text>
                </g>
              </g>
            </template>
          </g>
        </svg>
      </div>
    </template>
    <p v-else class="m-auto text-soft">Opening the session …</p>
  </main>
</template>
