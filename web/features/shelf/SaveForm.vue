<script setup lang="ts">
/**
 * Saving to the shelf: a line, several lines with everything between them, a whole session as a starter, or
 * one device or rack (`piece`). Parts for all and for each, name, category, tags, note, and what becomes
 * of every connection that leaves. New, the next version of what it came from, or a variant.
 */
import { computed } from 'vue';
import { capture, type Slot, type Track } from '../../../core/index.ts';
import { useSession } from '../../document/doc.ts';
import ColourPicker from '../../ui/ColourPicker.vue';
import Sheet from '../../ui/Sheet.vue';
import TermNote from '../../ui/TermNote.vue';
import { FlowPicture } from '../picture/index.ts';
import DifferenceTable from './DifferenceTable.vue';
import SaveEnds from './SaveEnds.vue';
import SaveParts from './SaveParts.vue';
import { useSaving } from './saving.ts';
import { useShelf } from './store.ts';

const props = defineProps<{
  tracks: Track[];
  piece?: Slot;
  starter?: boolean;
  startAs?: 'version' | 'new';
}>();
const emit = defineEmits<{ close: [] }>();
const session = useSession();
const shelf = useShelf();
const { form, parts, ends, sounds, prints, draft, known, mode, say, asDefault, busy, error, ...saving } =
  useSaving(props, () => emit('close'));
const { differences, unchanged, toggle, partsOf, toggleOwn, save } = saving;

const isRig = computed(() => props.tracks.length > 1);
const title = computed(() => {
  if (props.starter) return `Save “${session.doc!.name}” as a starter`;
  if (props.piece) return `Save “${props.piece.name}” to the shelf`;
  if (isRig.value) return `Save ${props.tracks.length} lines as a rig`;
  return `Save “${props.tracks[0].name}” to the shelf`;
});
const leavingWhat = computed(() => {
  if (props.piece) return props.piece.kind;
  return isRig.value ? 'chosen lines' : 'line';
});
const asVersion = computed(() => (mode.value === 'version' ? known.value : null));
const knownName = computed(() => {
  if (!known.value) return '';
  return mode.value === 'version' ? `version ${known.value.version}` : `“${known.value.name}”`;
});
/** Stems and versions of the session's print plan that these lines have a part in. */
const printedAs = computed(() => {
  if (!isRig.value || !session.doc!.print) return '';
  const { print } = capture(
    session.doc!,
    props.tracks.map((t) => t.id),
    { print: true },
  ).content;
  return [...(print?.stems ?? []), ...(print?.versions ?? [])].map((x) => `“${x.name}”`).join(', ');
});
const starterText = computed(() => {
  const { tempo, meter, sampleRate, bitDepth } = session.doc!;
  const settings = `${tempo} bpm, ${meter.join('/')}, ${sampleRate / 1000} kHz, ${bitDepth} bit`;
  return `${props.tracks.length} lines at ${settings}, with the names of the hardware that they use.`;
});
</script>

<template>
  <Sheet :title="title" :width="900" @close="emit('close')">
    <form id="save-form" class="flex flex-col gap-3 text-body" @submit.prevent="save">
      <TermNote v-if="starter" word="starter" />
      <TermNote v-else-if="isRig" word="rig" />
      <FlowPicture :content="draft.content" :tempo="session.doc!.tempo" :piece="!!piece" />
      <div v-if="known" class="flex flex-wrap gap-4" role="radiogroup" aria-label="How to save">
        <label class="flex items-center gap-1.5"
          ><input
            type="radio"
            name="how"
            class="accent-[var(--rope)]"
            :checked="mode === 'version'"
            @change="say('version')"
          />
          As version
          {{ known.version + 1 }} of “{{ known.name }}”</label
        >
        <label class="flex items-center gap-1.5"
          ><input
            type="radio"
            name="how"
            class="accent-[var(--rope)]"
            :checked="mode === 'new'"
            @change="say('new')"
          />
          As a new preset, a variant of it</label
        >
      </div>
      <div class="grid grid-cols-2 gap-3">
        <label class="flex flex-col"
          ><span class="label">Name</span><input v-model="form.name" class="field" maxlength="200"
        /></label>
        <label class="flex flex-col"
          ><span class="label">{{
            starter ? 'Purpose and style (with a slash)' : 'Category (levels with a slash)'
          }}</span
          ><input
            v-model="form.category"
            class="field"
            list="categories"
            :placeholder="starter ? 'Tracking/Folk' : 'Voice/Lead'"
            maxlength="200" /><datalist id="categories">
            <option v-for="c in shelf.facets.categories" :key="c.name" :value="c.name" /></datalist
        ></label>
        <label class="flex flex-col"
          ><span class="label">Tags (with commas)</span
          ><input v-model="form.tags" class="field" placeholder="lead, warm"
        /></label>
        <label class="flex flex-col"
          ><span class="label">What to touch first</span
          ><input
            v-model="form.note"
            class="field"
            placeholder="Threshold first: 3 to 6 dB of gain reduction"
        /></label>
        <ColourPicker v-model="form.colour" class="col-span-2" />
      </div>
      <template v-if="starter">
        <p>{{ starterText }} Work in a session that begins from it never changes it.</p>
        <label class="flex items-center gap-2"
          ><input v-model="sounds" type="checkbox" class="accent-[var(--rope)]" /> With the sounds on the
          lines</label
        >
        <label class="flex items-center gap-2"
          ><input v-model="asDefault" type="checkbox" class="accent-[var(--rope)]" /> New sessions begin with
          it</label
        >
      </template>
      <SaveParts
        v-else-if="!piece"
        :tracks="tracks"
        :parts="parts"
        :parts-of="partsOf"
        @toggle="toggle"
        @toggle-own="toggleOwn"
      />
      <label v-if="printedAs" class="flex items-center gap-2"
        ><input v-model="prints" type="checkbox" class="accent-[var(--rope)]" /> With how these lines are
        printed: {{ printedAs }}</label
      >
      <SaveEnds
        v-if="draft.leaving.length"
        :leaving="draft.leaving"
        :what="leavingWhat"
        :from="isRig"
        :fixed="!!piece"
        @choose="(key, choice) => (ends = { ...ends, [key]: choice })"
      />
      <section v-if="known" aria-label="What differs">
        <h3 class="font-semibold">What differs from {{ knownName }}</h3>
        <DifferenceTable :list="differences" />
      </section>
      <p v-if="error" role="alert" class="text-bad">{{ error }}</p>
    </form>
    <template #actions>
      <span v-if="unchanged" class="mr-auto text-body text-soft"
        >Nothing has changed since version {{ known!.version }}.</span
      >
      <button type="button" class="btn" @click="emit('close')">Cancel</button>
      <button
        type="submit"
        form="save-form"
        class="btn btn-main"
        :disabled="busy || unchanged || parts.length === 0"
      >
        {{ asVersion ? `Save version ${asVersion.version + 1}` : 'Save to the shelf' }}
      </button>
    </template>
  </Sheet>
</template>
