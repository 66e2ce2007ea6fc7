<script setup lang="ts">
/**
 * The slots of one chain as tiles; an open rack shows its strands, which split and rejoin, each with a chain
 * of its own.
 */
import { ChevronLeft, ChevronRight, Plus } from '@lucide/vue';
import { computed } from 'vue';
import { formatDb, type Rack, type Slot, type Track, setState } from '../../../core/index.ts';
import { useSession } from '../../document/doc.ts';
import { useRackView } from '../rack/index.ts';
import PopMenu from '../../ui/PopMenu.vue';
import { DeviceTile, deviceMenu } from '../device/index.ts';
import { startDrag, useDrop } from '../drop/index.ts';
import { slotHeight, strandHeight } from './measure.ts';
import { stateWord } from '../picture/index.ts';

const props = defineProps<{
  track: Track;
  container: string;
  slots: Slot[];
  tile: number;
  isOpen: (rack: string) => boolean;
  inside?: boolean;
}>();
const session = useSession();
const racks = useRackView();
const drop = useDrop();

/** Curves from the middle of the rack to the middle of each strand. */
const curves = computed(() => (r: Rack, back: boolean) => {
  const heights = r.strands.map((s) => strandHeight(s.chain, props.isOpen));
  const total = heights.reduce((a, b) => a + b, 0) + (heights.length - 1) * 3;
  let y = 0;
  const mids = heights.map((h) => {
    const m = y + h / 2;
    y += h + 3;
    return m;
  });
  return {
    total,
    paths: mids.map((m) =>
      back
        ? `M0 ${m}C8 ${m} 6 ${total / 2} 14 ${total / 2}`
        : `M0 ${total / 2}C8 ${total / 2} 6 ${m} 14 ${m}`,
    ),
  };
});
const silent = (r: Rack, i: number) =>
  r.strands[i].mute ||
  (r.strands.some((s) => s.solo) && !r.strands[i].solo) ||
  (r.blend.mode !== 'off' &&
    r.strands.length > 1 &&
    ((i === 0 && r.blend.position === 100) || (i === 1 && r.blend.position === 0)));
const pick = (s: Slot, e: MouseEvent) => {
  if (e.ctrlKey || e.metaKey || e.shiftKey) session.pickSlot(props.track.id, s.id, e.shiftKey);
  else session.select(props.track.id, s.id);
};
const isChosen = (s: Slot) => session.selectedDevice === s.id || session.picked.includes(s.id);
const toggle = (s: Slot) =>
  session.edit(
    `${s.state === 'on' ? 'Bypass' : 'Switch on'} ${s.name}`,
    setState(props.track.id, s.id, s.state === 'on' ? 'bypassed' : 'on'),
  );
</script>

