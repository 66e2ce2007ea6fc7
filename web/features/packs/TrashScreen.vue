<script setup lang="ts">
/** What was deleted and can still be brought back. */
import { computed, onMounted, ref, shallowRef, watch } from 'vue';
import type { TrashItem } from '../../../contract/index.ts';
import { api } from '../../api/index.ts';
import { useAttempt } from '../../ui/attempt.ts';
import EmptyNote from '../../ui/EmptyNote.vue';
import { when } from '../../ui/format.ts';
import Sheet from '../../ui/Sheet.vue';
import { useUi } from '../../ui/window.ts';
import VirtualRows from '../../ui/VirtualRows.vue';
import { takenIn } from './news.ts';

const ui = useUi();
const { busy, attempt } = useAttempt();
const items = shallowRef<TrashItem[] | null>(null);
const next = ref<number | null>(null);
const days = ref(30);
/** what is asked about before it goes for good: one thing, or all of it */
const asked = shallowRef<TrashItem | 'all' | null>(null);
const KINDS = { preset: 'preset', session: 'session', setup: 'studio' };

const load = (from = 0) =>
  attempt('Looking …', async () => {
    const page = await api.trash(from);
    items.value = from ? [...(items.value ?? []), ...page.items] : page.items;
    next.value = page.next;
    days.value = page.days;
  });
onMounted(() => load());
watch(takenIn, () => load());

const BACK = {
  preset: (id: string) => api.restorePreset(id),
  session: (id: string) => api.restoreSession(id),
  setup: (id: string) => api.restoreSetup(id),
};
const bringBack = (item: TrashItem) =>
  attempt('…', async () => {
    await BACK[item.kind](item.id);
    ui.say(`The ${KINDS[item.kind]} “${item.name}” is back.`, 'done');
    await load();
  });
const question = computed(() => {
  if (asked.value === 'all') return 'Everything in the trash goes for good.';
  return asked.value ? `The ${KINDS[asked.value.kind]} “${asked.value.name}” goes for good.` : '';
});
const goForGood = () =>
  attempt('…', async () => {
    const what = asked.value;
    asked.value = null;
    if (what === 'all') await api.emptyTrash();
    else if (what) await api.deleteForGood(what.kind, what.id);
    await load();
  });
</script>

<template>
  <main class="min-h-0 flex-1 overflow-auto">
    <div class="mx-auto max-w-[860px] p-6">
      <div class="mb-1 flex items-center gap-2">
        <h1 class="flex-1 text-title font-semibold">Trash</h1>
        <span v-if="busy" class="text-soft" role="status">{{ busy }}</span>
        <button type="button" class="btn" :disabled="!items?.length" @click="asked = 'all'">
          Empty the trash …
        </button>
      </div>
      <p class="mb-3 text-body text-soft">
        What is deleted stays here for {{ days }} days. Sessions that use a preset keep their lines whatever
        happens to it.
      </p>
      <EmptyNote v-if="items && !items.length" text="Nothing lies in the trash." />
      <table v-else-if="items" class="w-full">
        <thead>
          <tr class="text-left text-note text-soft">
            <th class="py-1 font-normal">Name</th>
            <th class="font-normal">What it is</th>
            <th class="font-normal">Deleted</th>
            <th><span class="sr-only">Actions</span></th>
          </tr>
        </thead>
        <VirtualRows
          as="tbody"
          row-class="border-t border-rule hover:bg-sheet"
          :items="items"
          :key-of="(i) => `${i.kind}/${i.id}`"
          :estimate="37"
        >
          <template #default="{ item }">
            <td class="max-w-[360px] truncate py-1.5" :title="item.name">{{ item.name }}</td>
            <td class="text-soft">{{ KINDS[item.kind] }}</td>
            <td class="text-soft">{{ when(item.deletedAt) }}</td>
            <td class="text-right">
              <button
                type="button"
                class="btn mr-1 px-2 py-0.5"
                :aria-label="`Bring back ${item.name}`"
                @click="bringBack(item)"
              >
                Bring back
              </button>
              <button
                type="button"
                class="btn px-2 py-0.5"
                :aria-label="`Delete for good …: ${item.name}`"
                @click="asked = item"
              >
                Delete for good …
              </button>
            </td>
          </template>
        </VirtualRows>
      </table>
      <button v-if="next !== null" type="button" class="btn mt-3" @click="load(next)">More</button>
    </div>
    <Sheet v-if="asked" title="Delete for good?" :width="440" @close="asked = null">
      <p class="text-body">{{ question }} Only a backup brings it back then.</p>
      <template #actions>
        <button type="button" class="btn" @click="asked = null">Keep it</button>
        <button type="button" class="btn btn-main" @click="goForGood">Delete for good</button>
      </template>
    </Sheet>
  </main>
</template>
