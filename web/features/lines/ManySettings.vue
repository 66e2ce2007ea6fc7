<script setup lang="ts">
/** What several lines can be given at once: input counted up, width, output, folder. Each is one undo step. */
import { computed, ref } from 'vue';
import { destinations, onTracks, portsFrom, type Track } from '../../../core/index.ts';
import { useSession } from '../../document/doc.ts';
import { chosenIn } from '../../ui/events.ts';
import { putInto } from './many.ts';

const props = defineProps<{ lines: Track[] }>();
const session = useSession();
const ids = computed(() => props.lines.map((t) => t.id));
const each = (label: string, change: (t: Track) => Partial<Track>) =>
  session.edit(`${label} of ${props.lines.length} lines`, onTracks(ids.value, change));
/** What all of them have in common; null where they differ. */
function common<T>(of: (t: Track) => T): T | null {
  const [first, ...rest] = props.lines.map(of);
  return rest.every((x) => x === first) ? (first ?? null) : null;
}
const width = computed(() => common((t) => t.channels));
const folder = computed(() => common((t) => t.folder ?? ''));
const output = computed(() => common((t) => (t.output.kind === 'track' ? t.output.track : '')));
/** Where all of them can go without a loop. */
const places = computed(() => {
  const [first, ...rest] = props.lines
    .filter((t) => t.role !== 'midi')
    .map((t) => destinations(session.doc!, t, false));
  return (first ?? []).filter((x) => rest.every((list) => list.some((y) => y.id === x.id)));
});
const folders = computed(() =>
  session.doc!.tracks.filter((t) => t.role === 'folder' && !ids.value.includes(t.id)),
);
const known = computed(() => session.doc!.setup?.inputs ?? []);
const sounding = computed(() => props.lines.filter((t) => t.role === 'audio'));
const first = ref('');

function setInputs() {
  const port = first.value.trim();
  const own = sounding.value;
  const step = own.every((t) => t.channels === 2) ? 2 : 1;
  const ports = port ? portsFrom(port, own.length, step, known.value) : own.map(() => null);
  const byId = new Map(own.map((t, i) => [t.id, ports[i]]));
  each('Inputs', (t) => {
    if (!byId.has(t.id)) return {};
    const to = byId.get(t.id);
    return { input: to ? { kind: 'hardware', port: to } : { kind: 'none' } };
  });
}
const setWidth = (e: Event) => each('Width', () => ({ channels: Number(chosenIn(e)) as 1 | 2 }));
function setOutput(e: Event) {
  const track = chosenIn(e);
  each('Output', (t) =>
    t.role === 'midi' ? {} : { output: track ? { kind: 'track', track } : { kind: 'none' } },
  );
}
const setFolder = (e: Event) => putInto(props.lines, chosenIn(e) || null);
</script>

<template>
  <div class="grid grid-cols-[auto_1fr] items-center gap-x-3 gap-y-1.5">
    <template v-if="sounding.length">
      <span class="label">First input, counted up</span>
      <span class="flex gap-1">
        <input
          v-model="first"
          class="field h-[24px] w-[120px] px-1 py-0"
          aria-label="First input, counted up"
          list="inputs-of-many"
          maxlength="80"
          :placeholder="known[0] ?? 'In 1'"
          @keydown.enter="setInputs"
        /><datalist id="inputs-of-many"><option v-for="x in known" :key="x" :value="x" /></datalist>
        <button type="button" class="btn px-2 py-0.5" @click="setInputs">
          {{ first.trim() ? 'Give them' : 'No inputs' }}
        </button>
      </span>
    </template>
    <span class="label">Width of all</span>
    <select
      class="field h-[24px] w-[160px] py-0"
      aria-label="Width of all"
      :value="width ?? ''"
      @change="setWidth"
    >
      <option v-if="width === null" value="" disabled>differs</option>
      <option :value="1">mono</option>
      <option :value="2">stereo</option>
    </select>
    <span class="label">Output of all</span>
    <select
      class="field h-[24px] w-[160px] py-0"
      aria-label="Output of all"
      :value="output ?? '?'"
      @change="setOutput"
    >
      <option v-if="output === null" value="?" disabled>differs</option>
      <option value="">nowhere</option>
      <option v-for="t in places" :key="t.id" :value="t.id">{{ t.name }}</option>
    </select>
    <span class="label">Folder of all</span>
    <select
      class="field h-[24px] w-[160px] py-0"
      aria-label="Folder of all"
      :value="folder ?? '?'"
      @change="setFolder"
    >
      <option v-if="folder === null" value="?" disabled>differs</option>
      <option value="">none</option>
      <option v-for="t in folders" :key="t.id" :value="t.id">{{ t.name }}</option>
    </select>
  </div>
</template>
