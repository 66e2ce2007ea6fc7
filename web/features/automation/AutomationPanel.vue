<script setup lang="ts">
/**
 * The lanes of a line: which values move along the song, and the open one as a curve with points to set, drag
 * and type.
 */
import { Trash2 } from '@lucide/vue';
import { useResizeObserver } from '@vueuse/core';
import { computed, nextTick, ref, watch } from 'vue';
import {
  formatValue,
  fromPosition,
  laneTarget,
  laneTargets,
  laneValue,
  sessionLength,
  tidyPoints,
  toPosition,
  type Lane,
  type LanePoint,
  type LaneTarget,
  type ParamSpec,
  type Track,
  addLane,
  removeLane,
  onLane,
} from '../../../core/index.ts';
import { useAudio } from '../transport/index.ts';
import { useSession } from '../../document/doc.ts';
import { useUi } from '../../ui/window.ts';
import ValueField from '../../ui/ValueField.vue';

const props = defineProps<{ track: Track }>();
const session = useSession();
const audio = useAudio();
const ui = useUi();
const nameOf = (id: string) => session.doc!.tracks.find((t) => t.id === id)?.name ?? '?';
const lanes = computed(() => props.track.automation ?? []);
const targetOf = (l: Pick<Lane, 'of' | 'param'>): LaneTarget | null => laneTarget(props.track, l, nameOf);
const labelOf = (l: Lane) => targetOf(l)?.label ?? 'what is gone';
const lane = computed(() => lanes.value.find((l) => l.id === ui.lane) ?? lanes.value[0] ?? null);
const target = computed(() => lane.value && targetOf(lane.value));
const at = ref(0);
watch(
  () => lane.value?.id,
  () => {
    at.value = 0;
  },
);
const point = computed((): LanePoint | null => lane.value?.points[at.value] ?? null);
const isSwitch = computed(() => target.value?.spec.kind === 'switch');

/** What can still be given a lane, in groups as the line reads: itself, its sends, then its devices. */
const offered = computed(() => {
  const free = laneTargets(props.track, nameOf).filter(
    (x) => !lanes.value.some((l) => l.of === x.of && l.param === x.param),
  );
  const groups = new Map<string, { label: string; key: string; target: LaneTarget }[]>();
  for (const x of free) {
    const cut = x.label.lastIndexOf(' · ');
    const group = cut < 0 ? 'Line' : x.label.slice(0, cut);
    groups.set(group, [
      ...(groups.get(group) ?? []),
      { label: cut < 0 ? x.label : x.label.slice(cut + 3), key: `${x.of}/${x.param}`, target: x },
    ]);
  }
  return [...groups].map(([name, items]) => ({ name, items }));
});
function add(e: Event) {
  const el = e.target as HTMLSelectElement;
  const x = offered.value.flatMap((g) => g.items).find((i) => i.key === el.value);
  el.value = '';
  if (!x) return;
  const made = addLane(props.track.id, x.target);
  session.edit(`Automate ${x.target.label} of ${props.track.name}`, made.edit);
  ui.lane = made.id;
}
const take = (l: Lane) =>
  session.edit(`Remove a lane of ${props.track.name}`, removeLane(props.track.id, l.id));
const change = (label: string, l: Lane, over: Partial<Lane>, key?: string) =>
  session.edit(
    `${label} of ${props.track.name}`,
    onLane(props.track.id, l.id, over),
    key ? key + l.id : undefined,
  );
/** Puts points in and keeps hold of the one at hand. */
function put(points: LanePoint[], hold: LanePoint | null, sliding: boolean) {
  if (!lane.value || !target.value) return;
  const tidy = tidyPoints(target.value.spec, points);
  if (hold) {
    at.value = Math.max(
      0,
      tidy.findIndex((p) => Math.abs(p.at - hold.at) < 0.002),
    );
  }
  change(`Automation of ${target.value.label}`, lane.value, { points: tidy }, sliding ? 'lane' : undefined);
}
const others = () => lane.value!.points.filter((_p, i) => i !== at.value);
const move = (over: Partial<LanePoint>, sliding = false) => {
  if (point.value) {
    const p = { ...point.value, ...over };
    put([...others(), p], p, sliding);
  }
};
function setHold(on: boolean) {
  const { hold: _h, ...p } = point.value!;
  put([...others(), on ? { ...p, hold: true } : p], p, false);
}
function remove() {
  put(others(), null, false);
  at.value = Math.max(0, at.value - 1);
  void nextTick(() =>
    (box.value?.querySelectorAll<HTMLElement>('[data-point]')[at.value] ?? box.value)?.focus(),
  );
}

