<script setup lang="ts">
/** The shelf beside the session: search, and presets to drag onto the lines. */
import { Ellipsis, Pin } from '@lucide/vue';
import { computed, onMounted, ref, watch } from 'vue';
import { useRouter } from 'vue-router';
import { isPiece } from '../../../core/index.ts';
import { startDrag, useDrop } from '../drop/index.ts';
import { useSheets } from '../../ui/sheets.ts';
import { useSession } from '../../document/doc.ts';
import MeantNote from './MeantNote.vue';
import ShelfOwner from './ShelfOwner.vue';
import PresetCard from './PresetCard.vue';
import EmptyNote from '../../ui/EmptyNote.vue';
import { useShelf } from './store.ts';
import { afterFirst } from '../../ui/first.ts';
import { useUi } from '../../ui/window.ts';
import type { MenuEntry } from '../../ui/menu.ts';
import PopMenu from '../../ui/PopMenu.vue';
import VirtualRows from '../../ui/VirtualRows.vue';
import { useRoving } from '../../ui/roving.ts';
import { kindText, sizeText } from './words.ts';
import SearchField from '../../ui/SearchField.vue';
import type { PresetEntry } from '../../../contract/index.ts';

const sheets = useSheets();
const shelf = useShelf();
const drop = useDrop();
const session = useSession();
const ui = useUi();
const router = useRouter();
onMounted(() => void afterFirst().then(shelf.refresh));
/** A piece goes into a chain, and one gesture is enough. */
const piece = (p: PresetEntry) => isPiece(p.kind);
const newLine = (p: PresetEntry) => drop.begin(p.id, { kind: 'new', index: session.doc?.tracks.length });
const lookAt = (p: PresetEntry): MenuEntry => ({
  label: 'Look at it on the shelf',
  run: () => void router.push(`/shelf/${p.id}`),
});
function pieceMenu(p: PresetEntry): MenuEntry[] {
  const { track, slot } = session;
  const entries: MenuEntry[] = [];
  if (track) {
    entries.push({ label: `To the end of “${track.name}”`, keys: 'Enter', run: () => void take(p) });
  }
  if (track && slot) {
    entries.push({
      label: `In place of ${slot.name}, to listen first`,
      run: () => void drop.tryInstead(p.id, track.id, slot.id),
    });
  }
  return [...entries, { label: 'On a new line …', run: () => void newLine(p) }, lookAt(p)];
}
function linesMenu(p: PresetEntry): MenuEntry[] {
  const { track } = session;
  const isRig = p.summary.tracks > 1;
  const entries: MenuEntry[] = [
    {
      label: isRig ? 'Drop as new lines' : 'Drop as a new line',
      keys: 'Enter',
      run: () => void take(p),
    },
    { label: 'Look before dropping …', run: () => void drop.begin(p.id) },
  ];
  if (track && !isRig) {
    entries.push(
      {
        label: `Drop onto “${track.name}” …`,
        run: () => void drop.begin(p.id, { kind: 'onto', track: track.id, chain: 'replace' }),
      },
      {
        label: `Compare with “${track.name}” …`,
        run: () => sheets.open('compare', { a: { preset: p.id }, b: { line: track.id } }),
      },
    );
  }
  return [...entries, lookAt(p)];
}
const items = (p: PresetEntry) => (piece(p) ? pieceMenu(p) : linesMenu(p));
const about = (p: PresetEntry) => {
  const version = p.version > 1 ? `v${p.version}` : '';
  return [p.category.split('/').pop(), kindText(p, ''), sizeText(p), version].filter(Boolean).join(' · ');
};
const emptyText = computed(() =>
  shelf.filter.q
    ? `Nothing on the shelf matches “${shelf.filter.q}”.`
    : 'The shelf is empty. Build a chain on a line, then choose “Save to the shelf” from its menu.',
);
const drag = (e: DragEvent, p: PresetEntry) =>
  startDrag(e, { kind: 'preset', preset: p.id, name: p.name, piece: piece(p), lines: p.summary.tracks });
const take = (p: PresetEntry) =>
  piece(p) && session.track
    ? drop.begin(p.id, { kind: 'onto', track: session.track.id, chain: 'append' }, true)
    : drop.begin(p.id, { kind: 'new' }, true);
