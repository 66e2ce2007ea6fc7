<script setup lang="ts">
/**
 * One track as a line read left to right: name, input, devices, sends, level and pan with a meter, output.
 */
import { ArrowRight, ChartSpline, ChevronRight, Ellipsis, GripVertical } from '@lucide/vue';
import { computed, nextTick, ref } from 'vue';
import {
  COLOURS,
  DEVICE_TYPES,
  addressText,
  automated,
  colourOf,
  formatDb,
  formatPan,
  listenersIn,
  sameAddress,
  type Id,
  type Take,
  type Track,
  destinations,
  onTrack,
} from '../../../core/index.ts';
import { useAudio, Meter } from '../transport/index.ts';
import { useCheck } from '../check/index.ts';
import { useSession } from '../../document/doc.ts';
import { useUi } from '../../ui/window.ts';
import SeverityMark from '../../ui/SeverityMark.vue';
import PopMenu from '../../ui/PopMenu.vue';
import ValueField from '../../ui/ValueField.vue';
import ChainSlots from './ChainSlots.vue';
import { OriginMark } from '../origin/index.ts';
import { LEVELS, NAME, OUT, lineLayout, sendsRoom } from './measure.ts';
import { lineMenu } from './menus.ts';
import { LEVEL } from '../../ui/specs.ts';
import { dragged, startDrag, type DropSpot } from '../drop/index.ts';

const props = defineProps<{ track: Track; depth: number; width: number; lit: boolean | null }>();
const emit = defineEmits<{
  drop: [spot: DropSpot];
  save: [];
  hover: [on: boolean];
  menu: [action: string];
}>();
const session = useSession();
const audio = useAudio();
const ui = useUi();
const check = useCheck();
/** faults and warnings stand on the line; advice only on the check's own screen */
const found = computed(() =>
  (check.byTrack.get(props.track.id) ?? []).filter((f) => f.severity !== 'advice'),
);
const selected = computed(() => session.selectedTrack === props.track.id);
/** The line as its lanes have it at the song's place. */
const now = computed(() =>
  props.track.automation?.some((l) => l.on) ? automated(props.track, audio.seconds) : props.track,
);
const lanes = computed(
  () =>
    new Set(
      (props.track.automation ?? [])
        .filter((l) => l.on && l.of === props.track.id && l.points.length)
        .map((l) => l.param),
    ),
);
function openLanes() {
  session.select(props.track.id, null);
  ui.linePage = 'lanes';
  ui.lane = null;
}
const swatch = computed(() => ui.swatch(props.track.colour));
const nameOf = (id: Id) => session.doc?.tracks.find((t) => t.id === id)?.name ?? '?';

