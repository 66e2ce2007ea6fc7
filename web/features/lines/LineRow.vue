<script setup lang="ts">
/**
 * One track as a line read left to right: name, input, devices, sends, level and pan with a meter, output.
 */
import { Ellipsis } from '@lucide/vue';
import { computed, ref } from 'vue';
import { automated, type Track } from '../../../core/index.ts';
import { useAudio } from '../transport/index.ts';
import { useSession } from '../../document/doc.ts';
import { useUi } from '../../ui/window.ts';
import PopMenu from '../../ui/PopMenu.vue';
import { useRackView } from '../rack/index.ts';
import type { DropSpot } from '../drop/index.ts';
import ChainSlots from './ChainSlots.vue';
import { inputText, inputTitle } from './ends.ts';
import LineLevels from './LineLevels.vue';
import LineName from './LineName.vue';
import LineOutput from './LineOutput.vue';
import LineSends from './LineSends.vue';
import LineWave from './LineWave.vue';
import { LEVELS, NAME, OUT, lineLayout, sendsRoom } from './measure.ts';
import { lineMenu } from './menus.ts';
import { useDropSpot } from './spot.ts';

const props = defineProps<{
  track: Track;
  depth: number;
  /** lines that lie in it, of a folder */
  count: number;
  width: number;
  /** on the path of the line that the pointer rests on */
  lit: boolean;
}>();
const emit = defineEmits<{
  drop: [spot: DropSpot];
  save: [];
  hover: [on: boolean];
  menu: [action: string];
}>();
const session = useSession();
const audio = useAudio();
const ui = useUi();
const racks = useRackView();
const chosen = computed(
  () => session.selectedTrack === props.track.id || session.chosen.includes(props.track.id),
);
/** The line as its lanes have it at the song's place. */
const now = computed(() => {
  const moves = props.track.automation?.some((lane) => lane.on);
  return moves ? automated(props.track, audio.seconds) : props.track;
});
const layout = computed(() => lineLayout(props.track, props.width, props.depth, racks.isOpen));
const shownDevices = computed(() => props.track.chain.slice(0, layout.value.shown));
const hidden = computed(() => props.track.chain.length - shownDevices.value.length);
const hasSound = computed(() => props.track.clips.some((clip) => !clip.off));
const input = computed(() => inputText(props.track, session.nameOf));
const fullInput = computed(() => `Input: ${inputTitle(props.track, session.nameOf)}`);

/** Ctrl or Shift adds to the lines that are chosen. */
function pick(e: MouseEvent) {
  // the menu of one of several chosen lines is about all of them
  const isMenu = (e.target as HTMLElement).closest('[aria-haspopup="menu"]') !== null;
  if (isMenu && session.chosen.includes(props.track.id)) return;
  if (e.ctrlKey || e.metaKey || e.shiftKey) session.choose(props.track.id, e.shiftKey);
  else session.select(props.track.id, null);
}

const row = ref<HTMLElement | null>(null);
const chainBox = ref<HTMLElement | null>(null);
const { over, mark, dragOver, dragLeft, dropped } = useDropSpot(
  () => props.track.id,
  () => props.track.name,
  row,
  chainBox,
  (spot) => emit('drop', spot),
);
const menu = () =>
  lineMenu(props.track, {
    save: () => emit('save'),
    drop: () => emit('menu', 'drop'),
  });
</script>

<template>
  <div
    ref="row"
    class="line relative flex h-full items-center gap-1.5 border-b border-rule pl-1 pr-2"
    :class="{ chosen, lit, off: track.state === 'inactive' }"
    role="group"
    :data-line="track.id"
    :aria-label="`Line ${track.name}`"
    :style="{ '--track': ui.swatch(track.colour) }"
    @click="pick"
    @dragenter="dragOver"
    @dragover="dragOver"
    @dragleave="dragLeft"
    @drop="dropped"
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

    <LineName
      :track="track"
      :count="count"
      :pressed="chosen"
      :style="{ width: NAME + 'px', marginLeft: depth * 14 + 'px' }"
    />
    <LineWave v-if="hasSound" :track="track" :label="fullInput" />
    <span v-else class="w-[40px] shrink-0 truncate text-note text-soft" :title="fullInput">{{ input }}</span>

    <div class="thread relative flex min-w-0 flex-1 items-center">
      <div ref="chainBox" class="relative flex min-w-[40px] items-center gap-[6px]">
        <ChainSlots
          :track="track"
          :container="track.id"
          :slots="shownDevices"
          :tile="layout.tile"
          :is-open="layout.isOpen"
        />
        <span v-if="hidden > 0" class="chip shrink-0">+{{ hidden }}</span>
      </div>
      <span class="flex-1" />
      <LineSends v-if="track.sends.length" :sends="now.sends" :style="{ width: sendsRoom(track) + 'px' }" />
    </div>

    <LineLevels :track="track" :now="now" :style="{ width: LEVELS + 'px' }" />
    <LineOutput :track="track" :style="{ width: OUT + 'px' }" />
    <PopMenu :label="`More for ${track.name}`" :items="menu" button-class="btn btn-plain px-0.5"
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