// the curve
const box = ref<HTMLElement | null>(null);
const size = ref({ w: 600, h: 120 });
useResizeObserver(box, () => {
  if (box.value) size.value = { w: box.value.clientWidth, h: box.value.clientHeight };
});
const span = computed(() =>
  Math.max(1, sessionLength(session.doc!), ...(lane.value?.points.map((p) => p.at) ?? [])),
);
const EDGE = 12;
const x = (s: number) => EDGE + (s / span.value) * (size.value.w - 2 * EDGE);
const share = (spec: ParamSpec, v: number) => (spec.kind === 'switch' ? v : toPosition(spec, v));
const y = (v: number) =>
  target.value ? size.value.h - EDGE - share(target.value.spec, v) * (size.value.h - 2 * EDGE) : 0;
const valueAt = (px: number) => {
  const p = Math.min(1, Math.max(0, (size.value.h - EDGE - px) / (size.value.h - 2 * EDGE)));
  return isSwitch.value ? Math.round(p) : fromPosition(target.value!.spec, p);
};
const timeAt = (px: number) =>
  Math.min(span.value, Math.max(0, ((px - EDGE) / (size.value.w - 2 * EDGE)) * span.value));
/**
 * Straight between points where the taper makes it straight: here every stretch is, since the height is the
 * taper's own.
 */
const path = computed(() => {
  const p = lane.value?.points ?? [];
  if (!p.length || !target.value) return '';
  let d = `M 0 ${y(p[0].value)} L ${x(p[0].at)} ${y(p[0].value)}`;
  for (let i = 1; i < p.length; i++) {
    d += `${p[i - 1].hold || isSwitch.value ? ` L ${x(p[i].at)} ${y(p[i - 1].value)}` : ''} L ${x(p[i].at)} ${y(p[i].value)}`;
  }
  return `${d} L ${size.value.w} ${y(p.at(-1)!.value)}`;
});
const bar = computed(() => (60 / session.doc!.tempo) * session.doc!.meter[0] * (4 / session.doc!.meter[1]));
const bars = computed(() => {
  const every = Math.max(1, 2 ** Math.ceil(Math.log2(span.value / bar.value / 16)));
  return Array.from({ length: Math.floor(span.value / bar.value / every) + 1 }, (_, i) => ({
    n: i * every + 1,
    at: i * every * bar.value,
  }));
});
const place = (s: number) => {
  const beats = (s / bar.value) * session.doc!.meter[0];
  return `${Math.floor(s / bar.value) + 1}.${Math.floor(beats % session.doc!.meter[0]) + 1}`;
};
const scale = computed(() =>
  (isSwitch.value ? [0, 1] : [0.1, 0.3, 0.5, 0.7, 0.9]).map((p) => ({
    y: size.value.h - EDGE - p * (size.value.h - 2 * EDGE),
    text: shown(isSwitch.value ? p : fromPosition(target.value!.spec, p)),
  })),
);
const now = computed(() =>
  lane.value && target.value ? laneValue(target.value.spec, lane.value.points, audio.seconds) : NaN,
);
const shown = (v: number) => formatValue(target.value!.spec, isSwitch.value ? v >= 0.5 : v);