const layout = computed(() => lineLayout(props.track, props.width, props.depth, ui.isOpen));
const sendsWidth = computed(() => sendsRoom(props.track));
const tile = computed(() => layout.value.tile);
const isOpen = computed(() => layout.value.isOpen);
const shownDevices = computed(() => props.track.chain.slice(0, layout.value.shown));
const hidden = computed(() => props.track.chain.length - shownDevices.value.length);
const inputText = computed(() => {
  if (props.track.input.kind === 'none') {
    if (props.track.clips.length) return 'sound';
    if (['bus', 'return', 'folder', 'master'].includes(props.track.role)) return 'sum';
    return '—';
  }
  if (props.track.input.kind === 'hardware') return props.track.input.port;
  if (props.track.input.kind === 'midi') {
    return `${props.track.input.port} ${props.track.input.channel || 'all'}`;
  }
  if (props.track.input.kind === 'deviceOutput') {
    return `${props.track.input.output}${HALVES[props.track.input.take] ?? ''}`;
  }
  return nameOf(props.track.input.track);
});
const HALVES: Partial<Record<Take, string>> = { left: ' L', right: ' R' };
const inputTitle = computed(() => {
  const x = props.track.input;
  if (x.kind === 'midi') return addressText(x);
  if (x.kind === 'deviceOutput') return `output ${x.output} ${x.take} of ${nameOf(x.track)}`;
  return inputText.value;
});
const outText = computed(() => {
  if (props.track.role === 'master') return 'speakers';
  if (props.track.output.kind === 'track') return nameOf(props.track.output.track);
  if (props.track.output.kind === 'hardware') return props.track.output.port;
  if (props.track.output.kind === 'midi') {
    return `${props.track.output.port} ${props.track.output.channel || 'own'}`;
  }
  return 'nowhere';
});
const midiOuts = () => [
  { heading: `Notes of ${props.track.name} go to` },
  ...listenersIn(session.doc!.tracks).map((l) => ({
    label: `${l.name}: ${addressText(l)}`,
    checked: props.track.output.kind === 'midi' && sameAddress(props.track.output, l),
    run: () => {
      session.edit(
        `Output of ${props.track.name}`,
        onTrack(props.track.id, { output: { kind: 'midi', port: l.port, channel: l.channel } }),
      );
    },
  })),
  {
    label: 'Nobody',
    checked: props.track.output.kind === 'none',
    run: () => {
      session.edit(`Output of ${props.track.name}`, onTrack(props.track.id, { output: { kind: 'none' } }));
    },
  },
];
const outs = () =>
  props.track.role === 'midi'
    ? midiOuts()
    : [
        { heading: `Output of ${props.track.name}` },
        ...destinations(session.doc!, props.track, false).map((t) => ({
          label: t.name,
          swatch: colourOf(t.colour).day,
          checked: props.track.output.kind === 'track' && props.track.output.track === t.id,
          run: () => {
            session.edit(
              `Output of ${props.track.name}`,
              onTrack(props.track.id, { output: { kind: 'track', track: t.id } }),
            );
          },
        })),
        {
          label: 'Nowhere',
          checked: props.track.output.kind === 'none',
          run: () => {
            session.edit(
              `Output of ${props.track.name}`,
              onTrack(props.track.id, { output: { kind: 'none' } }),
            );
          },
        },
      ];

/** Ctrl or Shift adds to the lines that are chosen. */
function pick(e: MouseEvent) {
  if (e.ctrlKey || e.metaKey || e.shiftKey) session.choose(props.track.id, e.shiftKey);
  else session.select(props.track.id, null);
}

const renaming = ref(false);
const newName = ref('');
const nameInput = ref<HTMLInputElement | null>(null);
function rename() {
  renaming.value = true;
  newName.value = props.track.name;
  void nextTick(() => {
    nameInput.value?.focus();
    nameInput.value?.select();
  });
}
function renamed() {
  if (!renaming.value) return;
  renaming.value = false;
  const name = newName.value.trim();
  if (name && name !== props.track.name) {
    session.edit(`Rename ${props.track.name}`, onTrack(props.track.id, { name }));
  }
}
const flip = (key: 'mute' | 'solo') =>
  session.edit(
    `${key === 'mute' ? 'Mute' : 'Solo'} ${props.track.name}`,
    onTrack(props.track.id, (t) => ({ [key]: !t[key] })),
  );
const level = (v: number, sliding: boolean) =>
  session.edit(
    `Level of ${props.track.name}`,
    onTrack(props.track.id, { level: v }),
    sliding ? 'level' + props.track.id : undefined,
  );
const pan = (v: number, sliding: boolean) =>
  session.edit(
    `Pan of ${props.track.name}`,
    onTrack(props.track.id, { pan: v }),
    sliding ? 'pan' + props.track.id : undefined,
  );

