<script setup lang="ts">
/** Saving a line, or one device or rack of it (`piece`), to the shelf: parts, name, category, tags, note, and its loose ends with the copies that travel along. New, or the next version of what it came from. */
import { computed, onMounted, ref, watch } from 'vue';
import { PARTS, USUAL_PARTS, capture, captureSlot, createPreset, diffPresets, isPiece, same, type Parts, type Slot, type Track } from '../../core/index.ts';
import { api, type PresetDetail } from '../api.ts';
import { onSlot, onTrack } from '../stores/edits.ts';
import { useDrop } from '../stores/drop.ts';
import { useSession } from '../stores/session.ts';
import { useShelf } from '../stores/shelf.ts';
import { useUi } from '../stores/ui.ts';
import Sheet from '../ui/Sheet.vue';
import FlowPicture from './FlowPicture.vue';

const props = defineProps<{ track: Track; piece?: Slot }>();
const emit = defineEmits<{ close: [] }>();
const session = useSession();
const shelf = useShelf();
const ui = useUi();
const parts = ref<Parts>([...USUAL_PARTS]);
const spares = ref(true);
const what = computed(() => props.piece ?? props.track);
const drop = useDrop();
const name = ref(what.value.name);
const category = ref('');
const tags = ref('');
const note = ref(props.piece ? '' : props.track.note);
const known = ref<PresetDetail | null>(null);
const mode = ref<'new' | 'version'>('new');
const busy = ref(false);
const error = ref('');

const draft = computed(() => (props.piece ? captureSlot(session.doc!, props.track.id, props.piece.id) : capture(session.doc!, [props.track.id], { parts: parts.value, spares: spares.value })));
const kind = computed(() => props.piece?.kind ?? 'strip');
const differences = computed(() => (known.value ? diffPresets(known.value.preset.content, draft.value.content) : []));
const unchanged = computed(() => mode.value === 'version' && known.value !== null && known.value.preset.hash === draft.value.hash && note.value === known.value.preset.note && name.value === known.value.name);

onMounted(async () => {
  void shelf.refresh();
  if (!what.value.origin) return;
  try {
    const found = await api.preset(what.value.origin.preset);
    // a device that came with a whole line is not that line
    if (props.piece ? found.kind !== props.piece.kind : isPiece(found.kind)) return;
    known.value = found;
    const p = known.value.preset;
    mode.value = 'version';
    parts.value = [...p.content.parts];
    spares.value = p.content.spares.length > 0 || p.content.looseEnds.length === 0;
    name.value = known.value.name;
    category.value = known.value.category;
    tags.value = known.value.summary.tags.join(', ');
    note.value = p.note;
  } catch { /* the preset is gone: save as a new one */ }
});
watch(mode, (m) => { if (m === 'new' && known.value && name.value === known.value.name) name.value = `${known.value.name}, varied`; else if (m === 'version' && known.value) name.value = known.value.name; });
const toggle = (id: Parts[number]) => { parts.value = parts.value.includes(id) ? parts.value.filter((p) => p !== id) : USUAL_PARTS.concat('clips').filter((p) => p === id || parts.value.includes(p)); };

async function save() {
  error.value = '';
  if (!name.value.trim()) { error.value = 'Give it a name to find it by.'; return; }
  busy.value = true;
  const over = { name: name.value.trim(), category: category.value.trim().replace(/^\/+|\/+$/g, ''), tags: tags.value.split(',').map((t) => t.trim()).filter(Boolean), note: note.value.trim(), colour: props.track.colour };
  try {
    const k = known.value;
    const r = mode.value === 'version' && k
      ? await api.addVersion(k.id, k.version, createPreset(draft.value, { id: k.id, kind: kind.value, ...over }))
      : await api.createPreset(createPreset(draft.value, { id: crypto.randomUUID(), kind: kind.value, ...over, parent: k ? { preset: k.id, version: k.version } : null }));
    // the line now is what the shelf has: it remembers which version
    const origin = { preset: r.id, version: r.version, hash: draft.value.hash, name: over.name, drop: what.value.origin?.drop ?? '', local: props.piece ? draft.value.content.tracks[0].chain[0].id : 't1' };
    if (!same(origin, what.value.origin)) session.edit(`Saved as “${over.name}”`, props.piece ? onSlot(props.track.id, props.piece.id, (x) => ({ ...x, origin })) : onTrack(props.track.id, { origin }));
    await Promise.all([shelf.refresh(), drop.loadPieces()]);
    ui.say(mode.value === 'version' ? `“${over.name}” is on the shelf as version ${r.version}; the earlier versions are untouched.` : `“${over.name}” is on the shelf.`, 'done');
    emit('close');
  } catch (e) { error.value = (e as Error).message; } finally { busy.value = false; }
}
</script>

