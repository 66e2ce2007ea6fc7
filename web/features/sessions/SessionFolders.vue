<script setup lang="ts">
/** What the list of sessions is narrowed to: words of the name, and a folder. */
import type { FolderCount } from '../../../contract/index.ts';
import CountChips from '../../ui/CountChips.vue';
import { vOneStop } from '../../ui/one-stop.ts';
import SearchField from '../../ui/SearchField.vue';

defineProps<{ folders: FolderCount[] }>();
const text = defineModel<string>('text', { required: true });
const folder = defineModel<string>('folder', { required: true });
</script>

<template>
  <div class="mb-3 flex flex-wrap items-center gap-2">
    <SearchField v-model="text" label="Find a session" width="w-[240px]" />
    <div v-if="folders.length" v-one-stop class="flex flex-wrap gap-1" role="group" aria-label="Folders">
      <CountChips v-model="folder" :items="folders" />
    </div>
  </div>
</template>