/** Where the pointer is while something is dragged over the line. */
const over = ref<DropSpot | null>(null);
const row = ref<HTMLElement | null>(null);
const chainBox = ref<HTMLElement | null>(null);
function spotAt(e: DragEvent): DropSpot | null {
  const what = dragged.value;
  if (!what || !row.value) return null;
  const r = row.value.getBoundingClientRect();
  const y = (e.clientY - r.top) / r.height;
  if (what.kind === 'track') {
    return what.track === props.track.id ? null : { kind: 'gap', track: props.track.id, after: y > 0.5 };
  }
  const box = chainBox.value!.getBoundingClientRect();
  const inChain = e.clientX >= box.left && e.clientX <= box.right;
  const own = chainBox.value!.querySelector<HTMLElement>('[data-chain]')!;
  // inside an open rack the strand under the pointer is meant
  const chain = (e.target instanceof Element ? e.target.closest<HTMLElement>('[data-chain]') : null) ?? own;
  const nested = chain !== own;
  if (what.kind === 'preset' && !nested && (y < 0.24 || y > 0.76)) {
    return { kind: 'gap', track: props.track.id, after: y > 0.5 };
  }
  if (what.kind === 'preset' && !inChain) return { kind: 'line', track: props.track.id };
  const tiles = tilesOf(chain);
  const at = tiles.findIndex((t) => {
    const b = t.getBoundingClientRect();
    return e.clientX < b.left + b.width / 2;
  });
  if (what.kind === 'preset' && !nested && tiles.length === 0) return { kind: 'line', track: props.track.id };
  mark.value = markIn(chain, tiles, at);
  return {
    kind: 'chain',
    track: props.track.id,
    container: chain.dataset.chain!,
    at: at < 0 ? tiles.length : at,
  };
}
const tilesOf = (chain: HTMLElement) =>
  [...chain.children].filter(
    (c): c is HTMLElement => c instanceof HTMLElement && c.dataset.slot !== undefined,
  );
const mark = ref({ x: 0, y: 0, h: 0 });
function markIn(chain: HTMLElement, tiles: HTMLElement[], at: number) {
  const r = row.value!.getBoundingClientRect();
  const c = chain.getBoundingClientRect();
  const xOf = () => {
    if (tiles.length === 0) return c.left + 2;
    if (at < 0) return tiles.at(-1)!.getBoundingClientRect().right + 2;
    return tiles[at].getBoundingClientRect().left - 5;
  };
  const x = xOf();
  return { x: x - r.left, y: c.top - r.top - 2, h: c.height + 4 };
}
function dragOver(e: DragEvent) {
  over.value = spotAt(e);
  if (over.value) e.preventDefault();
}
/** Leaving a part of the line for another part of it is not leaving the line. */
function left(e: DragEvent) {
  if (!row.value?.contains(e.relatedTarget as Node | null)) over.value = null;
}
function drop(e: DragEvent) {
  const spot = spotAt(e);
  over.value = null;
  if (spot) {
    e.preventDefault();
    emit('drop', spot);
  }
}
</script>

