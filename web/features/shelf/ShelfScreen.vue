<script setup lang="ts">
/** The shelf: find, look, listen, drop. */
import { Package, Pin } from '@lucide/vue';
import { computed, onMounted, ref, watch } from 'vue';
import { onBeforeRouteLeave, useRoute, useRouter } from 'vue-router';
import type { PresetEntry } from '../../../contract/index.ts';
import { safeName } from '../../../core/index.ts';
import { useShelf } from './store.ts';
import { useSheets } from '../../ui/sheets.ts';
import { useUi } from '../../ui/window.ts';
import MeantNote from './MeantNote.vue';
import ShelfFilters from './ShelfFilters.vue';
import EmptyNote from '../../ui/EmptyNote.vue';
import { choosePack, savePack, takenIn } from '../packs/index.ts';
import type { MenuEntry } from '../../ui/menu.ts';
import PopMenu from '../../ui/PopMenu.vue';
import ShelfMarked from './ShelfMarked.vue';
import VirtualRows from '../../ui/VirtualRows.vue';
import { useRoving } from '../../ui/roving.ts';
import { kindText, sizeText } from './words.ts';
import PresetView from './PresetView.vue';
import SearchField from '../../ui/SearchField.vue';

const shelf = useShelf();
const ui = useUi();
const sheets = useSheets();
const route = useRoute();
const router = useRouter();
const chosen = computed(() => (route.params.id ? String(route.params.id) : null));
/** Who is on the way to another screen is not taken back by a list that comes late. */
let isLeaving = false;
onBeforeRouteLeave(() => {
  isLeaving = true;
});
function chooseFirst() {
  if (!isLeaving && !chosen.value && shelf.items[0]) void router.replace(`/shelf/${shelf.items[0].id}`);
}
onMounted(async () => {
  await shelf.refresh();
  chooseFirst();
});
watch(() => shelf.items, chooseFirst);
/** Ctrl or Shift click marks several, to be dropped into one session together. */
const marked = ref<string[]>([]);
function choose(e: MouseEvent, id: string) {
  if (!e.ctrlKey && !e.metaKey && !e.shiftKey) {
    void router.replace(`/shelf/${id}`);
    return;
  }
  const alone = chosen.value && chosen.value !== id ? [chosen.value] : [];
  const now = marked.value.length ? marked.value : alone;
  marked.value = now.includes(id) ? now.filter((x) => x !== id) : [...now, id];
}
function near(e: Event) {
  const el = e.target as HTMLElement;
  if (el.scrollTop + el.clientHeight > el.scrollHeight - 300) void shelf.more();
}
const list = ref<{ show(index: number): Promise<void> } | null>(null);
const roving = useRoving(
  () => shelf.items.map((p) => p.id),
  list,
  (id) => `preset-${id}`,
  (id) => void router.replace(`/shelf/${id}`),
);
watch(chosen, (id) => id && roving.stand(id), { immediate: true });
const about = (p: PresetEntry) =>
  [p.category.replace('/', ' › '), `${kindText(p, ', ')}${sizeText(p)}`, `v${p.version}`]
    .filter(Boolean)
    .join(' · ');
watch(takenIn, () => shelf.refresh());
const packs = (): MenuEntry[] => {
  if (shelf.filter.of) return [{ label: 'Take in a pack, onto my shelf …', run: choosePack }];
  const { category } = shelf.filter;
  const ofCategory = { label: `Save “${category}” as a pack`, run: () => void savePack({ category }) };
  return [
    { label: 'Take in a pack …', run: choosePack },
    ...(category ? [ofCategory] : []),
    { label: 'Save everything as a pack', run: () => void savePack({ everything: true }) },
    { label: 'Nearly the same …', run: () => sheets.open('near', {}) },
    { label: 'Built by hand …', run: () => sheets.open('byHand', {}) },
    { label: 'Clear out …', run: () => sheets.open('clearOut', {}) },
    { label: 'Look into the trash', run: () => void router.push('/trash') },
  ];
};
/** Dragged out of the window it is a pack of its own. */
function dragOut(e: DragEvent, p: PresetEntry) {
  const name = safeName(p.name);
  const url = `${location.origin}/api/packs/of/${p.id}`;
  e.dataTransfer?.setData('DownloadURL', `application/zip:${name}.ropeshelf.zip:${url}`);
  e.dataTransfer?.setData('text/plain', p.name);
}
const emptyText = computed(() =>
  shelf.isNarrowed
    ? 'Nothing on the shelf fits this search.'
    : 'The shelf is empty. Open a session, build a chain on a line and choose “Save to the shelf” from its menu.',
);
</script>

