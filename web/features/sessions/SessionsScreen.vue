<script setup lang="ts">
/** The list of sessions: new, open, import an open session file, export, delete with a way back. */
import { Copy, Download, FileInput, FolderOpen, Plus, Trash2 } from '@lucide/vue';
import { onMounted, ref, shallowRef } from 'vue';
import { useRouter } from 'vue-router';
import { api } from '../../api/index.ts';
import type { PresetEntry, SessionEntry } from '../../../contract/index.ts';
import { useDefaults } from '../defaults/index.ts';
import { useUi } from '../../ui/window.ts';
import Sheet from '../../ui/Sheet.vue';
import { when } from '../../ui/format.ts';

const ui = useUi();
const router = useRouter();
const list = shallowRef<SessionEntry[] | null>(null);
const failed = ref('');
const creating = ref(false);
const form = ref({ name: '', tempo: 120, sampleRate: 48000, bitDepth: 24 as 16 | 24 | 32, preset: '' });
const starters = shallowRef<PresetEntry[]>([]);
const defaults = useDefaults();
/**
 * A new session begins with the default starter, if there is one; its settings stand in the form and can be
 * changed.
 */
async function begin() {
  creating.value = true;
  formError.value = '';
  try {
    [starters.value] = await Promise.all([
      api.presets({ kind: 'starter', limit: 200 }).then((p) => p.items),
      defaults.load(),
    ]);
    const first = defaults.presetOf('session:new') ?? '';
    await start(starters.value.some((s) => s.id === first) ? first : '');
  } catch (e) {
    formError.value = (e as Error).message;
  }
}
async function start(id: string) {
  form.value.preset = id;
  const s = id ? (await api.preset(id)).preset.content.session : null;
  Object.assign(
    form.value,
    s
      ? { tempo: s.tempo, sampleRate: s.sampleRate, bitDepth: s.bitDepth }
      : { tempo: 120, sampleRate: 48000, bitDepth: 24 as const },
  );
}
const formError = ref('');
const notes = shallowRef<{ title: string; lines: string[]; open?: string } | null>(null);
const busy = ref('');

async function load() {
  failed.value = '';
  try {
    list.value = await api.sessions();
  } catch (e) {
    failed.value = (e as Error).message;
  }
}
onMounted(load);

async function create() {
  formError.value = '';
  if (!form.value.name.trim()) {
    formError.value = 'Give the session a name.';
    return;
  }
  try {
    void router.push(
      `/session/${(await api.createSession({ ...form.value, name: form.value.name.trim(), preset: form.value.preset || undefined })).id}`,
    );
  } catch (e) {
    formError.value = (e as Error).message;
  }
}
async function importFile(e: Event) {
  const input = e.target as HTMLInputElement;
  const file = input.files?.[0];
  input.value = '';
  if (!file) return;
  busy.value = `Reading “${file.name}” …`;
  try {
    const r = await api.importFile(file);
    await load();
    notes.value = {
      title: `“${file.name}” is imported`,
      lines: r.notes.length ? r.notes : ['Everything in it was understood or is kept as it is.'],
      open: r.id,
    };
  } catch (x) {
    ui.fail(x);
  } finally {
    busy.value = '';
  }
}
async function exportSession(s: SessionEntry) {
  busy.value = `Writing “${s.name}” …`;
  try {
    const r = await api.exportNotes(s.id);
    const a = document.createElement('a');
    a.href = `/api/sessions/${s.id}/export`;
    a.download = '';
    a.click();
    notes.value = {
      title: `“${s.name}” as DAWproject`,
      lines: r.notes.length ? r.notes : ['Another program will see everything that is in this session.'],
    };
  } catch (x) {
    ui.fail(x);
  } finally {
    busy.value = '';
  }
}
async function copy(s: SessionEntry) {
  try {
    await api.createSession({ name: `${s.name}, copy`, copyOf: s.id });
    await load();
  } catch (e) {
    ui.fail(e);
  }
}
async function remove(s: SessionEntry) {
  try {
    await api.deleteSession(s.id);
    await load();
    ui.say(
      `“${s.name}” was deleted.`,
      'info',
      [
        {
          label: 'Bring it back',
          run: () => {
            void api.restoreSession(s.id).then(load, ui.fail);
          },
        },
      ],
      15000,
    );
  } catch (e) {
    ui.fail(e);
  }
}
</script>