<template>
  <div
    ref="row"
    class="line relative flex h-full items-center gap-1.5 border-b border-rule pl-1 pr-2"
    :class="{
      chosen: selected || session.chosen.includes(track.id),
      dim: lit === false,
      lit: lit === true,
      off: track.state === 'inactive',
    }"
    role="group"
    :aria-label="`Line ${track.name}`"
    :style="{ '--track': swatch }"
    @click="pick"
    @dragenter="dragOver"
    @dragover="dragOver"
    @dragleave="left"
    @drop="drop"
    @mouseenter="emit('hover', true)"
    @mouseleave="emit('hover', false)"
  >
    <span
      v-if="over?.kind === 'gap'"
      class="absolute left-0 right-0 z-10 h-[3px] bg-rope"
      :class="over.after ? '-bottom-[2px]' : '-top-[2px]'"
    />
    <span
      v-if="over?.kind === 'chain'"
      class="pointer-events-none absolute z-10 w-[3px] rounded bg-rope"
      :style="{ left: mark.x + 'px', top: mark.y + 'px', height: mark.h + 'px' }"
    />
    <span
      v-if="over?.kind === 'line'"
      class="pointer-events-none absolute inset-0 z-10 rounded border-2 border-rope"
    />

    <div
      class="flex shrink-0 items-center gap-1"
      :style="{ width: NAME + 'px', marginLeft: depth * 14 + 'px' }"
    >
      <span
        class="cursor-grab text-soft"
        :class="{ invisible: track.role === 'master' }"
        draggable="true"
        :aria-label="`Move ${track.name}`"
        role="img"
        @dragstart="startDrag($event, { kind: 'track', track: track.id })"
        ><GripVertical :size="13" aria-hidden="true"
      /></span>
      <span
        class="h-9 w-[5px] shrink-0 rounded-sm"
        :style="{ background: swatch }"
        :title="colourOf(track.colour).label"
      />
      <ChevronRight v-if="track.role === 'folder'" :size="13" aria-hidden="true" />
      <input
        v-if="renaming"
        ref="nameInput"
        v-model="newName"
        class="field w-full px-1 py-0"
        :aria-label="`New name for ${track.name}`"
        @keydown.enter="renamed"
        @keydown.esc.stop="renaming = false"
        @blur="renamed"
        @click.stop
      />
      <button
        v-else
        type="button"
        class="min-w-0 flex-1 truncate rounded px-1 text-left font-semibold"
        :aria-label="`Line ${track.name}`"
        :aria-pressed="selected || session.chosen.includes(track.id)"
        @dblclick="rename"
        @keydown.f2="rename"
      >
        {{ track.name }}
      </button>
      <RouterLink
        v-if="found.length && !renaming"
        :to="`/session/${session.id}/check?line=${track.id}`"
        class="grid h-6 w-6 shrink-0 place-items-center rounded"
        :aria-label="`Line check of ${track.name}: ${found.length} found`"
        :title="found.map((f) => f.message).join('\n')"
        @click.stop
        ><SeverityMark :severity="check.worst(found)!" :size="14"
      /></RouterLink>
      <button
        v-if="track.automation?.length && !renaming"
        type="button"
        class="grid h-6 w-6 shrink-0 place-items-center rounded text-rope"
        :class="{ 'opacity-50': !track.automation.some((l) => l.on) }"
        :aria-label="`Automation of ${track.name}: ${track.automation.length} ${track.automation.length === 1 ? 'lane' : 'lanes'}`"
        title="Values that move along the song"
        @click.stop="openLanes"
      >
        <ChartSpline :size="14" aria-hidden="true" />
      </button>
      <OriginMark v-if="track.origin && !renaming" :id="track.id" small :origin="track.origin" />
    </div>

    <span class="w-[40px] shrink-0 truncate text-[12px] text-soft" :title="`Input: ${inputTitle}`">{{
      inputText
    }}</span>

    <div class="thread relative flex min-w-0 flex-1 items-center">
      <div ref="chainBox" class="relative flex min-w-[40px] items-center gap-[6px]">
        <ChainSlots
          :track="track"
          :container="track.id"
          :slots="shownDevices"
          :tile="tile"
          :is-open="isOpen"
        />
        <span v-if="hidden > 0" class="chip shrink-0">+{{ hidden }}</span>
      </div>
      <span class="flex-1" />
      <div
        v-if="track.sends.length"
        class="flex shrink-0 items-center gap-1"
        :style="{ width: sendsWidth + 'px' }"
      >
        <span
          v-for="s in now.sends.slice(0, track.sends.length > 2 ? 1 : 2)"
          :key="s.id"
          class="send relative w-[68px] truncate rounded bg-paper text-[11px] leading-[13px]"
          :class="{ 'line-through opacity-60': !s.on }"
          :title="`Send to ${nameOf(s.to)}, ${formatDb(s.level)}, ${s.tap}-fader`"
        >
          <span class="block truncate">↘ {{ nameOf(s.to) }}</span
          ><span class="block text-soft"
            >{{ formatDb(s.level) }}<template v-if="s.tap === 'pre'"> pre</template></span
          >
        </span>
        <span
          v-if="track.sends.length > 2"
          class="chip relative whitespace-nowrap"
          :title="
            track.sends
              .slice(1)
              .map((x) => `${nameOf(x.to)} ${formatDb(x.level)}`)
              .join(', ')
          "
          >+{{ track.sends.length - 1 }} sends</span
        >
      </div>
    </div>

    <div class="shrink-0" :style="{ width: LEVELS + 'px' }" @click.stop>
      <div class="flex items-center gap-1.5">
        <button
          type="button"
          class="switch"
          :aria-pressed="now.mute"
          :disabled="lanes.has('mute')"
          :aria-label="`Mute ${track.name}`"
          :title="lanes.has('mute') ? 'Mute is moved by its lane' : 'Mute'"
          @click="flip('mute')"
        >
          M
        </button>
        <button
          v-if="track.role !== 'midi'"
          type="button"
          class="switch"
          :aria-pressed="track.solo"
          :aria-label="`Solo ${track.name}`"
          title="Solo"
          @click="flip('solo')"
        >
          S
        </button>
        <span v-if="track.role === 'midi'" class="truncate text-[12px] text-soft">{{
          track.notes?.length
            ? `${track.notes.reduce((n, c) => n + c.notes.length, 0)} notes`
            : track.chain.length
              ? 'pattern'
              : 'no notes yet'
        }}</span>
        <ValueField
          v-else
          class="min-w-0 flex-1"
          compact
          :spec="LEVEL"
          :value="now.level"
          :disabled="lanes.has('level')"
          :name="`Level of ${track.name}`"
          @change="(v, s) => level(v as number, s)"
        />
        <button
          v-if="track.role !== 'midi'"
          type="button"
          class="w-[34px] truncate rounded text-[12px] text-soft"
          :title="`Pan ${formatPan(track.pan)}; arrow keys move it`"
          :disabled="lanes.has('pan')"
          :aria-label="`Pan of ${track.name}: ${formatPan(now.pan)}`"
          @keydown.left.prevent="pan(Math.max(-100, track.pan - 5), true)"
          @keydown.right.prevent="pan(Math.min(100, track.pan + 5), true)"
          @keydown.backspace.prevent="pan(0, false)"
          @click="session.select(track.id, null)"
        >
          {{ formatPan(now.pan) }}
        </button>
      </div>
      <Meter v-if="track.role !== 'midi'" :track="track.id" :name="track.name" />
    </div>

    <div class="flex shrink-0 items-center" :style="{ width: OUT + 'px' }">
      <ArrowRight :size="13" class="shrink-0 text-soft" aria-hidden="true" />
      <span v-if="track.role === 'master'" class="truncate px-1 text-[12px] text-soft">{{ outText }}</span>
      <PopMenu
        v-else
        :label="`Output of ${track.name}: ${outText}`"
        :items="outs"
        button-class="max-w-[76px] truncate rounded px-1 text-left text-[12px] hover:bg-sunk"
        ><span :class="{ 'text-warn': track.output.kind === 'none' }">{{ outText }}</span></PopMenu
      >
    </div>
    <PopMenu
      :label="`More for ${track.name}`"
      :items="
        () =>
          lineMenu(track, {
            rename,
            save: () => emit('save'),
            drop: () => emit('menu', 'drop'),
            colours: COLOURS,
            types: DEVICE_TYPES,
          })
      "
      button-class="btn btn-plain px-0.5"
      ><Ellipsis :size="15" aria-hidden="true"
    /></PopMenu>
  </div>
</template>

<style scoped>
.line {
  background: var(--sheet);
  transition: opacity 120ms;
}
.line.chosen {
  background: color-mix(in srgb, var(--rope-wash) 55%, var(--sheet));
  box-shadow: inset 3px 0 0 var(--rope);
}
.line.dim {
  opacity: 0.45;
}
.line.off {
  opacity: 0.6;
}
.thread::before {
  content: '';
  position: absolute;
  left: 0;
  right: 0;
  top: 50%;
  height: 2px;
  background: var(--track);
  opacity: 0.55;
}
.line.lit .thread::before {
  opacity: 1;
  height: 3px;
}
</style>
