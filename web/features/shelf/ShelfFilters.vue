<script setup lang="ts">
/** What the shelf is narrowed to; in a small window it is unfolded when it is wanted. */
import { Funnel } from '@lucide/vue';
import { computed, ref } from 'vue';
import CountChips from '../../ui/CountChips.vue';
import { useUi } from '../../ui/window.ts';
import { vOneStop } from '../../ui/one-stop.ts';
import ShelfOwner from './ShelfOwner.vue';
import KeptSearches from './KeptSearches.vue';
import ShelfSound from './ShelfSound.vue';
import { useShelf } from './store.ts';

const shelf = useShelf();
const ui = useUi();
const isUnfolded = ref(false);
const isShown = computed(() => !ui.isSmall || isUnfolded.value);
const flipCategory = (name: string) => {
  shelf.filter.category = shelf.filter.category === name ? '' : name;
};
const foldText = computed(() => (shelf.isNarrowed ? 'Filters: narrowed' : 'Filters'));
</script>

<template>
  <nav
    class="overflow-auto border-r border-rule p-3 text-body small:shrink-0 small:border-b small:px-2 small:py-1"
    aria-label="Filters"
    data-panel="filters"
  >
    <button
      v-if="ui.isSmall"
      type="button"
      class="btn px-2 py-0.5"
      :aria-expanded="isUnfolded"
      @click="isUnfolded = !isUnfolded"
    >
      <Funnel :size="14" aria-hidden="true" /> {{ foldText }}
    </button>
    <template v-if="isShown">
      <ShelfOwner class="mb-2 w-full" />
      <label class="mb-2 flex items-center gap-2"
        ><input
          type="checkbox"
          class="accent-[var(--rope)]"
          :checked="shelf.filter.pinned === 'true'"
          @change="shelf.filter.pinned = shelf.filter.pinned ? '' : 'true'"
        />
        Pinned only</label
      >
      <template v-if="!shelf.filter.of">
        <ShelfSound />
        <KeptSearches />
      </template>
      <div v-one-stop>
        <h2 class="label mt-2">Kind</h2>
        <div class="mt-1 flex flex-wrap gap-1">
          <CountChips v-model="shelf.filter.kind" :items="shelf.facets.kinds" />
        </div>
        <h2 class="label mt-3">Category</h2>
        <button
          v-for="c in shelf.facets.categories"
          :key="c.name"
          type="button"
          class="flex min-h-6 w-full items-center justify-between rounded px-1.5 text-left hover:bg-sunk"
          :class="{ 'bg-rope-wash font-semibold': shelf.filter.category === c.name }"
          :aria-pressed="shelf.filter.category === c.name"
          :title="c.name.replace('/', ' › ')"
          @click="flipCategory(c.name)"
        >
          <span class="truncate">{{ c.name.replace('/', ' › ') }}</span><span class="text-soft">{{
            c.n
          }}</span>
        </button>
        <h2 class="label mt-3">Tags</h2>
        <div class="mt-1 flex flex-wrap gap-1">
          <CountChips v-model="shelf.filter.tag" :items="shelf.facets.tags" bare />
        </div>
        <button
          v-if="shelf.isNarrowed"
          type="button"
          class="btn mt-3 w-full justify-center"
          @click="shelf.widen"
        >
          Show everything
        </button>
      </div>
    </template>
  </nav>
</template>
