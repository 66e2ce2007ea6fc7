<script setup lang="ts">
/**
 * Saving to the shelf: a line, several lines with everything between them, a whole session as a starter, or
 * one device or rack (`piece`). Parts for all and for each, name, category, tags, note, and what becomes
 * of every connection that leaves. New, the next version of what it came from, or a variant.
 */
import { computed, onMounted, ref, shallowRef, watch } from 'vue';
import {
  PARTS,
  USUAL_PARTS,
  capture,
  captureSlot,
  captureStarter,
  createPreset,
  diffPresets,
  isPiece,
  tieToShelf,
  togglePart,
  type EndChoice,
  type Parts,
  type PresetKind,
  type Slot,
  type Track,
} from '../../../core/index.ts';
import { api } from '../../api/index.ts';
import type { PresetDetail } from '../../../contract/index.ts';
import { useDefaults } from '../defaults/index.ts';
import { useDrop, END_WORDS } from '../drop/index.ts';
import { useOrigins } from '../origin/index.ts';
import { useSession } from '../../document/doc.ts';
import { useShelf } from './store.ts';
import { useUi } from '../../ui/window.ts';
import Sheet from '../../ui/Sheet.vue';
import DifferenceTable from './DifferenceTable.vue';
import { FlowPicture } from '../picture/index.ts';

const props = defineProps<{
  tracks: Track[];
  piece?: Slot;
  starter?: boolean;
  startAs?: 'version' | 'new';
}>();
const emit = defineEmits<{ close: [] }>();
const session = useSession();
const shelf = useShelf();
const drop = useDrop();
const ui = useUi();
const origins = useOrigins();
const ids = computed(() => props.tracks.map((t) => t.id));
const kind = computed<PresetKind>(() => {
  if (props.piece) return props.piece.kind;
  if (props.starter) return 'starter';
  return props.tracks.length > 1 ? 'rig' : 'strip';
});
const what = computed(() => {
  if (props.piece) return props.piece.name;
  if (props.starter) return session.doc!.name;
  if (props.tracks.length > 1) return `${props.tracks.length} lines`;
  return props.tracks[0].name;
});

const parts = ref<Parts>([...USUAL_PARTS]);
const own = ref<Record<string, Parts>>({});
const byLine = ref(false);
const ends = ref<Record<string, EndChoice>>({});
const sounds = ref(false);
const asDefault = ref(false);
const name = ref(props.piece?.name ?? (props.starter ? session.doc!.name : props.tracks[0].name));
const category = ref('');
const tags = ref('');
const ownNote = props.starter ? session.doc!.note : props.tracks[0].note;
const note = ref(props.piece ? '' : ownNote);
const known = shallowRef<PresetDetail | null>(null);
const mode = ref<'new' | 'version'>('new');
const busy = ref(false);
const error = ref('');

const draft = computed(() => {
  if (props.piece) return captureSlot(session.doc!, props.tracks[0].id, props.piece.id);
  if (props.starter) return captureStarter(session.doc!, sounds.value);
  return capture(session.doc!, ids.value, { parts: parts.value, trackParts: own.value, ends: ends.value });
});
const differences = computed(() =>
  known.value ? diffPresets(known.value.preset.content, draft.value.content) : [],
);
const unchanged = computed(
  () =>
    mode.value === 'version' &&
    known.value !== null &&
    known.value.preset.hash === draft.value.hash &&
    note.value === known.value.preset.note &&
    name.value === known.value.name,
);

/** The preset that all of the chosen came from together. */
const origin = computed(() => {
  if (props.piece) return props.piece.origin ?? null;
  // a session that began from a starter: its master remembers which
  if (props.starter) return props.tracks.find((t) => t.role === 'master')?.origin ?? null;
  const all = props.tracks.map((t) => t.origin ?? null);
  return all[0] && all.every((o) => o?.preset === all[0]!.preset && o.drop === all[0]!.drop) ? all[0] : null;
});
/** Whether what is saved is the whole of what the preset is: not a device of its line, nor one line of its rig. */
function isSameThing(found: PresetDetail): boolean {
  if (props.starter) return found.kind === 'starter';
  if (props.piece) return found.kind === props.piece.kind;
  const lines = found.preset.content.tracks.length;
  return found.kind !== 'starter' && !isPiece(found.kind) && lines === props.tracks.length;
}
onMounted(async () => {
  void shelf.refresh();
  if (!origin.value) return;
  try {
    const found = await api.preset(origin.value.preset);
    // a device that came with a whole line is not that line, and one line of a rig is not the rig
    if (!isSameThing(found)) return;
    sounds.value = found.preset.content.parts.includes('clips');
    known.value = found;
    const p = found.preset;
    mode.value = props.startAs ?? (props.starter ? 'new' : 'version');
    parts.value = [...p.content.parts];
    own.value = Object.fromEntries(
      props.tracks.flatMap((t) => {
        const x = p.content.trackParts?.[t.origin?.local ?? ''];
        return x ? [[t.id, x]] : [];
      }),
    );
    // what was kept, taken along or cut then is so again
    ends.value = Object.fromEntries(
      draft.value.leaving.flatMap((l) => {
        const e = p.content.looseEnds.find((x) => x.kind === l.kind && x.label === l.label);
        return e ? [[l.key, e.spare ? 'spare' : 'keep']] : [];
      }),
    );
    name.value = mode.value === 'version' ? found.name : `${found.name}, varied`;
    category.value = found.category;
    tags.value = found.summary.tags.join(', ');
    note.value = p.note;
  } catch {
    /* the preset is gone: save as a new one */
  }
});
watch(mode, (m) => {
  if (m === 'new' && known.value && name.value === known.value.name) {
    name.value = `${known.value.name}, varied`;
  } else if (m === 'version' && known.value) name.value = known.value.name;
});
const toggle = (id: Parts[number]) => {
  parts.value = togglePart(parts.value, id);
  own.value = {};
};
const partsOf = (t: Track) => own.value[t.id] ?? parts.value;
const toggleOwn = (t: Track, id: Parts[number]) => {
  own.value = { ...own.value, [t.id]: togglePart(partsOf(t), id) };
};