<template>
  <main class="min-h-0 flex-1 overflow-auto">
    <div class="mx-auto max-w-[1000px] p-6">
      <div class="mb-4 flex items-center gap-2">
        <h1 class="flex-1 text-[20px] font-semibold">Sessions</h1>
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
        <button type="button" class="btn btn-main" @click="begin">
          <Plus :size="15" aria-hidden="true" /> New session
        </button>
      </div>
      <p v-if="failed" role="alert" class="rounded border border-bad p-3">
        {{ failed }} <button type="button" class="btn ml-2" @click="load">Try again</button>
      </p>
      <p
        v-else-if="list && !list.length"
        class="rounded border border-dashed border-edge p-8 text-center text-soft"
      >
        No sessions yet. Start a new one, or import the open session file of another program.
      </p>
      <table v-else-if="list" class="w-full">
        <thead>
          <tr class="text-left text-[12px] text-soft">
            <th class="py-1 font-normal">Name</th>
            <th class="font-normal">Tempo</th>
            <th class="font-normal">Rate</th>
            <th class="font-normal">Lines</th>
            <th class="font-normal">Changed</th>
            <th><span class="sr-only">Actions</span></th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="s in list" :key="s.id" class="border-t border-rule hover:bg-sheet">
            <td class="py-2">
              <RouterLink
                :to="`/session/${s.id}`"
                class="font-semibold underline decoration-rule underline-offset-4 hover:decoration-rope"
                >{{ s.name }}</RouterLink
              >
            </td>
            <td>{{ s.tempo }} bpm</td>
            <td>{{ s.sampleRate / 1000 }} kHz</td>
            <td>{{ s.trackCount }}</td>
            <td class="text-soft">{{ when(s.updatedAt) }}</td>
            <td class="text-right">
              <button
                type="button"
                class="btn btn-plain px-1.5"
                :aria-label="`Open ${s.name}`"
                title="Open"
                @click="router.push(`/session/${s.id}`)"
              >
                <FolderOpen :size="15" aria-hidden="true" />
              </button>
              <button
                type="button"
                class="btn btn-plain px-1.5"
                :aria-label="`Copy ${s.name}`"
                title="Copy"
                @click="copy(s)"
              >
                <Copy :size="15" aria-hidden="true" />
              </button>
              <button
                type="button"
                class="btn btn-plain px-1.5"
                :aria-label="`Export ${s.name} as DAWproject`"
                title="Export as DAWproject"
                @click="exportSession(s)"
              >
                <Download :size="15" aria-hidden="true" />
              </button>
              <button
                type="button"
                class="btn btn-plain px-1.5"
                :aria-label="`Delete ${s.name}`"
                title="Delete"
                @click="remove(s)"
              >
                <Trash2 :size="15" aria-hidden="true" />
              </button>
            </td>
          </tr>
        </tbody>
      </table>
      <p v-else class="text-soft">Loading …</p>
    </div>
    <Sheet v-if="creating" title="New session" :width="420" @close="creating = false">
      <form id="new-session" class="grid grid-cols-3 gap-3" @submit.prevent="create">
        <label class="col-span-3 flex flex-col"
          ><span class="label">Name</span
          ><input v-model="form.name" class="field" maxlength="200" placeholder="Lantern Room"
        /></label>
        <label class="col-span-3 flex flex-col"
          ><span class="label">Begins with</span
          ><select
            class="field"
            aria-label="Begins with"
            :value="form.preset"
            @change="start(($event.target as HTMLSelectElement).value).catch(ui.fail)"
          >
            <option value="">nothing: an empty session</option>
            <option v-for="s in starters" :key="s.id" :value="s.id">
              {{ s.name }} ({{ s.category.replace('/', ', ') }}, {{ s.summary.tracks }} lines)
            </option>
          </select></label
        >
        <p class="col-span-3 text-[12px] text-soft">
          <template v-if="form.preset && defaults.presetOf('session:new') === form.preset"
            >New sessions begin with it.
            <button type="button" class="underline" @click="defaults.clear('session:new')">
              Begin empty from now on
            </button></template
          ><button
            v-else-if="form.preset"
            type="button"
            class="underline"
            @click="
              defaults.set(
                'session:new',
                form.preset,
                `“${starters.find((s) => s.id === form.preset)?.name}”`,
              )
            "
          >
            Begin every new session with it
          </button>
        </p>
        <label class="flex flex-col"
          ><span class="label">Tempo (bpm)</span
          ><input v-model.number="form.tempo" class="field" type="number" min="10" max="999" step="any"
        /></label>
        <label class="flex flex-col"
          ><span class="label">Sample rate</span
          ><select v-model.number="form.sampleRate" class="field">
            <option v-for="r in [44100, 48000, 88200, 96000]" :key="r" :value="r">{{ r / 1000 }} kHz</option>
          </select></label
        >
        <label class="flex flex-col"
          ><span class="label">Bit depth</span
          ><select v-model.number="form.bitDepth" class="field">
            <option :value="16">16</option>
            <option :value="24">24</option>
            <option :value="32">32</option>
          </select></label
        >
        <p v-if="formError" class="col-span-3 text-bad" role="alert">{{ formError }}</p>
      </form>
      <template #actions
        ><button type="button" class="btn" @click="creating = false">Cancel</button
        ><button type="submit" form="new-session" class="btn btn-main">Make it</button></template
      >
    </Sheet>
    <Sheet v-if="notes" :title="notes.title" @close="notes = null">
      <ul class="list-disc pl-5 text-[13px]">
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
