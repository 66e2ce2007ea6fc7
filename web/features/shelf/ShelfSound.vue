<script setup lang="ts">
/**
 * Whether the presets of the shelf sound as they did when they were saved, in one line that is there from the start:
 * what is below it must not move when the answer comes.
 */
import { computed, onBeforeUnmount, onMounted, shallowRef } from 'vue';
import { useRouter } from 'vue-router';
import type { ShelfLikeness } from '../../../contract/index.ts';
import { api } from '../../api/index.ts';
import type { MenuEntry } from '../../ui/menu.ts';
import PopMenu from '../../ui/PopMenu.vue';

const router = useRouter();
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

const others = computed(() => known.value?.others ?? []);
const text = computed(() => {
  if (!known.value) return '…';
  if (known.value.waiting) return `${known.value.waiting} to be compared`;
  return known.value.equal === 1 ? '1 sounds as saved' : `${known.value.equal} sound as saved`;
});
const list = (): MenuEntry[] => [
  { heading: 'These sound otherwise than saved' },
  ...others.value.map((o) => ({ label: o.name, run: () => void router.push(`/shelf/${o.id}`) })),
];
</script>

<template>
  <section class="mt-1" aria-label="Still the same?">
    <h2 class="label">Still the same?</h2>
    <div class="flex h-6 items-center gap-2 whitespace-nowrap text-note">
      <PopMenu
        v-if="others.length"
        label="Presets that sound otherwise"
        button-class="min-h-6 underline"
        :items="list"
        :width="260"
      >
        {{ others.length }} otherwise
      </PopMenu>
      <span class="truncate text-soft" role="status">{{ text }}</span>
    </div>
  </section>
</template>
