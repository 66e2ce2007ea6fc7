<script setup lang="ts">
/**
 * Several lines in one step: names by list or pattern, inputs counted up, where they go and lie, and what each begins
 * with.
 */
import { computed, reactive, ref } from 'vue';
import {
  ADDABLE,
  MOST_LINES,
  addLines,
  linesFromStrip,
  namesFrom,
  portsFrom,
  type NewLines,
} from '../../../core/index.ts';
import { api } from '../../api/index.ts';
import { useSession } from '../../document/doc.ts';
import Sheet from '../../ui/Sheet.vue';
import { useUi } from '../../ui/window.ts';
import { useDefaults } from '../defaults/index.ts';
import { useShelf } from '../shelf/index.ts';
import ColourMenu from '../../ui/ColourMenu.vue';

const emit = defineEmits<{ close: [] }>();
const session = useSession();
const shelf = useShelf();
const ui = useUi();
const doc = computed(() => session.doc!);
const form = reactive({
  names: 'Voice 1–4',
  role: 'audio' as 'audio' | 'bus' | 'return' | 'midi',
  channels: 1 as 1 | 2,
  input: '',
  output: '',
  folder: doc.value.tracks.find((t) => t.id === session.selectedTrack)?.folder ?? '',
  colour: '',
  strip: '',
  devices: [] as string[],
  sends: [] as string[],
});
const busy = ref(false);
const error = ref('');
const names = computed(() => namesFrom(form.names));
const known = computed(() => doc.value.setup?.inputs ?? []);
const inputs = computed(() => {
  if (!form.input.trim() || form.role !== 'audio') return [];
  return portsFrom(form.input.trim(), names.value.length, form.channels, known.value);
});
/** What is made, in words. */
const outlook = computed(() => {
  const [first, ...rest] = names.value;
  if (!first) return 'Type at least one name.';
  const lines = rest.length ? `${names.value.length} lines: ${first} … ${rest.at(-1)}` : `1 line: ${first}`;
  const ports = inputs.value.filter((x) => x !== null);
  if (!ports.length) return `${lines}.`;
  const left = names.value.length - ports.length;
  const range = ports.length > 1 ? `${ports[0]} … ${ports.at(-1)}` : ports[0];
  return `${lines}, from ${range}${left ? `; for ${left} there is no input left` : ''}.`;
});
const isMost = computed(() => names.value.length === MOST_LINES);
const strips = computed(() => shelf.items.filter((p) => p.kind === 'strip'));
const folders = computed(() => doc.value.tracks.filter((t) => t.role === 'folder'));
const outputs = computed(() => doc.value.tracks.filter((t) => ['bus', 'folder', 'return'].includes(t.role)));
const sendable = computed(() => doc.value.tracks.filter((t) => ['bus', 'return'].includes(t.role)));
const offered = ADDABLE.filter((d) => !d.instrument && !d.pattern);
const allSends = computed(() => sendable.value.length > 0 && form.sends.length === sendable.value.length);
function sendToAll() {
  form.sends = allSends.value ? [] : sendable.value.map((t) => t.id);
}

const asked = (): NewLines => ({
  names: names.value,
  role: form.role,
  channels: form.channels,
  inputs: inputs.value,
  output: form.output || null,
  folder: form.folder || null,
  colour: form.colour,
  devices: form.devices,
  sends: form.sends,
});
/** The edit, and the lines that it makes. */
async function planned() {
  const defaults = useDefaults();
  const strip = form.strip || defaults.presetOf(`track:${form.role}`);
  if (!strip || form.devices.length || form.role === 'midi') {
    const colour = form.colour || (form.role === 'audio' ? 'brine' : 'copper');
    return addLines({ ...asked(), colour }, defaults.valuesOf);
  }
  const { preset, name } = await api.preset(strip);
  const made = linesFromStrip(doc.value, { ...preset, name }, asked());
  return { edit: () => made.session, ids: made.ids };
}
async function make() {
  busy.value = true;
  error.value = '';
  try {
    const { edit, ids } = await planned();
    const what = ids.length === 1 ? names.value[0] : `${ids.length} lines`;
    if (!session.edit(`Add ${what}`, edit)) return;
    session.selectAll(ids);
    ui.say(`${what} added.`, 'done', [session.undoing()]);
    emit('close');
  } catch (e) {
    error.value = (e as Error).message;
  } finally {
    busy.value = false;
  }
}
</script>

