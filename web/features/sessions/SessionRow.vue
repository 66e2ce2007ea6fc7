<script setup lang="ts">
/** One session of the list, and what can be done with it. */
import { Copy, Download, FolderOpen, Trash2 } from '@lucide/vue';
import { useRouter } from 'vue-router';
import type { SessionEntry } from '../../../contract/index.ts';
import { when } from '../../ui/format.ts';
import IconButton from '../../ui/IconButton.vue';

defineProps<{ session: SessionEntry }>();
const emit = defineEmits<{ copy: []; export: []; remove: [] }>();
const router = useRouter();
</script>

<template>
  <tr class="border-t border-rule hover:bg-sheet">
    <td class="py-2">
      <RouterLink
        :to="`/session/${session.id}`"
        class="font-semibold underline decoration-rule underline-offset-4 hover:decoration-rope"
        >{{ session.name }}</RouterLink
      >
    </td>
    <td>{{ session.tempo }} bpm</td>
    <td>{{ session.sampleRate / 1000 }} kHz</td>
    <td>{{ session.trackCount }}</td>
    <td class="text-soft">{{ when(session.updatedAt) }}</td>
    <td class="text-right">
      <IconButton
        :icon="FolderOpen"
        :label="`Open ${session.name}`"
        hint="Open"
        @click="router.push(`/session/${session.id}`)"
      />
      <IconButton :icon="Copy" :label="`Copy ${session.name}`" hint="Copy" @click="emit('copy')" />
      <IconButton
        :icon="Download"
        :label="`Export ${session.name} as DAWproject`"
        hint="Export as DAWproject"
        @click="emit('export')"
      />
      <IconButton :icon="Trash2" :label="`Delete ${session.name}`" hint="Delete" @click="emit('remove')" />
    </td>
  </tr>
</template>
