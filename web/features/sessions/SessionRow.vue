<script setup lang="ts">
/** One session of the list, and what can be done with it. */
import { Copy, Download, FolderInput, FolderOpen, Package, Trash2 } from '@lucide/vue';
import { useRouter } from 'vue-router';
import type { SessionEntry } from '../../../contract/index.ts';
import { when } from '../../ui/format.ts';
import { savePack } from '../packs/index.ts';
import IconButton from '../../ui/IconButton.vue';

defineProps<{ session: SessionEntry }>();
const emit = defineEmits<{ copy: []; export: []; folder: []; remove: [] }>();
const router = useRouter();
</script>

<template>
  <td class="py-2">
    <RouterLink
      :to="`/session/${session.id}`"
      class="font-semibold underline decoration-rule underline-offset-4 hover:decoration-rope"
      >{{ session.name }}</RouterLink
    >
    <span v-if="session.folder" class="chip ml-2">{{ session.folder }}</span>
  </td>
  <td>{{ session.tempo }} bpm</td>
  <td>{{ session.sampleRate / 1000 }} kHz</td>
  <td>{{ session.trackCount }}</td>
  <td class="text-soft">{{ when(session.openedAt) }}</td>
  <td class="text-right">
    <IconButton
      :icon="FolderOpen"
      :label="`Open ${session.name}`"
      hint="Open"
      @click="router.push(`/session/${session.id}`)"
    />
    <IconButton
      :icon="FolderInput"
      :label="`Folder of ${session.name}`"
      hint="Into a folder …"
      @click="emit('folder')"
    />
    <IconButton :icon="Copy" :label="`Copy ${session.name}`" hint="Copy" @click="emit('copy')" />
    <IconButton
      :icon="Download"
      :label="`Export ${session.name} as DAWproject`"
      hint="Export as DAWproject"
      @click="emit('export')"
    />
    <IconButton
      :icon="Package"
      :label="`Save ${session.name} as a pack`"
      hint="Save as a pack, with its sounds"
      @click="savePack({ sessions: [session.id] })"
    />
    <IconButton :icon="Trash2" :label="`Delete ${session.name}`" hint="Delete" @click="emit('remove')" />
  </td>
</template>
