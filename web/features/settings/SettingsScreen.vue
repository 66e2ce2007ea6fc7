<script setup lang="ts">
/** Everything that is chosen once: what new things begin with, the keyboard, how it looks, fit, knobs. */
import { BackupPanel } from '../packs/index.ts';
import { PeoplePanel } from '../people/index.ts';
import BeginningsTable from './BeginningsTable.vue';
import ShortcutTable from './ShortcutTable.vue';
import WaysPanel from './WaysPanel.vue';
</script>

<template>
  <main class="min-h-0 flex-1 overflow-auto px-5 py-4">
    <h1 class="mb-3 text-title font-semibold">Settings</h1>
    <div class="grid max-w-[1240px] gap-8 lg:grid-cols-[minmax(0,1fr)_minmax(0,460px)]">
      <BeginningsTable />
      <div class="flex flex-col gap-8">
        <PeoplePanel />
        <WaysPanel />
        <BackupPanel />
        <ShortcutTable />
      </div>
    </div>
  </main>
</template>
