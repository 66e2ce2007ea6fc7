<script setup lang="ts">
/** Into which folder of the list a session goes: one that is there, or a new one by its name. */
import { ref } from 'vue';
import type { FolderCount, SessionEntry } from '../../../contract/index.ts';
import { api } from '../../api/index.ts';
import { useAttempt } from '../../ui/attempt.ts';
import Sheet from '../../ui/Sheet.vue';

const props = defineProps<{ session: SessionEntry; folders: FolderCount[] }>();
const emit = defineEmits<{ close: []; put: [] }>();
const { busy, attempt } = useAttempt();
const folder = ref(props.session.folder);
const put = () =>
  attempt('…', async () => {
    await api.sessionFolder(props.session.id, folder.value.trim());
    emit('put');
  });
</script>

<template>
  <Sheet :title="`Folder of “${session.name}”`" :width="420" @close="emit('close')">
    <form id="session-folder" class="flex flex-col gap-2 text-body" @submit.prevent="put">
      <label class="flex flex-col gap-1"
        >Folder
        <input
          v-model="folder"
          class="field"
          list="session-folders"
          maxlength="200"
          placeholder="none"
          autocomplete="off"
        />
      </label>
      <datalist id="session-folders">
        <option v-for="f in folders" :key="f.name" :value="f.name" />
      </datalist>
      <p class="text-note text-soft">
        A name that is not there yet makes a new one; left empty, it lies in none.
      </p>
    </form>
    <template #actions
      ><button type="button" class="btn" @click="emit('close')">Cancel</button
      ><button type="submit" form="session-folder" class="btn btn-main" :disabled="busy !== ''">
        Put it there
      </button></template
    >
  </Sheet>
</template>