/** A press on the empty curve sets a point there and takes hold of it. */
function press(e: PointerEvent, index: number) {
  if (e.button !== 0 || !target.value) return;
  e.preventDefault();
  const r = box.value!.getBoundingClientRect();
  if (index < 0) {
    const p = { at: timeAt(e.clientX - r.left), value: valueAt(e.clientY - r.top) };
    put([...lane.value!.points, p], { ...p, at: Math.round(p.at * 1000) / 1000 }, true);
  } else at.value = index;
  void nextTick(() => box.value?.querySelectorAll<HTMLElement>('[data-point]')[at.value]?.focus());
  const el = box.value!;
  el.setPointerCapture(e.pointerId);
  el.onpointermove = (m) => {
    const p = lane.value!.points;
    const low = at.value > 0 ? p[at.value - 1].at + 0.005 : 0;
    const high = at.value < p.length - 1 ? p[at.value + 1].at - 0.005 : span.value;
    move(
      {
        at: Math.round(Math.min(high, Math.max(low, timeAt(m.clientX - r.left))) * 1000) / 1000,
        value: valueAt(m.clientY - r.top),
      },
      true,
    );
  };
  el.onpointerup = el.onpointercancel = () => {
    el.onpointermove = null;
  };
}
function keys(e: KeyboardEvent, i: number) {
  const p = lane.value!.points[i];
  const fine = e.shiftKey ? 0.1 : 1;
  const spec = target.value!.spec;
  const step = (by: number) => {
    const v = fromPosition(spec, Math.min(1, Math.max(0, toPosition(spec, p.value) + by * 0.02 * fine)));
    const tidy = tidyPoints(spec, [{ at: 0, value: v }])[0].value;
    return tidy === p.value ? p.value + by * (spec.step ?? 0.01) : tidy;
  };
  const to: Record<string, () => void> = {
    ArrowLeft: () => move({ at: p.at - 0.1 * fine }, true),
    ArrowRight: () => move({ at: p.at + 0.1 * fine }, true),
    Delete: remove,
    Backspace: remove,
    ArrowUp: () => move({ value: isSwitch.value ? 1 : step(1) }, true),
    ArrowDown: () => move({ value: isSwitch.value ? 0 : step(-1) }, true),
  };
  if (!to[e.key]) return;
  e.preventDefault();
  // Delete and the arrows also mean the line itself
  e.stopPropagation();
  at.value = i;
  to[e.key]();
}
const TIME: ParamSpec = {
  id: 'at',
  label: 'At',
  group: '',
  kind: 'number',
  unit: 's',
  min: 0,
  max: 86400,
  default: 0,
  taper: 'linear',
  step: 0.01,
};
</script>

