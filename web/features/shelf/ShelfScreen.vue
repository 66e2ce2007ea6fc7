<script setup lang="ts">
/** The shelf: find, look, listen, drop. */
import { Pin, Search } from '@lucide/vue';
import { computed, onMounted, ref, watch } from 'vue';
import { useRoute, useRouter } from 'vue-router';
import type { PresetEntry } from '../../../contract/index.ts';
import { useShelf } from './store.ts';
import { useUi } from '../../ui/window.ts';
import MeantNote from './MeantNote.vue';
import ShelfSound from './ShelfSound.vue';
import ShelfMarked from './ShelfMarked.vue';
import VirtualRows from '../../ui/VirtualRows.vue';
import { vOneStop } from '../../ui/one-stop.ts';
import { useRoving } from '../../ui/roving.ts';
import { kindText, sizeText } from './words.ts';
import PresetView from './PresetView.vue';

const shelf = useShelf();
const ui = useUi();
const route = useRoute();
const router = useRouter();
const chosen = computed(() => (route.params.id ? String(route.params.id) : null));
onMounted(async () => {
  await shelf.refresh();
  if (!chosen.value && shelf.items[0]) void router.replace(`/shelf/${shelf.items[0].id}`);
});
watch(
  () => shelf.items,
  (items) => {
    if (!chosen.value && items[0]) void router.replace(`/shelf/${items[0].id}`);
  },
);
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
const flip = (key: 'category' | 'tag' | 'kind', v: string) => {
  Object.assign(shelf.filter, { [key]: shelf.filter[key] === v ? '' : v });
};
function near(e: Event) {
  const el = e.target as HTMLElement;
  if (el.scrollTop + el.clientHeight > el.scrollHeight - 300) void shelf.more();
}
const active = computed(
  () =>
    !!(
      shelf.filter.q ||
      shelf.filter.category ||
      shelf.filter.tag ||
      shelf.filter.pinned ||
      shelf.filter.kind
    ),
);
function clear() {
  Object.assign(shelf.filter, { q: '', category: '', tag: '', pinned: '', kind: '' });
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
const emptyText = computed(() =>
  active.value
    ? 'Nothing on the shelf fits this search.'
    : 'The shelf is empty. Open a session, build a chain on a line and choose “Save to the shelf” from its menu.',
);
</script>

<template>
  <main class="grid min-h-0 flex-1 grid-cols-[188px_292px_minmax(0,1fr)] small:flex small:flex-col">
    <h1 class="sr-only">Shelf</h1>
    <nav
      class="overflow-auto border-r border-rule p-3 text-body small:max-h-[220px] small:border-b"
      aria-label="Filters"
      data-panel="filters"
    >
      <label class="mb-2 flex items-center gap-2"
        ><input
          type="checkbox"
          class="accent-[var(--rope)]"
          :checked="shelf.filter.pinned === 'true'"
          @change="shelf.filter.pinned = shelf.filter.pinned ? '' : 'true'"
        />
        Pinned only</label
      >
      <ShelfSound />
      <div v-one-stop>
        <h2 class="label mt-2">Kind</h2>
        <div class="mt-1 flex flex-wrap gap-1">
          <button
            v-for="k in shelf.facets.kinds"
            :key="k.name"
            type="button"
            class="chip min-h-6"
            :class="{ 'border-rope bg-rope-wash': shelf.filter.kind === k.name }"
            :aria-pressed="shelf.filter.kind === k.name"
            @click="flip('kind', k.name)"
          >
            {{ k.name }} <span class="text-soft">{{ k.n }}</span>
          </button>
        </div>
        <h2 class="label mt-3">Category</h2>
        <button
          v-for="c in shelf.facets.categories"
          :key="c.name"
          type="button"
          class="flex min-h-6 w-full items-center justify-between rounded px-1.5 text-left hover:bg-sunk"
          :class="{ 'bg-rope-wash font-semibold': shelf.filter.category === c.name }"
          :aria-pressed="shelf.filter.category === c.name"
          @click="flip('category', c.name)"
        >
          <span class="truncate">{{ c.name.replace('/', ' › ') }}</span><span class="text-soft">{{
            c.n
          }}</span>
        </button>
        <h2 class="label mt-3">Tags</h2>
        <div class="mt-1 flex flex-wrap gap-1">
          <button
            v-for="t in shelf.facets.tags"
            :key="t.name"
            type="button"
            class="chip min-h-6"
            :class="{ 'border-rope bg-rope-wash': shelf.filter.tag === t.name }"
            :aria-pressed="shelf.filter.tag === t.name"
            @click="flip('tag', t.name)"
          >
            {{ t.name }}
          </button>
        </div>
        <button v-if="active" type="button" class="btn mt-3 w-full justify-center" @click="clear">
          Show everything
        </button>
      </div>
    </nav>
    <div class="flex min-h-0 flex-col border-r border-rule small:h-[320px] small:border-b">
      <div class="flex gap-2 border-b border-rule p-2">
        <label class="relative min-w-0 flex-1"
          ><Search :size="14" class="absolute left-2 top-2 text-soft" aria-hidden="true" /><input
            id="shelf-search"
            v-model="shelf.filter.q"
            type="search"
            class="field w-full pl-7"
            placeholder="Search the shelf"
            aria-label="Search the shelf"
            @keydown.down="roving.press"
            @keydown.up="roving.press"
        /></label>
        <select v-model="shelf.filter.sort" class="field px-1 text-note" aria-label="Order">
          <option value="name">by name</option>
          <option value="used">last used</option>
        </select>
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
          <li v-if="shelf.loaded && !shelf.items.length" class="p-4 text-body text-soft">{{ emptyText }}</li>
        </template>
      </VirtualRows>
      <ShelfMarked v-model="marked" :narrowed="active" />
    </div>
    <PresetView v-if="chosen" :id="chosen" :key="chosen" data-panel="preset" />
    <p v-else class="m-auto text-soft">Choose a preset to look at it.</p>
  </main>
</template>
