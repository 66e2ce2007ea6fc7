<script setup lang="ts">
/** The list of sessions: new, open, import an open session file, export, delete with a way back. */
import { FileInput, Plus } from '@lucide/vue';
import { watchDebounced } from '@vueuse/core';
import { computed, onMounted, ref, shallowRef, watch } from 'vue';
import { useRouter } from 'vue-router';
import type { FolderCount, SessionEntry } from '../../../contract/index.ts';
import { nameWith } from '../../../core/index.ts';
import { api } from '../../api/index.ts';
import { useAttempt } from '../../ui/attempt.ts';
import { filesIn } from '../../ui/events.ts';
import Sheet from '../../ui/Sheet.vue';
import { useUi } from '../../ui/window.ts';
import { SharedSessions } from '../people/index.ts';
import { takenIn } from '../packs/index.ts';
import { StartDoors } from '../welcome/index.ts';
import EmptyNote from '../../ui/EmptyNote.vue';
import VirtualRows from '../../ui/VirtualRows.vue';
import FolderSheet from './FolderSheet.vue';
import NewSession from './NewSession.vue';
import { useSessionPages } from './pages.ts';
import SessionFolders from './SessionFolders.vue';
import SessionRow from './SessionRow.vue';

/** What a file brought, or what another program will not see. */
interface Notes {
  title: string;
  lines: string[];
  open?: string;
}

const ui = useUi();
const router = useRouter();
const { items: list, next, failed, find, again, more } = useSessionPages();
const folders = shallowRef<FolderCount[]>([]);
const text = ref('');
const folder = ref('');
/** the session whose folder is chosen */
const moving = shallowRef<SessionEntry | null>(null);
const creating = ref(false);
const notes = shallowRef<Notes | null>(null);
const { busy, attempt } = useAttempt();

async function load(): Promise<void> {
  await Promise.all([again(), lookForFolders()]);
}
async function lookForFolders(): Promise<void> {
  folders.value = await api.sessionFolders().catch(() => folders.value);
}
onMounted(load);
watch(takenIn, load);
watchDebounced([text, folder], ([q, f]) => find(q, f), { debounce: 120 });
const isNarrowed = computed(() => text.value.trim() !== '' || folder.value !== '');
function widen(): void {
  text.value = folder.value = '';
}
async function moved(): Promise<void> {
  moving.value = null;
  await load();
}
/** The next page comes before the end of this one is seen. */
function near(e: Event): void {
  const el = e.target as HTMLElement;
  if (el.scrollTop + el.clientHeight > el.scrollHeight - 400) void more();
}

async function importFile(e: Event) {
  const [file] = filesIn(e);
  if (!file) return;
  await attempt(`Reading “${file.name}” …`, async () => {
    const read = await api.importFile(file);
    await load();
    notes.value = {
      title: `“${file.name}” is imported`,
      lines: read.notes.length ? read.notes : ['Everything in it was understood or is kept as it is.'],
      open: read.id,
    };
  });
}
const exportSession = (s: SessionEntry) =>
  attempt(`Writing “${s.name}” …`, async () => {
    const written = await api.exportNotes(s.id);
    const link = document.createElement('a');
    link.href = `/api/sessions/${s.id}/export`;
    link.download = '';
    link.click();
    const nothing = 'Another program will see everything that is in this session.';
    notes.value = {
      title: `“${s.name}” as DAWproject`,
      lines: written.notes.length ? written.notes : [nothing],
    };
  });
const copy = (s: SessionEntry) =>
  attempt('', async () => {
    await api.createSession({ name: nameWith(s.name, ', copy'), copyOf: s.id });
    await load();
  });
const remove = (s: SessionEntry) =>
  attempt('', async () => {
    await api.deleteSession(s.id);
    await load();
    const bringBack = () => void api.restoreSession(s.id).then(load, ui.fail);
    ui.say(
      `“${s.name}” was deleted: it is in the trash.`,
      'info',
      [{ label: 'Bring it back', run: bringBack }],
      15000,
    );
  });
</script>

<template>
  <main class="min-h-0 flex-1 overflow-auto" @scroll="near">
    <div class="mx-auto max-w-[1000px] p-6">
      <div class="mb-4 flex items-center gap-2">
        <h1 class="flex-1 text-title font-semibold">Sessions</h1>
        <span v-if="busy" class="text-soft" role="status">{{ busy }}</span>
        <label
          class="btn cursor-pointer focus-within:outline focus-within:outline-2 focus-within:outline-rope"
          ><FileInput :size="15" aria-hidden="true" /> Import a DAWproject file<input
            type="file"
            class="sr-only"
            accept=".dawproject,application/zip"
            aria-label="Import a DAWproject file"
            @change="importFile"
        /></label>
        <button type="button" class="btn btn-main" @click="creating = true">
          <Plus :size="15" aria-hidden="true" /> New session
        </button>
      </div>
      <SharedSessions />
      <SessionFolders v-model:text="text" v-model:folder="folder" :folders="folders" />
      <p v-if="failed" role="alert" class="rounded border border-bad p-3">
        {{ failed }} <button type="button" class="btn ml-2" @click="load">Try again</button>
      </p>
      <section v-else-if="list && !list.length && !isNarrowed" aria-label="No sessions yet">
        <p class="mb-3 text-soft">No sessions yet. Start a new one, or begin here:</p>
        <StartDoors />
      </section>
      <EmptyNote v-else-if="list && !list.length" text="No session fits this search.">
        <button type="button" class="btn" @click="widen">Show everything</button>
      </EmptyNote>
      <table v-else-if="list" class="w-full">
        <thead>
          <tr class="text-left text-note text-soft">
            <th class="py-1 font-normal">Name</th>
            <th class="font-normal">Tempo</th>
            <th class="font-normal">Rate</th>
            <th class="font-normal">Lines</th>
            <th class="font-normal">Last opened</th>
            <th><span class="sr-only">Actions</span></th>
          </tr>
        </thead>
        <VirtualRows
          as="tbody"
          row-class="border-t border-rule hover:bg-sheet"
          :items="list"
          :key-of="(s) => s.id"
          :estimate="41"
        >
          <template #default="{ item: s }">
            <SessionRow
              :session="s"
              @copy="copy(s)"
              @export="exportSession(s)"
              @folder="moving = s"
              @remove="remove(s)"
            />
          </template>
        </VirtualRows>
      </table>
      <p v-else class="text-soft">Loading …</p>
      <button v-if="next" type="button" class="btn mt-3" @click="more">More</button>
      <p v-if="list" class="mt-4 text-note">
        <RouterLink to="/trash" class="underline">What was deleted</RouterLink> stays in the trash for a
        while.
      </p>
    </div>
    <FolderSheet v-if="moving" :session="moving" :folders="folders" @close="moving = null" @put="moved" />
    <NewSession v-if="creating" @close="creating = false" />
    <Sheet v-if="notes" :title="notes.title" @close="notes = null">
      <ul class="list-disc pl-5 text-body">
        <li v-for="n in notes.lines" :key="n" class="py-0.5">{{ n }}</li>
      </ul>
      <template #actions
        ><button type="button" class="btn" @click="notes = null">Close</button
        ><button
          v-if="notes.open"
          type="button"
          class="btn btn-main"
          @click="router.push(`/session/${notes.open}`)"
        >
          Open it
        </button></template
      >
    </Sheet>
  </main>
</template>
