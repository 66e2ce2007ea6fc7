<script setup lang="ts">
/** Studios on shelves that others share: to be looked at, and copied to the own ones. */
import { Copy } from '@lucide/vue';
import type { SetupEntry } from '../../../contract/index.ts';
import { useStudios } from './studios.ts';
import { summaryText } from './words.ts';

const emit = defineEmits<{ copy: [entry: SetupEntry] }>();
const studios = useStudios();
</script>

<template>
  <section
    v-for="{ owner, list } in studios.others"
    :key="owner.id"
    class="mt-6"
    :aria-labelledby="`studios-of-${owner.id}`"
  >
    <h2 :id="`studios-of-${owner.id}`" class="mb-2 font-semibold">On the shelf of {{ owner.name }}</h2>
    <ul class="flex flex-col gap-2">
      <li
        v-for="s in list"
        :key="s.id"
        class="flex items-center gap-3 rounded border border-rule bg-sheet p-3"
      >
        <span class="min-w-0 flex-1"
          ><span class="block text-lead font-semibold">{{ s.name }}</span
          ><span class="block truncate text-soft">{{ summaryText(s) }}</span></span
        >
        <button type="button" class="btn" :aria-label="`Copy to mine: ${s.name}`" @click="emit('copy', s)">
          <Copy :size="15" aria-hidden="true" /> Copy to mine
        </button>
      </li>
    </ul>
  </section>
</template>