/** the one that is looked at */
const chosenId = ref<string | null>(null);
const chosen = computed(() => shelf.items.find((p) => p.id === chosenId.value));
const list = ref<{ show(index: number): Promise<void> } | null>(null);
const idOf = (id: string) => `beside-${id}`;
const roving = useRoving(
  () => shelf.items.map((p) => p.id),
  list,
  idOf,
  (id) => {
    chosenId.value = id;
  },
);
// what is told of it at the foot takes room from the list
watch(chosenId, (id) => id && document.getElementById(idOf(id))?.scrollIntoView({ block: 'nearest' }), {
  flush: 'post',
});
/** the line that is listened on: from preset to preset, past those that can't be heard on one line */
const listensOn = ref<string | null>(null);
watch(chosen, (preset) => {
  if (drop.trial && !drop.trial.slot) listensOn.value = drop.trial.track;
  if (!preset || !listensOn.value || drop.trial?.preset.id === preset.id) return;
  if (preset.summary.tracks === 1) void drop.listenOn(preset, listensOn.value);
  else drop.endTrial();
});
/** Ctrl or Shift click marks several, to be dropped together. */
const marked = ref<string[]>([]);
function choose(e: MouseEvent, p: PresetEntry) {
  if (e.ctrlKey || e.metaKey || e.shiftKey) {
    marked.value = marked.value.includes(p.id)
      ? marked.value.filter((x) => x !== p.id)
      : [...marked.value, p.id];
    return;
  }
  chosenId.value = p.id;
  roving.stand(p.id);
}
async function dropMarked() {
  const ids = marked.value;
  marked.value = [];
  await drop.beginSeveral(ids);
}
function near(e: Event) {
  const el = e.target as HTMLElement;
  if (el.scrollTop + el.clientHeight > el.scrollHeight - 200) void shelf.more();
}
</script>

<template>
  <aside
    class="flex w-[232px] shrink-0 flex-col border-r small:h-[380px] small:w-full small:border-b border-rule bg-paper"
    aria-label="Shelf"
    data-panel="shelf"
  >
    <div class="border-b border-rule p-2">
      <ShelfOwner class="mb-1.5 w-full" />
      <SearchField
        id="shelf-search"
        v-model="shelf.filter.q"
        label="Search the shelf"
        width="w-full"
        @keydown.down="roving.press"
      />
    </div>
    <MeantNote />
    <VirtualRows
      ref="list"
      class="min-h-0 flex-1 overflow-auto p-1.5"
      aria-label="Presets"
      data-arrows
      :items="shelf.items"
      :key-of="(p) => p.id"
      :estimate="54"
      @scroll="near"
      @keydown="roving.press"
    >
      <template #default="{ item: p }">
        <div
          class="group mb-1 flex cursor-grab items-start gap-2 rounded border p-1.5"
          :class="
            p.id === chosenId
              ? 'border-rope bg-rope-wash'
              : 'border-transparent hover:border-edge hover:bg-sheet'
          "
          draggable="true"
          :data-preset="p.name"
          @dragstart="drag($event, p)"
        >
          <span class="mt-0.5 h-8 w-[5px] shrink-0 rounded-sm" :style="{ background: ui.swatch(p.colour) }" />
          <button
            :id="idOf(p.id)"
            type="button"
            class="min-w-0 flex-1 cursor-grab text-left"
            :title="p.name"
            :tabindex="roving.tabOf(p.id)"
            :aria-current="p.id === chosenId"
            @keydown.enter.prevent="take(p)"
            @dblclick="take(p)"
            @click="choose($event, p)"
          >
            <span class="block truncate font-semibold"
              ><span v-if="marked.includes(p.id)" aria-label="marked">✓ </span>{{ p.name }}</span
            >
            <span class="block truncate text-note text-soft">{{ about(p) }}</span>
          </button>
          <Pin v-if="p.pinned" :size="12" class="mt-1 text-rope" aria-label="pinned" />
          <PopMenu
            :label="`What to do with ${p.name}`"
            :items="() => items(p)"
            :aside="p.id !== chosenId"
            button-class="btn btn-plain px-0.5 py-0"
            ><Ellipsis :size="14" aria-hidden="true"
          /></PopMenu>
        </div>
      </template>
      <template #after>
        <li v-if="shelf.loaded && !shelf.items.length">
          <EmptyNote :text="emptyText">
            <button v-if="shelf.isNarrowed" type="button" class="btn" @click="shelf.widen">
              Show everything
            </button>
          </EmptyNote>
        </li>
      </template>
    </VirtualRows>
    <PresetCard
      v-if="chosen"
      :key="chosen.id"
      :preset="chosen"
      @drop="take(chosen)"
      @silent="listensOn = null"
    />
    <div v-if="marked.length" class="flex items-center gap-1 border-t border-rule p-1.5">
      <button type="button" class="btn btn-main flex-1 justify-center px-2 py-0.5" @click="dropMarked">
        Drop {{ marked.length }} {{ marked.length === 1 ? 'preset' : 'presets' }} …</button
      ><button type="button" class="btn px-2 py-0.5" @click="marked = []">Unmark</button>
    </div>
  </aside>
</template>
