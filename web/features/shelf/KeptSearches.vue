<script setup lang="ts">
/** Searches of the shelf that are kept under a name: pressed, the shelf shows what fits now. */
import { X } from '@lucide/vue';
import { onMounted, ref, shallowRef } from 'vue';
import type { KeptSearch, ShelfSearch } from '../../../contract/index.ts';
import { api } from '../../api/index.ts';
import { useAttempt } from '../../ui/attempt.ts';
import { useShelf } from './store.ts';

const shelf = useShelf();
const { attempt } = useAttempt();
const kept = shallowRef<KeptSearch[]>([]);
const naming = ref(false);
const name = ref('');
const load = () =>
  attempt('', async () => {
    kept.value = await api.keptSearches();
  });
onMounted(load);
/** A search as text, whatever order its parts were put in. */
const textOf = (search: ShelfSearch) => JSON.stringify(Object.entries({ sort: 'name', ...search }).sort());
const isNow = (k: KeptSearch) => textOf(k.search) === textOf(shelf.asSearch());
const keep = () =>
  attempt('', async () => {
    await api.keepSearch(name.value, shelf.asSearch());
    naming.value = false;
    name.value = '';
    await load();
  });
const drop = (k: KeptSearch) =>
  attempt('', async () => {
    await api.dropSearch(k.name);
    await load();
  });
</script>

<template>
  <section v-if="kept.length || shelf.isNarrowed" aria-label="Kept searches">
    <h2 class="label mt-2">Kept searches</h2>
    <ul>
      <li v-for="k in kept" :key="k.name" class="flex items-center">
        <button
          type="button"
          class="min-h-6 min-w-0 flex-1 truncate rounded px-1.5 text-left hover:bg-sunk"
          :class="{ 'bg-rope-wash font-semibold': isNow(k) }"
          :aria-pressed="isNow(k)"
          @click="isNow(k) ? shelf.widen() : shelf.follow(k.search)"
        >
          {{ k.name }}
        </button>
        <button
          type="button"
          class="btn btn-plain px-1"
          :aria-label="`Let go of the search ${k.name}`"
          @click="drop(k)"
        >
          <X :size="13" aria-hidden="true" />
        </button>
      </li>
    </ul>
    <form v-if="naming" class="mt-1 flex gap-1" @submit.prevent="keep">
      <input
        v-model="name"
        class="field min-w-0 flex-1 px-1 text-note"
        aria-label="Name of this search"
        maxlength="50"
        required
      />
      <button type="submit" class="btn px-2 py-0.5 text-note">Keep</button>
    </form>
    <button
      v-else-if="shelf.isNarrowed"
      type="button"
      class="btn mt-1 px-2 py-0.5 text-note"
      @click="naming = true"
    >
      Keep this search …
    </button>
  </section>
</template>