<template>
  <Sheet :title="`Save “${what.name}” to the shelf`" :width="860" @close="emit('close')">
    <form id="save-form" class="flex flex-col gap-3 text-[13px]" @submit.prevent="save">
      <FlowPicture :content="draft.content" :tempo="session.doc!.tempo" :piece="!!piece" />
      <div v-if="known" class="flex flex-wrap gap-4" role="radiogroup" aria-label="How to save">
        <label class="flex items-center gap-1.5"><input v-model="mode" type="radio" value="version" class="accent-[var(--rope)]" /> As version {{ known.version + 1 }} of “{{ known.name }}”</label>
        <label class="flex items-center gap-1.5"><input v-model="mode" type="radio" value="new" class="accent-[var(--rope)]" /> As a new preset, a variant of it</label>
      </div>
      <div class="grid grid-cols-2 gap-3">
        <label class="flex flex-col"><span class="label">Name</span><input v-model="name" class="field" maxlength="200" /></label>
        <label class="flex flex-col"><span class="label">Category (levels with a slash)</span><input v-model="category" class="field" list="categories" placeholder="Voice/Lead" maxlength="200" /><datalist id="categories"><option v-for="c in shelf.facets.categories" :key="c.name" :value="c.name" /></datalist></label>
        <label class="flex flex-col"><span class="label">Tags (with commas)</span><input v-model="tags" class="field" placeholder="lead, warm" /></label>
        <label class="flex flex-col"><span class="label">What to touch first</span><input v-model="note" class="field" placeholder="Threshold first: 3 to 6 dB of gain reduction" /></label>
      </div>
      <fieldset v-if="!piece" class="flex flex-wrap items-center gap-x-3 gap-y-1"><legend class="float-left mr-3 font-semibold">Parts</legend>
        <label v-for="p in PARTS" :key="p.id" class="flex items-center gap-1" :title="p.help"><input type="checkbox" class="accent-[var(--rope)]" :checked="parts.includes(p.id)" @change="toggle(p.id)" /> {{ p.label }}</label>
      </fieldset>
      <section v-if="draft.content.looseEnds.length" aria-label="Loose ends"><h3 class="font-semibold">What leaves the {{ piece ? piece.kind : 'line' }}</h3>
        <p class="text-soft">{{ draft.content.looseEnds.map((e) => `${e.kind} to “${e.label}” (${e.role})`).join(', ') }}. Each becomes a loose end that is tied again where it is dropped.</p>
        <label v-if="!piece" class="mt-1 flex items-center gap-2"><input v-model="spares" type="checkbox" class="accent-[var(--rope)]" /> Take copies of its buses and returns along as spares</label></section>
      <section v-if="mode === 'version' && known" aria-label="What differs"><h3 class="font-semibold">What differs from version {{ known.version }}</h3>
        <p v-if="!differences.length" class="text-soft">Nothing in the settings.</p>
        <table v-else class="w-full"><tbody><tr v-for="d in differences" :key="d.label" class="border-t border-rule"><td class="py-0.5 pr-2">{{ d.label }}</td><td class="pr-2">{{ d.from }}</td><td>→ <strong>{{ d.to }}</strong></td></tr></tbody></table></section>
      <p v-if="error" role="alert" class="text-bad">{{ error }}</p>
    </form>
    <template #actions>
      <span v-if="unchanged" class="mr-auto text-[13px] text-soft">Nothing has changed since version {{ known!.version }}.</span>
      <button type="button" class="btn" @click="emit('close')">Cancel</button>
      <button type="submit" form="save-form" class="btn btn-main" :disabled="busy || unchanged || parts.length === 0">{{ mode === 'version' && known ? `Save version ${known.version + 1}` : 'Save to the shelf' }}</button>
    </template>
  </Sheet>
</template>