<template>
  <main class="grid min-h-0 flex-1 grid-cols-[188px_292px_minmax(0,1fr)] small:flex small:flex-col">
    <h1 class="sr-only">Shelf</h1>
    <ShelfFilters />
    <div class="flex min-h-0 flex-col border-r border-rule small:h-[240px] small:shrink-0 small:border-b">
      <div class="flex gap-2 border-b border-rule p-2">
        <div class="min-w-0 flex-1">
          <SearchField
            id="shelf-search"
            v-model="shelf.filter.q"
            label="Search the shelf"
            width="w-full"
            @keydown.down="roving.press"
            @keydown.up="roving.press"
          />
        </div>
        <select v-model="shelf.filter.sort" class="field px-1 text-note" aria-label="Order">
          <option value="name">by name</option>
          <option value="used">last used</option>
          <option value="most">used most</option>
          <option value="never">never used</option>
          <option value="added">added last</option>
        </select>
        <PopMenu label="Packs, clearing out" :items="packs" button-class="btn px-1.5"
          ><Package :size="15" aria-hidden="true"
        /></PopMenu>
      </div>
      <MeantNote />
      <VirtualRows
        ref="list"
        class="min-h-0 flex-1 overflow-auto p-1.5"
        aria-label="Presets"
        data-arrows
        data-panel="list of presets"
        :items="shelf.items"
        :key-of="(p) => p.id"
        :estimate="58"
        @scroll="near"
        @keydown="roving.press"
      >
        <template #default="{ item: p }">
          <button
            :id="'preset-' + p.id"
            type="button"
            class="mb-0.5 flex w-full items-start gap-2 rounded border p-2 text-left"
            :class="p.id === chosen ? 'border-rope bg-rope-wash' : 'border-transparent hover:bg-sheet'"
            :aria-current="p.id === chosen"
            :tabindex="roving.tabOf(p.id)"
            :title="p.name"
            draggable="true"
            @dragstart="dragOut($event, p)"
            @click="choose($event, p.id)"
          >
            <span
              class="mt-0.5 h-9 w-[5px] shrink-0 rounded-sm"
              :style="{ background: ui.swatch(p.colour) }"
            />
            <span class="min-w-0 flex-1"
              ><span class="block truncate font-semibold"
                ><span v-if="marked.includes(p.id)" aria-label="marked">✓ </span>{{ p.name }}</span
              ><span class="block truncate text-note text-soft">{{ about(p) }}</span></span
            >
            <Pin v-if="p.pinned" :size="13" class="mt-1 text-rope" aria-label="pinned" />
          </button>
        </template>
        <template #after>
          <li v-if="shelf.loaded && !shelf.items.length">
            <EmptyNote :text="emptyText">
              <button v-if="shelf.isNarrowed" type="button" class="btn" @click="shelf.widen">
                Show everything
              </button>
              <RouterLink v-else to="/sessions" class="btn">Open a session</RouterLink>
            </EmptyNote>
          </li>
        </template>
      </VirtualRows>
      <ShelfMarked v-model="marked" :narrowed="shelf.isNarrowed" />
    </div>
    <PresetView v-if="chosen" :id="chosen" :key="chosen" data-panel="preset" />
    <p v-else class="m-auto text-soft">Choose a preset to look at it.</p>
  </main>
</template>