async function save() {
  error.value = '';
  if (!name.value.trim()) {
    error.value = 'Give it a name to find it by.';
    return;
  }
  busy.value = true;
  const over = {
    kind: kind.value,
    name: name.value.trim(),
    category: category.value.trim().replace(/^\/+|\/+$/g, ''),
    tags: tags.value
      .split(',')
      .map((t) => t.trim())
      .filter(Boolean),
    note: note.value.trim(),
    colour: props.tracks[0].colour,
  };
  const d = draft.value;
  const k = known.value;
  try {
    const r =
      mode.value === 'version' && k
        ? await api.addVersion(k.id, k.version, createPreset(d, { id: k.id, ...over }))
        : await api.createPreset(
            createPreset(d, {
              id: crypto.randomUUID(),
              ...over,
              parent: k ? { preset: k.id, version: k.version } : null,
            }),
          );
    // what stands here is what the shelf has now, and remembers it; a session that became a starter goes its
    // own way
    if (!props.starter || mode.value === 'version') {
      session.edit(`Saved as “${over.name}”`, (s) =>
        tieToShelf(
          s,
          d,
          { id: r.id, version: r.version, hash: d.hash, name: over.name },
          origin.value?.drop ?? '',
          props.piece?.id ?? null,
        ),
      );
    }
    if (asDefault.value) await useDefaults().set('session:new', r.id, `“${over.name}”`);
    await Promise.all([shelf.refresh(), drop.loadPieces(), origins.load(true)]);
    ui.say(
      mode.value === 'version'
        ? `“${over.name}” is on the shelf as version ${r.version}; the earlier versions are untouched.`
        : `“${over.name}” is on the shelf.`,
      'done',
    );
    emit('close');
  } catch (e) {
    error.value = (e as Error).message;
  } finally {
    busy.value = false;
  }
}
</script>

