<script setup lang="ts">
/** What several lines can be given at once: input counted up, width, output, folder. Each is one undo step. */
import { computed, ref } from 'vue';
import { commonDestinations, onTracks, portsFrom, type Track } from '../../../core/index.ts';
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
/** Where all of them can go without a loop. */
const places = computed(() => {
  const going = props.lines.filter((t) => t.role !== 'midi');
  return going.length ? commonDestinations(session.doc!, going, false) : [];
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
function setOutput(track: string) {
  each('Output', (t) =>
    t.role === 'midi' ? {} : { output: track ? { kind: 'track', track } : { kind: 'none' } },
  );
}
const named = (list: readonly Track[]) => list.map((t) => ({ value: t.id, label: t.name }));
/** What is chosen for all of them from a list: what they have in common, and what there is. */
const choices = computed(() => [
  {
    label: 'Width of all',
    value: common((t) => String(t.channels)),
    options: [
      { value: '1', label: 'mono' },
      { value: '2', label: 'stereo' },
    ],
    set: (v: string) => void each('Width', () => ({ channels: Number(v) as 1 | 2 })),
  },
  {
    label: 'Output of all',
    value: common((t) => (t.output.kind === 'track' ? t.output.track : '')),
    options: [{ value: '', label: 'nowhere' }, ...named(places.value)],
    set: setOutput,
  },
  {
    label: 'Folder of all',
    value: common((t) => t.folder ?? ''),
    options: [{ value: '', label: 'none' }, ...named(folders.value)],
    set: (v: string) => putInto(props.lines, v || null),
  },
]);
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
    <template v-for="c in choices" :key="c.label">
      <span class="label">{{ c.label }}</span>
      <select
        class="field h-[24px] w-[160px] py-0"
        :aria-label="c.label"
        :value="c.value ?? '?'"
        @change="c.set(chosenIn($event))"
      >
        <option v-if="c.value === null" value="?" disabled>differs</option>
        <option v-for="o in c.options" :key="o.value" :value="o.value">{{ o.label }}</option>
      </select>
    </template>
  </div>
</template>
