<script setup lang="ts">
/**
 * The selected rack: its strands side by side, the blend between two of them, and its handles with what they
 * move.
 */
import TermNote from '../../ui/TermNote.vue';
import { Plus, SlidersHorizontal } from '@lucide/vue';
import { computed, ref } from 'vue';
import { addHandle, tieTargets, type Rack, type Tied, type Track } from '../../../core/index.ts';
import type { MenuEntry } from '../../ui/menu.ts';
import PopMenu from '../../ui/PopMenu.vue';
import { useSheets } from '../../ui/sheets.ts';
import { SlotHeader } from '../device/index.ts';
import { useRack } from './edit.ts';
import HandleConflicts from './HandleConflicts.vue';
import HandleRow from './HandleRow.vue';
import { typicalHandles } from './handles.ts';
import { useRackView } from './view.ts';
import StrandRows from './StrandRows.vue';

/** more values than this are not listed in one menu */
const LISTED = 60;

const props = defineProps<{ track: Track; rack: Rack }>();
const view = useRackView();
const { ids, edit } = useRack(props);
const open = ref<string | null>(null);
const targets = computed(() => tieTargets(props.rack));

function make(name: string, ties: Tied[]) {
  const made = addHandle(...ids.value, ties, name);
  if (edit(`Add the handle ${name}`, made.edit)) open.value = made.id;
}
const choose = () => {
  const [track, rack] = ids.value;
  useSheets().open('handles', { track, rack });
};
const newHandle = (): MenuEntry[] => [
  { label: 'Choose values and switches …', run: choose },
  { heading: 'Usual ones' },
  ...typicalHandles(props.rack).map((t) => ({ label: t.label, run: () => make(t.name, t.ties) })),
  { heading: 'From one value' },
  ...targets.value.slice(0, LISTED).map(({ label, hint, slot, param }) => ({
    label: hint ? `${label} (${hint})` : label,
    run: () => make(label, [{ slot, param }]),
  })),
  { heading: ' ' },
  { label: 'Empty handle', run: () => make('Handle', []) },
];
</script>

<template>
  <section class="flex h-full min-h-0 flex-col" :aria-label="`${rack.name} on ${track.name}`">
    <SlotHeader :key="rack.id" :track="track" :slot-data="rack" />
    <div class="grid min-h-0 flex-1 grid-cols-[minmax(360px,2fr)_minmax(380px,3fr)] gap-4 overflow-auto p-2">
      <StrandRows :track="track" :rack="rack" @handle="(handle) => (open = handle.id)" />
      <div class="min-w-0">
        <div class="mb-1 flex items-center gap-2">
          <h3 class="text-note font-semibold">Handles</h3>
          <PopMenu label="Add a handle" :items="newHandle" button-class="btn px-2 py-0 text-note" :width="280"
            ><Plus :size="13" aria-hidden="true" /> Add a handle</PopMenu
          >
          <button
            type="button"
            class="btn px-2 py-0 text-note"
            :aria-pressed="view.controller"
            @click="view.controller = !view.controller"
          >
            <SlidersHorizontal :size="13" aria-hidden="true" /> Controller
          </button>
        </div>
        <p v-if="!rack.handles.length" class="text-note text-soft">
          A handle moves several values at once, such as a drive up while an output goes down.
        </p>
        <TermNote v-else word="handle" />
        <HandleRow
          v-for="h in rack.handles"
          :key="h.id"
          :open="open === h.id"
          :track="track"
          :rack="rack"
          :handle="h"
          @update:open="(on) => (open = on ? h.id : null)"
        />
        <HandleConflicts :rack="rack" />
      </div>
    </div>
  </section>
</template>