<template>
  <!-- Delete means the line elsewhere on the screen, never in here -->
  <div class="grid min-h-0 flex-1 grid-cols-[232px_minmax(0,1fr)] gap-3 p-3 text-[13px]" @keydown.delete.stop>
    <div class="flex min-h-0 flex-col gap-1">
      <select class="field h-[26px] shrink-0 py-0" aria-label="Add a lane" :value="''" @change="add">
        <option value="">Add a lane for …</option>
        <optgroup v-for="g in offered" :key="g.name" :label="g.name">
          <option v-for="i in g.items" :key="i.key" :value="i.key">{{ i.label }}</option>
        </optgroup>
      </select>
      <ul class="min-h-0 flex-1 overflow-auto" aria-label="Lanes">
        <li
          v-for="l in lanes"
          :key="l.id"
          class="flex items-center gap-1 border-b border-rule"
          :class="{ 'bg-rope-wash': l.id === lane?.id }"
        >
          <label
            class="grid h-6 w-6 shrink-0 place-items-center"
            :title="l.on ? 'Follows its lane; switch off to move it by hand' : 'Off: the value stands still'"
            ><input
              type="checkbox"
              class="accent-[var(--rope)]"
              :checked="l.on"
              :aria-label="`${labelOf(l)} follows its lane`"
              @change="change(l.on ? 'Lane off' : 'Lane on', l, { on: !l.on })"
          /></label>
          <button
            type="button"
            class="min-h-6 min-w-0 flex-1 truncate text-left"
            :class="{ 'text-soft': !l.on || !targetOf(l) }"
            :aria-pressed="l.id === lane?.id"
            :aria-label="`Open the lane of ${labelOf(l)}`"
            @click="ui.lane = l.id"
            @keydown.delete.prevent="take(l)"
          >
            {{ labelOf(l) }}
          </button>
          <button
            type="button"
            class="btn btn-plain min-h-6 px-1 py-0"
            :aria-label="`Remove the lane of ${labelOf(l)}`"
            @click="take(l)"
          >
            <Trash2 :size="13" aria-hidden="true" />
          </button>
        </li>
      </ul>
      <p v-if="!lanes.length" class="text-[12px] text-soft">
        Nothing moves yet. A lane begins with the value as it stands; points move it along the song.
      </p>
    </div>

    <div v-if="lane && target" class="flex min-h-0 min-w-0 flex-col gap-2">
      <div
        ref="box"
        class="relative min-h-[84px] flex-1 touch-none overflow-hidden rounded border border-rule bg-paper"
        :class="{ 'opacity-60': !lane.on }"
        role="group"
        :aria-label="`Curve of ${target.label}`"
        tabindex="-1"
        data-curve
        @pointerdown.self="press($event, -1)"
      >
        <svg class="pointer-events-none absolute inset-0 h-full w-full" aria-hidden="true">
          <g v-for="b in bars" :key="b.n">
            <line :x1="x(b.at)" :x2="x(b.at)" y1="0" :y2="size.h" stroke="var(--rule)" />
            <text :x="x(b.at) + 3" y="11" font-size="11" fill="var(--soft)">{{ b.n }}</text>
          </g>
          <g v-for="s in scale" :key="s.y">
            <line x1="0" :x2="size.w" :y1="s.y" :y2="s.y" stroke="var(--rule)" stroke-dasharray="2 4" />
            <text :x="size.w - 4" :y="s.y - 3" font-size="11" text-anchor="end" fill="var(--soft)">
              {{ s.text }}
            </text>
          </g>
          <path
            v-if="path"
            :d="`${path} L ${size.w} ${size.h} L 0 ${size.h} Z`"
            fill="var(--rope)"
            opacity="0.1"
          />
          <path v-if="path" :d="path" fill="none" stroke="var(--rope)" stroke-width="2" />
          <line
            :x1="x(audio.seconds)"
            :x2="x(audio.seconds)"
            y1="0"
            :y2="size.h"
            stroke="var(--ink)"
            stroke-width="1"
          />
        </svg>
        <button
          v-for="(p, i) in lane.points"
          :key="i"
          type="button"
          data-point
          class="absolute grid h-6 w-6 -translate-x-1/2 -translate-y-1/2 touch-none place-items-center rounded-full"
          :style="{ left: x(p.at) + 'px', top: y(p.value) + 'px' }"
          :aria-label="`Point ${i + 1} of ${target.label}: ${shown(p.value)} at ${p.at} s; arrow keys move it, Delete takes it away`"
          @pointerdown="press($event, i)"
          @focus="at = i"
          @keydown="keys($event, i)"
        >
          <span
            class="h-3 w-3 border-2"
            :class="[
              p.hold || isSwitch ? '' : 'rotate-45',
              i === at ? 'border-ink bg-rope' : 'border-rope bg-sheet',
            ]"
          />
        </button>
      </div>
      <div class="flex h-[30px] shrink-0 items-center gap-3 text-[12px]">
        <template v-if="point">
          <span class="whitespace-nowrap text-soft"
            >Point {{ at + 1 }} of {{ lane.points.length }}, bar {{ place(point.at) }}</span
          >
          <ValueField
            class="w-[150px]"
            compact
            :spec="{ ...TIME, max: Math.max(span, point.at) }"
            :value="point.at"
            name="Time of the point"
            @change="(v, s) => move({ at: v as number }, s)"
          />
          <ValueField
            v-if="!isSwitch"
            class="w-[170px]"
            compact
            :spec="target.spec"
            :value="point.value"
            name="Value of the point"
            @change="(v, s) => move({ value: v as number }, s)"
          />
          <label v-else class="flex items-center gap-1"
            ><input
              type="checkbox"
              class="accent-[var(--rope)]"
              :checked="point.value >= 0.5"
              @change="move({ value: point.value >= 0.5 ? 0 : 1 })"
            />
            {{ target.spec.label }} on</label
          >
          <label v-if="!isSwitch" class="flex items-center gap-1" title="The value stays until the next point"
            ><input
              type="checkbox"
              class="accent-[var(--rope)]"
              :checked="point.hold === true"
              @change="setHold(!point.hold)"
            />
            Hold</label
          >
          <button
            type="button"
            class="btn btn-plain min-h-6 px-1 py-0"
            aria-label="Take the point away"
            @click="remove"
          >
            <Trash2 :size="13" aria-hidden="true" />
          </button>
        </template>
        <span v-else class="text-soft"
          >No points: the value stands still. Press on the curve to set one.</span
        >
        <span class="flex-1" />
        <span class="whitespace-nowrap text-soft"
          >Now:
          <b class="text-ink" data-testid="lane-now">{{ Number.isNaN(now) ? '—' : shown(now) }}</b></span
        >
      </div>
    </div>
    <p v-else-if="lane" class="text-soft">
      What this lane moved is not on the line any more. It moves again when it comes back; otherwise remove
      the lane.
    </p>
    <p v-else class="text-soft">
      Level rides, a send that opens for one word, a filter that closes: choose a value on the left.
    </p>
  </div>
</template>
