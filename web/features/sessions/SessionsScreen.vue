<script setup lang="ts">
/** The list of sessions: new, open, import an open session file, export, delete with a way back. */
import { FileInput, Plus } from '@lucide/vue';
import { onMounted, ref, shallowRef } from 'vue';
import { useRouter } from 'vue-router';
import type { SessionEntry } from '../../../contract/index.ts';
import { api } from '../../api/index.ts';
import { useAttempt } from '../../ui/attempt.ts';
import { filesIn } from '../../ui/events.ts';
import Sheet from '../../ui/Sheet.vue';
import { useUi } from '../../ui/window.ts';
import { StartDoors } from '../welcome/index.ts';
import NewSession from './NewSession.vue';
import SessionRow from './SessionRow.vue';

/** What a file brought, or what another program will not see. */
interface Notes {
  title: string;
  lines: string[];
  open?: string;
}

const ui = useUi();
const router = useRouter();
const list = shallowRef<SessionEntry[] | null>(null);
const failed = ref('');
const creating = ref(false);
const notes = shallowRef<Notes | null>(null);
const { busy, attempt } = useAttempt();

async function load() {
  failed.value = '';
  try {
    list.value = await api.sessions();
  } catch (e) {
    failed.value = (e as Error).message;
  }
}
onMounted(load);

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
    await api.createSession({ name: `${s.name}, copy`, copyOf: s.id });
    await load();
  });
const remove = (s: SessionEntry) =>
  attempt('', async () => {
    await api.deleteSession(s.id);
    await load();
    const bringBack = () => void api.restoreSession(s.id).then(load, ui.fail);
    ui.say(`“${s.name}” was deleted.`, 'info', [{ label: 'Bring it back', run: bringBack }], 15000);
  });
</script>

<template>
  <main class="min-h-0 flex-1 overflow-auto">
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
      <p v-if="failed" role="alert" class="rounded border border-bad p-3">
        {{ failed }} <button type="button" class="btn ml-2" @click="load">Try again</button>
      </p>
      <section v-else-if="list && !list.length" aria-label="No sessions yet">
        <p class="mb-3 text-soft">No sessions yet. Start a new one, or begin here:</p>
        <StartDoors />
      </section>
      <table v-else-if="list" class="w-full">
        <thead>
          <tr class="text-left text-note text-soft">
            <th class="py-1 font-normal">Name</th>
            <th class="font-normal">Tempo</th>
            <th class="font-normal">Rate</th>
            <th class="font-normal">Lines</th>
            <th class="font-normal">Changed</th>
            <th><span class="sr-only">Actions</span></th>
          </tr>
        </thead>
        <tbody>
          <SessionRow
            v-for="s in list"
            :key="s.id"
            :session="s"
            @copy="copy(s)"
            @export="exportSession(s)"
            @remove="remove(s)"
          />
        </tbody>
      </table>
      <p v-else class="text-soft">Loading …</p>
    </div>
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