<template>
  <Sheet title="Add several lines" :width="720" @close="emit('close')">
    <form id="add-lines" class="flex flex-col gap-3 text-body" @submit.prevent="make">
      <label class="flex flex-col"
        ><span class="label">Names (a list, or a pattern such as Voice 1–15)</span>
        <textarea v-model="form.names" class="field" rows="2" maxlength="6000" aria-label="Names" />
      </label>
      <p role="status" :class="{ 'text-warn': !names.length }">
        {{ outlook }} <span v-if="isMost">At most {{ MOST_LINES }} at once.</span>
      </p>
      <div class="grid grid-cols-3 gap-3">
        <label class="flex flex-col"
          ><span class="label">Kind</span>
          <select v-model="form.role" class="field">
            <option value="audio">audio tracks</option>
            <option value="bus">buses</option>
            <option value="return">returns</option>
            <option value="midi">MIDI tracks</option>
          </select></label
        >
        <label v-if="form.role !== 'midi'" class="flex flex-col"
          ><span class="label">Width of all</span>
          <select v-model="form.channels" class="field">
            <option :value="1">mono</option>
            <option :value="2">stereo</option>
          </select></label
        >
        <label v-if="form.role === 'audio'" class="flex flex-col"
          ><span class="label">First input, counted up</span>
          <input
            v-model="form.input"
            class="field"
            list="first-inputs"
            maxlength="80"
            placeholder="none" /><datalist id="first-inputs">
            <option v-for="x in known" :key="x" :value="x" /></datalist
        ></label>
        <label v-if="form.role !== 'midi'" class="flex flex-col"
          ><span class="label">Output of all</span>
          <select v-model="form.output" class="field">
            <option value="">{{ form.strip ? 'where the strip goes' : 'the master' }}</option>
            <option v-for="t in outputs" :key="t.id" :value="t.id">{{ t.name }}</option>
          </select></label
        >
        <label class="flex flex-col"
          ><span class="label">Folder of all</span>
          <select v-model="form.folder" class="field">
            <option value="">none</option>
            <option v-for="t in folders" :key="t.id" :value="t.id">{{ t.name }}</option>
          </select></label
        >
        <div class="flex flex-col">
          <span class="label">Colour of all</span>
          <ColourMenu
            v-model="form.colour"
            label="Colour of all"
            :none="form.strip ? 'the strip’s' : 'the usual'"
          />
        </div>
      </div>
      <template v-if="form.role !== 'midi'">
        <label class="flex flex-col"
          ><span class="label">Strip of the shelf</span>
          <select v-model="form.strip" class="field" :disabled="form.devices.length > 0">
            <option value="">none</option>
            <option v-for="p in strips" :key="p.id" :value="p.id">{{ p.name }}</option>
          </select></label
        >
        <fieldset v-if="!form.strip" class="flex flex-wrap gap-x-3 gap-y-1">
          <legend class="label">Devices of all, in this order</legend>
          <label v-for="d in offered" :key="d.type" class="flex min-h-6 items-center gap-1"
            ><input v-model="form.devices" type="checkbox" :value="d.type" class="accent-[var(--rope)]" />{{
              d.label
            }}<span v-if="form.devices.includes(d.type)" class="text-note text-soft">{{
              form.devices.indexOf(d.type) + 1
            }}</span></label
          >
        </fieldset>
        <fieldset v-if="sendable.length" class="flex flex-wrap gap-x-3 gap-y-1">
          <legend class="label">Sends of all, at −18 dB</legend>
          <label v-for="t in sendable" :key="t.id" class="flex min-h-6 items-center gap-1"
            ><input v-model="form.sends" type="checkbox" :value="t.id" class="accent-[var(--rope)]" />{{
              t.name
            }}</label
          >
          <button type="button" class="btn px-2 py-0.5 text-note" @click="sendToAll">
            {{ allSends ? 'None of them' : 'Every one' }}
          </button>
        </fieldset>
      </template>
      <p v-if="error" role="alert" class="text-bad">{{ error }}</p>
    </form>
    <template #actions>
      <button type="button" class="btn" @click="emit('close')">Cancel</button>
      <button type="submit" form="add-lines" class="btn btn-main" :disabled="busy || !names.length">
        {{ names.length > 1 ? `Add ${names.length} lines` : 'Add the line' }}
      </button>
    </template>
  </Sheet>
</template>
