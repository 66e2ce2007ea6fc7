<script setup lang="ts">
/** Backups: those that are there, one made now, and a way back from any of them. */
import { HelpMark } from '../guide/index.ts';
import { onMounted, shallowRef } from 'vue';
import type { BackupList } from '../../../contract/index.ts';
import { api } from '../../api/index.ts';
import { useAttempt } from '../../ui/attempt.ts';
import { when } from '../../ui/format.ts';
import { saveFrom } from '../../ui/save.ts';
import { choosePack } from './packs.ts';

const list = shallowRef<BackupList | null>(null);
const { busy, attempt } = useAttempt();
const load = () =>
  attempt('Looking …', async () => {
    list.value = await api.backups();
  });
onMounted(load);
const make = () =>
  attempt('Making a backup …', async () => {
    await api.makeBackup();
    list.value = await api.backups();
  });
const urlOf = (name: string) => `/api/backups/${encodeURIComponent(name)}`;
const sizeOf = (bytes: number) => `${(bytes / 1e6).toFixed(1)} MB`;
</script>

<template>
  <section aria-labelledby="backups">
    <div class="mb-1 flex items-center gap-1">
      <h2 id="backups" class="font-semibold">Backups and packs</h2>
      <HelpMark about="Packs, trash and backups" />
    </div>
    <p class="mb-2 text-body text-soft">
      A backup is one file with every preset, studio and session, their histories and their sounds.
      <template v-if="list?.keep">
        One a day is made by itself; the last {{ list.keep }} are kept in {{ list.folder }}.
      </template>
      <template v-else-if="list">None is made by itself here.</template>
    </p>
    <ul v-if="list?.items.length" class="mb-2 text-body" aria-label="Backups">
      <li
        v-for="b in list.items"
        :key="b.name"
        class="flex items-center gap-3 border-t border-rule py-1 first:border-0"
      >
        <span class="flex-1">{{ when(b.at) }}</span>
        <span class="text-soft">{{ sizeOf(b.bytes) }}</span>
        <button
          type="button"
          class="btn px-2 py-0"
          :aria-label="`Save elsewhere: the backup of ${when(b.at)}`"
          @click="saveFrom(urlOf(b.name))"
        >
          Save elsewhere
        </button>
      </li>
    </ul>
    <p v-else-if="list" class="mb-2 text-body">There is no backup yet.</p>
    <div class="flex flex-wrap items-center gap-2">
      <button type="button" class="btn btn-main" :disabled="busy !== ''" @click="make">
        Make a backup now
      </button>
      <button type="button" class="btn" @click="choosePack">Take in a backup or pack …</button>
      <RouterLink to="/trash" class="btn">Look into the trash</RouterLink>
      <span v-if="busy" class="text-soft" role="status">{{ busy }}</span>
    </div>
  </section>
</template>
