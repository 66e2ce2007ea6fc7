<script setup lang="ts">
/** What is marked on the shelf: all that fit a category or search at once, dropped into a session together. */
import { Ellipsis } from '@lucide/vue';
import { onMounted, ref, shallowRef } from 'vue';
import type { SessionEntry } from '../../../contract/index.ts';
import { api } from '../../api/index.ts';
import { toldApart } from '../../ui/format.ts';
import type { MenuEntry } from '../../ui/menu.ts';
import PopMenu from '../../ui/PopMenu.vue';
import { useSheets } from '../../ui/sheets.ts';
import { useUi } from '../../ui/window.ts';
import { useDrop } from '../drop/index.ts';
import { savePack } from '../packs/index.ts';
import { useMany } from './many.ts';
import { MOST_MARKED, useShelf } from './store.ts';

const marked = defineModel<string[]>({ required: true });
defineProps<{
  /** the shelf is narrowed by a category, a tag, a kind or a search */
  narrowed: boolean;
}>();
const shelf = useShelf();
const drop = useDrop();
const ui = useUi();
const sheets = useSheets();
const many = useMany();
const sessions = shallowRef<SessionEntry[]>([]);
onMounted(async () => {
  try {
    sessions.value = (await api.sessions()).items;
  } catch {
    /* the menu stays empty */
  }
});
const busy = ref(false);
async function markAll() {
  busy.value = true;
  try {
    const { ids, isCut } = await shelf.everyId();
    marked.value = ids;
    if (isCut) ui.say(`The first ${MOST_MARKED} of them are marked; narrow the search for the others.`);
  } catch (e) {
    ui.fail(e);
  } finally {
    busy.value = false;
  }
}
function dropInto(s: SessionEntry) {
  const ids = marked.value;
  marked.value = [];
  void drop.intoSession(s.id, ids);
}
async function remove() {
  if (await many.remove(marked.value)) marked.value = [];
}
const things = (): MenuEntry[] => [
  { label: 'Category, colour, tags …', run: () => sheets.open('many', { ids: marked.value }) },
  { label: 'Pin them', run: () => void many.change({ ids: marked.value, pinned: true }) },
  { label: 'Unpin them', run: () => void many.change({ ids: marked.value, pinned: false }) },
  { label: 'Save them as a pack', run: () => void savePack({ presets: marked.value }) },
  { label: 'Take them off the shelf', danger: true, run: () => void remove() },
];
const places = () => [
  { heading: 'Drop into' },
  ...sessions.value.map((s) => ({ label: toldApart(s, sessions.value), run: () => dropInto(s) })),
];
</script>

<template>
  <div
    v-if="marked.length || (narrowed && shelf.items.length)"
    class="flex flex-wrap items-center gap-1 border-t border-rule p-2"
  >
    <PopMenu
      v-if="marked.length"
      :label="`Drop ${marked.length} into …: choose a session`"
      :items="places"
      button-class="btn btn-main px-2 py-0.5"
      >Drop {{ marked.length }} into …</PopMenu
    >
    <PopMenu
      v-if="marked.length && !shelf.filter.of"
      :label="`What to do with the ${marked.length} that are marked`"
      :items="things"
      button-class="btn px-2 py-0.5"
      ><Ellipsis :size="15" aria-hidden="true"
    /></PopMenu>
    <button v-if="marked.length" type="button" class="btn px-2 py-0.5" @click="marked = []">Unmark</button>
    <button v-if="narrowed" type="button" class="btn px-2 py-0.5" :disabled="busy" @click="markAll">
      Mark all that fit
    </button>
  </div>
</template>
