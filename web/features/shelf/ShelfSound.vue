<script setup lang="ts">
/** Whether the presets of the shelf sound as they did when they were saved. */
import { computed, onBeforeUnmount, onMounted, shallowRef } from 'vue';
import type { ShelfLikeness } from '../../../contract/index.ts';
import { api } from '../../api/index.ts';

const known = shallowRef<ShelfLikeness | null>(null);
/** ms between two looks while presets are waiting */
const LOOK = 3000;
let timer = 0;
async function load() {
  try {
    known.value = await api.shelfLikeness();
  } catch {
    // it is only a note beside the list: the next look may succeed
  }
  if (known.value?.waiting) timer = window.setTimeout(() => void load(), LOOK);
}
onMounted(load);
onBeforeUnmount(() => window.clearTimeout(timer));

const presets = (n: number) => (n === 1 ? '1 preset sounds' : `${n} presets sound`);
const waiting = computed(() => {
  const n = known.value?.waiting ?? 0;
  return n ? `${n} still to be compared, in the background.` : '';
});
</script>

<template>
  <section v-if="known" aria-label="Still the same?">
    <h2 class="label mt-1">Still the same?</h2>
    <p class="text-note text-soft">{{ presets(known.equal) }} as saved. {{ waiting }}</p>
    <template v-if="known.others.length">
      <p class="mt-1 text-note">Otherwise than saved:</p>
      <ul>
        <li v-for="o in known.others" :key="o.id">
          <RouterLink :to="`/shelf/${o.id}`" class="inline-block min-h-6 text-note underline">{{
            o.name
          }}</RouterLink>
        </li>
      </ul>
    </template>
  </section>
</template>
