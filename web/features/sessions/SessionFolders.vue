<script setup lang="ts">
/** What the list of sessions is narrowed to: words of the name, and a folder. */
import { Search } from '@lucide/vue';
import type { FolderCount } from '../../../contract/index.ts';
import CountChips from '../../ui/CountChips.vue';
import { vOneStop } from '../../ui/one-stop.ts';

defineProps<{ folders: FolderCount[] }>();
const text = defineModel<string>('text', { required: true });
const folder = defineModel<string>('folder', { required: true });
</script>

<template>
  <div class="mb-3 flex flex-wrap items-center gap-2">
    <label class="relative"
      ><Search :size="14" class="absolute left-2 top-2 text-soft" aria-hidden="true" /><input
        v-model="text"
        type="search"
        class="field w-[240px] pl-7"
        placeholder="Find a session"
        aria-label="Find a session"
    /></label>
    <div v-if="folders.length" v-one-stop class="flex flex-wrap gap-1" role="group" aria-label="Folders">
      <CountChips v-model="folder" :items="folders" />
    </div>
  </div>
</template>