<template>
  <Sheet
    :title="
      starter
        ? `Save “${what}” as a starter`
        : tracks.length > 1
          ? `Save ${what} as a rig`
          : `Save “${what}” to the shelf`
    "
    :width="900"
    @close="emit('close')"
  >
    <form id="save-form" class="flex flex-col gap-3 text-[13px]" @submit.prevent="save">
      <FlowPicture :content="draft.content" :tempo="session.doc!.tempo" :piece="!!piece" />
      <div v-if="known" class="flex flex-wrap gap-4" role="radiogroup" aria-label="How to save">
        <label class="flex items-center gap-1.5"
          ><input v-model="mode" type="radio" value="version" class="accent-[var(--rope)]" /> As version
          {{ known.version + 1 }} of “{{ known.name }}”</label
        >
        <label class="flex items-center gap-1.5"
          ><input v-model="mode" type="radio" value="new" class="accent-[var(--rope)]" /> As a new preset, a
          variant of it</label
        >
      </div>
      <div class="grid grid-cols-2 gap-3">
        <label class="flex flex-col"
          ><span class="label">Name</span><input v-model="name" class="field" maxlength="200"
        /></label>
        <label class="flex flex-col"
          ><span class="label">{{
            starter ? 'Purpose and style (with a slash)' : 'Category (levels with a slash)'
          }}</span
          ><input
            v-model="category"
            class="field"
            list="categories"
            :placeholder="starter ? 'Tracking/Folk' : 'Voice/Lead'"
            maxlength="200" /><datalist id="categories">
            <option v-for="c in shelf.facets.categories" :key="c.name" :value="c.name" /></datalist
        ></label>
        <label class="flex flex-col"
          ><span class="label">Tags (with commas)</span
          ><input v-model="tags" class="field" placeholder="lead, warm"
        /></label>
        <label class="flex flex-col"
          ><span class="label">What to touch first</span
          ><input v-model="note" class="field" placeholder="Threshold first: 3 to 6 dB of gain reduction"
        /></label>
      </div>
      <template v-if="starter">
        <p>
          {{ tracks.length }} lines at {{ session.doc!.tempo }} bpm, {{ session.doc!.meter.join('/') }},
          {{ session.doc!.sampleRate / 1000 }} kHz, {{ session.doc!.bitDepth }} bit, with the names of the
          hardware that they use. Work in a session that begins from it never changes it.
        </p>
        <label class="flex items-center gap-2"
          ><input v-model="sounds" type="checkbox" class="accent-[var(--rope)]" /> With the sounds on the
          lines</label
        >
        <label class="flex items-center gap-2"
          ><input v-model="asDefault" type="checkbox" class="accent-[var(--rope)]" /> New sessions begin with
          it</label
        >
      </template>
      <template v-else-if="!piece">
        <fieldset class="flex flex-wrap items-center gap-x-3 gap-y-1">
          <legend class="float-left mr-3 font-semibold">Parts</legend>
          <label v-for="p in PARTS" :key="p.id" class="flex items-center gap-1" :title="p.help"
            ><input
              type="checkbox"
              class="accent-[var(--rope)]"
              :checked="parts.includes(p.id)"
              @change="toggle(p.id)"
            />
            {{ p.label }}</label
          >
          <button
            v-if="tracks.length > 1"
            type="button"
            class="btn px-2 py-0.5 text-[12px]"
            :aria-expanded="byLine"
            @click="byLine = !byLine"
          >
            {{ byLine ? 'Hide the lines' : 'Line by line' }}
          </button>
        </fieldset>
        <div
          v-if="byLine"
          class="max-h-[190px] overflow-auto rounded border border-rule"
          tabindex="0"
          role="region"
          aria-label="Parts of each line"
        >
          <table class="w-full text-[12px]">
            <thead class="sticky top-0 bg-sheet">
              <tr>
                <th class="px-2 py-1 text-left font-normal text-soft">Line</th>
                <th v-for="p in PARTS" :key="p.id" class="font-normal text-soft">{{ p.label }}</th>
              </tr>
            </thead>
            <tbody>
              <tr v-for="t in tracks" :key="t.id" class="border-t border-rule">
                <th class="max-w-[160px] truncate px-2 text-left font-normal">{{ t.name }}</th>
                <td v-for="p in PARTS" :key="p.id" class="text-center">
                  <input
                    type="checkbox"
                    class="m-1 h-4 w-4 accent-[var(--rope)]"
                    :aria-label="`${p.label} of ${t.name}`"
                    :checked="partsOf(t).includes(p.id)"
                    @change="toggleOwn(t, p.id)"
                  />
                </td>
              </tr>
            </tbody>
          </table>
        </div>
      </template>
      <section v-if="draft.leaving.length" aria-label="Loose ends">
        <h3 class="font-semibold">
          What leaves the {{ piece ? piece.kind : tracks.length > 1 ? 'chosen lines' : 'line' }}
        </h3>
        <p class="mb-1 text-soft">
          A loose end is tied again where it is dropped; a spare is a copy of the far side that travels along;
          what is cut is not part of the preset.
        </p>
        <table class="w-full">
          <tbody>
            <tr v-for="l in draft.leaving" :key="l.key" class="border-t border-rule">
              <td class="py-1 pr-2">
                {{ END_WORDS[l.kind] }} <strong>{{ l.label }}</strong>{{ ' ' }}
                <span class="text-soft">{{ l.role }}</span>
              </td>
              <td class="max-w-[280px] truncate pr-2 text-soft">
                {{ tracks.length > 1 ? l.from.join(', ') : '' }}
              </td>
              <td class="w-[240px]">
                <select
                  class="field w-full py-0.5"
                  :disabled="!!piece"
                  :aria-label="`${END_WORDS[l.kind]} ${l.label}: what becomes of it`"
                  :value="l.choice"
                  @change="
                    ends = { ...ends, [l.key]: ($event.target as HTMLSelectElement).value as EndChoice }
                  "
                >
                  <option value="keep">keep as a loose end</option>
                  <option v-if="l.canSpare" value="spare">and take it along as a spare</option>
                  <option value="cut">cut</option>
                </select>
              </td>
            </tr>
          </tbody>
        </table>
      </section>
      <section v-if="known" aria-label="What differs">
        <h3 class="font-semibold">
          What differs from {{ mode === 'version' ? `version ${known.version}` : `“${known.name}”` }}
        </h3>
        <DifferenceTable :list="differences" />
      </section>
      <p v-if="error" role="alert" class="text-bad">{{ error }}</p>
    </form>
    <template #actions>
      <span v-if="unchanged" class="mr-auto text-[13px] text-soft"
        >Nothing has changed since version {{ known!.version }}.</span
      >
      <button type="button" class="btn" @click="emit('close')">Cancel</button>
      <button
        type="submit"
        form="save-form"
        class="btn btn-main"
        :disabled="busy || unchanged || parts.length === 0"
      >
        {{ mode === 'version' && known ? `Save version ${known.version + 1}` : 'Save to the shelf' }}
      </button>
    </template>
  </Sheet>
</template>