<template>
  <div class="relative flex min-w-[40px] items-center gap-[6px]" :data-chain="container">
    <template v-for="s in slots" :key="s.id">
      <div
        v-if="s.kind === 'rack' && isOpen(s.id)"
        :style="{ height: slotHeight(s, isOpen, inside) + 'px' }"
        class="rack relative flex shrink-0 items-stretch rounded-md"
        :class="[s.state, { chosen: isChosen(s) }]"
        :data-slot="s.id"
        role="group"
        :aria-label="`Rack ${s.name}`"
      >
        <div class="flex min-h-0 w-[24px] shrink-0 flex-col items-center justify-between">
          <button
            type="button"
            class="rack-name min-h-0 w-full flex-1 overflow-hidden"
            draggable="true"
            :aria-pressed="isChosen(s)"
            :aria-label="`Rack ${s.name}, ${stateWord[s.state]}`"
            :title="`${s.name} · ${stateWord[s.state]}${s.blend.mode !== 'off' ? ` · blend ${Math.round(s.blend.position)} %` : ''}`"
            @click.stop="pick(s, $event)"
            @dblclick.stop="toggle(s)"
            @dragstart="startDrag($event, { kind: 'device', track: track.id, device: s.id })"
          >
            <span>{{ s.name }}</span>
          </button>
          <button
            type="button"
            class="grid h-6 w-6 shrink-0 place-items-center rounded text-soft hover:bg-sunk"
            :aria-label="`Fold ${s.name}`"
            title="Fold"
            @click.stop="racks.fold(s.id)"
          >
            <ChevronLeft :size="13" aria-hidden="true" />
          </button>
        </div>
        <svg class="self-center" width="14" :height="curves(s, false).total" aria-hidden="true">
          <path
            v-for="(p, i) in curves(s, false).paths"
            :key="i"
            :d="p"
            fill="none"
            stroke="var(--track)"
            stroke-width="2"
            :opacity="silent(s, i) ? 0.25 : 1"
          />
        </svg>
        <div class="flex flex-col justify-center gap-[3px]">
          <div
            v-for="(st, i) in s.strands"
            :key="st.id"
            class="strand relative flex items-center"
            :class="{ 'opacity-50': silent(s, i) }"
            :style="{ height: strandHeight(st.chain, isOpen) + 'px' }"
            role="group"
            :aria-label="`Strand ${st.name} of ${s.name}`"
          >
            <span
              class="relative w-[54px] shrink-0 truncate bg-paper pr-1 text-tiny leading-[12px]"
              :title="`${st.name}, ${formatDb(st.level)}`"
              ><span class="block truncate">{{ st.name }}</span
              ><span class="block text-soft">{{
                st.mute
                  ? 'muted'
                  : s.blend.mode !== 'off' && i < 2 && s.strands.length > 1
                    ? `${Math.round(i ? s.blend.position : 100 - s.blend.position)} %`
                    : formatDb(st.level)
              }}</span></span
            >
            <ChainSlots
              :track="track"
              :container="st.id"
              :slots="st.chain"
              :tile="tile"
              :is-open="isOpen"
              inside
            />
          </div>
        </div>
        <svg class="self-center" width="14" :height="curves(s, true).total" aria-hidden="true">
          <path
            v-for="(p, i) in curves(s, true).paths"
            :key="i"
            :d="p"
            fill="none"
            stroke="var(--track)"
            stroke-width="2"
            :opacity="silent(s, i) ? 0.25 : 1"
          />
        </svg>
      </div>
      <div v-else class="relative shrink-0" :data-slot="s.id">
        <DeviceTile
          :slot-data="s"
          :track="track.id"
          :width="tile"
          :small="inside"
          :selected="isChosen(s)"
          @click.stop="pick(s, $event)"
          @dragstart="startDrag($event, { kind: 'device', track: track.id, device: s.id })"
          @dblclick="toggle(s)"
        />
        <button
          v-if="s.kind === 'rack' && tile >= 40"
          type="button"
          class="absolute -right-1.5 top-1/2 grid h-6 w-6 -translate-y-1/2 place-items-center rounded bg-paper text-soft hover:bg-sunk"
          :aria-label="`Open ${s.name}`"
          title="Open in place"
          @click.stop="racks.fold(s.id)"
        >
          <ChevronRight :size="13" aria-hidden="true" />
        </button>
      </div>
    </template>
    <PopMenu
      :label="inside ? 'Add a device to this strand' : `Add a device to ${track.name}`"
      :items="() => deviceMenu({ track: track.id, container })"
      button-class="btn btn-plain shrink-0 bg-paper px-0.5 py-0.5 text-soft"
      @open="drop.loadPieces()"
      ><Plus :size="14" aria-hidden="true"
    /></PopMenu>
  </div>
</template>

<style scoped>
.rack {
  border: 1.5px solid var(--edge);
  background: color-mix(in srgb, var(--paper) 70%, transparent);
}
.rack.bypassed {
  border-style: solid;
  opacity: 0.65;
}
.rack.inactive {
  border-style: dashed;
  opacity: 0.55;
  background: var(--sunk);
}
.rack.chosen {
  box-shadow: 0 0 0 2px var(--rope);
}
.rack.bypassed .rack-name {
  text-decoration: line-through;
}
.rack-name {
  display: grid;
  place-items: center;
}
.rack-name span {
  writing-mode: vertical-rl;
  transform: rotate(180deg);
  display: block;
  max-height: 100%;
  max-width: 24px;
  overflow: hidden;
  overflow-wrap: anywhere;
  line-height: 11px;
  font-size: var(--text-fine);
  font-weight: 600;
}
.strand::before {
  content: '';
  position: absolute;
  left: 0;
  right: 0;
  top: 50%;
  height: 2px;
  background: var(--track);
  opacity: 0.55;
}
</style>
