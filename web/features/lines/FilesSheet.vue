<script setup lang="ts">
/**
 * Sounds and notes that were let go over the session: each onto the line whose name it carries or onto one of its own,
 * shown before it happens; then read one after the other, and put there in one step.
 */
import { computed, reactive, ref } from 'vue';
import {
  kindOfFile,
  placeFiles,
  placesForFiles,
  type FileContent,
  type FilePlace,
  type Id,
} from '../../../core/index.ts';
import { api } from '../../api/index.ts';
import { useSession } from '../../document/doc.ts';
import { chosenIn } from '../../ui/events.ts';
import Sheet from '../../ui/Sheet.vue';
import { useUi } from '../../ui/window.ts';
import { readNotes } from './notes.ts';

const props = defineProps<{ files: File[]; onto: Id | null }>();
const emit = defineEmits<{ close: [] }>();
const session = useSession();
const ui = useUi();
interface Row {
  place: FilePlace;
  file: File;
  state: 'waiting' | 'reading' | 'read' | 'failed';
  message: string;
}
const usable = props.files.filter((f) => kindOfFile(f.name) !== null);
const places = placesForFiles(
  session.doc!,
  usable.map((f) => f.name),
);
const rows = reactive<Row[]>(
  places.map((place, i) => ({
    place: { ...place, line: ontoFor(place) },
    file: usable[i],
    state: 'waiting',
    message: '',
  })),
);
/** One file that is let go over a line is meant for that line. */
function ontoFor(place: FilePlace): Id | null {
  const isMeant = places.length === 1 && linesFor(place.kind).some((t) => t.id === props.onto);
  return isMeant ? props.onto : place.line;
}
function linesFor(kind: FilePlace['kind']) {
  const role = kind === 'sound' ? 'audio' : 'midi';
  return session.doc!.tracks.filter((t) => t.role === role && !t.printed);
}
const others = computed(() => props.files.length - places.length);
const isBusy = ref(false);
const isStopped = ref(false);
const done = computed(() => rows.filter((r) => r.state === 'read' || r.state === 'failed').length);
const failed = computed(() => rows.filter((r) => r.state === 'failed'));
const waiting = computed(() => rows.filter((r) => r.state !== 'read'));
const plan = computed(() => {
  const fresh = rows.filter((r) => r.place.line === null).length;
  const known = rows.length - fresh;
  const parts = [
    ...(known ? [`${known} onto ${known === 1 ? 'a line that is' : 'lines that are'} there`] : []),
    ...(fresh ? [`${fresh} onto ${fresh === 1 ? 'a line of its own' : 'lines of their own'}`] : []),
  ];
  return `${parts.join(', ')}. A sound that is there already stays as a take that does not play.`;
});

async function read(row: Row): Promise<FileContent | null> {
  row.state = 'reading';
  try {
    const content = await contentOf(row.file, row.place.kind);
    row.state = 'read';
    return content;
  } catch (e) {
    row.state = 'failed';
    row.message = (e as Error).message;
    return null;
  }
}
async function contentOf(file: File, kind: FilePlace['kind']): Promise<FileContent> {
  if (kind === 'sound') return { kind: 'sound', media: await api.upload(file) };
  return { kind: 'notes', notes: (await readNotes(file)).notes };
}
async function put() {
  isBusy.value = true;
  isStopped.value = false;
  const later = session.editLater();
  const read_: { place: FilePlace; content: FileContent }[] = [];
  for (const row of waiting.value) {
    if (isStopped.value) break;
    const content = await read(row);
    if (content) read_.push({ place: { ...row.place }, content });
  }
  isBusy.value = false;
  if (isStopped.value) {
    for (const row of rows) row.state = 'waiting';
    return;
  }
  if (read_.length) {
    const { edit, ids } = placeFiles(read_);
    const what = read_.length === 1 ? `“${read_[0].place.file}”` : `${read_.length} files`;
    if (later(`Put ${what} on lines`, edit)) {
      session.selectAll(ids);
      ui.say(`${what} on ${ids.length === 1 ? 'a line' : `${ids.length} lines`}.`, 'done', [
        session.undoing(),
      ]);
    }
  }
  if (!failed.value.length) emit('close');
}
const stateText = (row: Row) =>
  ({ waiting: '', reading: 'reading …', read: 'read', failed: row.message })[row.state];
</script>

<template>
  <Sheet title="Files onto lines" :width="760" @close="emit('close')">
    <div class="flex flex-col gap-2 text-body">
      <p v-if="rows.length" role="status">{{ plan }}</p>
      <p v-if="others" class="text-warn">
        {{ others === 1 ? '1 file is' : `${others} files are` }} neither WAV nor MIDI and left out.
      </p>
      <table v-if="rows.length" class="w-full">
        <thead>
          <tr class="text-left text-note text-soft">
            <th class="font-normal">File</th>
            <th class="font-normal">Onto</th>
            <th class="font-normal">Name of the new line</th>
            <th class="font-normal"><span class="sr-only">How far</span></th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="(row, i) in rows" :key="i" class="border-t border-rule">
            <td class="max-w-[220px] truncate py-1 pr-2" :title="row.place.file">{{ row.place.file }}</td>
            <td class="pr-2">
              <select
                class="field h-[26px] w-[180px] py-0"
                :aria-label="`Line for ${row.place.file}`"
                :value="row.place.line ?? ''"
                :disabled="isBusy || row.state === 'read'"
                @change="row.place.line = chosenIn($event) || null"
              >
                <option value="">a new line</option>
                <option v-for="t in linesFor(row.place.kind)" :key="t.id" :value="t.id">{{ t.name }}</option>
              </select>
            </td>
            <td class="pr-2">
              <input
                v-if="row.place.line === null"
                v-model="row.place.name"
                class="field h-[26px] w-full py-0"
                maxlength="200"
                :aria-label="`Name of the line for ${row.place.file}`"
                :disabled="isBusy || row.state === 'read'"
              />
            </td>
            <td class="min-w-[70px] text-note" :class="row.state === 'failed' ? 'text-bad' : 'text-soft'">
              {{ stateText(row) }}
            </td>
          </tr>
        </tbody>
      </table>
      <progress
        v-if="isBusy"
        class="w-full"
        :max="rows.length"
        :value="done"
        :aria-label="`${done} of ${rows.length} files are read`"
      />
      <p v-if="failed.length && !isBusy" role="alert" class="text-bad">
        {{ failed.length === 1 ? 'One file' : `${failed.length} files` }} could not be read; what is said
        beside {{ failed.length === 1 ? 'it' : 'them' }}. The others are on their lines.
      </p>
    </div>
    <template #actions>
      <button v-if="isBusy" type="button" class="btn" @click="isStopped = true">Stop</button>
      <button v-else type="button" class="btn" @click="emit('close')">
        {{ failed.length ? 'Close' : 'Cancel' }}
      </button>
      <button type="button" class="btn btn-main" :disabled="isBusy || !waiting.length" @click="put">
        {{ failed.length ? 'Try again' : 'Put them there' }}
      </button>
    </template>
  </Sheet>
</template>
