<script setup lang="ts">
/** Lines of any other session, or of an imported file, taken over like a preset. */
import { computed, ref, shallowRef, watch } from 'vue';
import { PARTS, USUAL_PARTS, borrow, type Place, type Session, type Track } from '../../../core/index.ts';
import { api } from '../../api/index.ts';
import type { SessionEntry } from '../../../contract/index.ts';
import { useDrop } from './store.ts';
import { useSession } from '../../document/doc.ts';
import { SessionFinder } from '../sessions/index.ts';
import { toldApart } from '../../ui/format.ts';
import { useUi } from '../../ui/window.ts';
import Sheet from '../../ui/Sheet.vue';

const emit = defineEmits<{ close: [] }>();
const session = useSession();
const drop = useDrop();
const ui = useUi();
const list = shallowRef<SessionEntry[]>([]);
const from = ref('');
const other = shallowRef<Session | null>(null);
const chosen = ref<string[]>([]);
const clips = ref(false);
const busy = ref('');
const failed = ref('');
const found = shallowRef<SessionEntry[] | null>(null);
const finder = ref<{ again(): Promise<void> } | null>(null);
watch(found, (sessions) => {
  list.value = (sessions ?? []).filter((s) => s.id !== session.id);
  const [first] = list.value;
  if (first && !list.value.some((s) => s.id === from.value)) void open(first.id);
});
const fail = (message: string) => {
  failed.value = message;
};
async function open(id: string) {
  from.value = id;
  chosen.value = [];
  other.value = null;
  if (!id) return;
  try {
    other.value = (await api.session(id)).document;
    failed.value = '';
  } catch (e) {
    failed.value = (e as Error).message;
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
    await finder.value?.again();
    await open(r.id);
  } catch (x) {
    failed.value = (x as Error).message;
  } finally {
    busy.value = '';
  }
}
const lines = computed(() => other.value?.tracks ?? []);
const sum = computed(() => other.value?.tracks.filter((t) => chosen.value.includes(t.id)) ?? []);
/** A master alone goes onto the one that is here; with others it becomes a bus. */
function placeFor(taken: readonly Track[]): Place {
  const here = session.doc?.tracks.find((t) => t.role === 'master');
  const isMaster = taken.length === 1 && taken[0].role === 'master';
  return isMaster && here ? { kind: 'onto', track: here.id, chain: 'replace' } : { kind: 'new' };
}
function take() {
  const parts = PARTS.map((part) => part.id).filter((part) => part !== 'clips' || clips.value);
  const p = borrow(other.value!, chosen.value, { parts });
  emit('close');
  drop.beginWith(p, placeFor(sum.value), false, { borrowed: true });
  // what belongs to the other song is offered, and comes along when its sounds do
  if (!clips.value) drop.parts = [...USUAL_PARTS];
}
</script>

<template>
  <Sheet title="Borrow lines from another session" :width="620" @close="emit('close')">
    <div class="flex flex-col gap-3 text-body">
      <div class="flex flex-wrap items-center gap-3">
        <SessionFinder ref="finder" v-model="found" @failed="fail" />
        <label class="flex items-center gap-2"
          >From
          <select
            class="field max-w-[260px] py-0.5"
            aria-label="Session to borrow from"
            :value="from"
            @change="open(($event.target as HTMLSelectElement).value)"
          >
            <option v-for="s in list" :key="s.id" :value="s.id">{{ toldApart(s, list) }}</option>
          </select></label
        >
        <label
          class="btn cursor-pointer px-2 py-0.5 focus-within:outline focus-within:outline-2 focus-within:outline-rope"
          >Import a DAWproject file<input
            type="file"
            class="sr-only"
            accept=".dawproject,application/zip"
            aria-label="Import a DAWproject file to borrow from"
            @change="importFile"
        /></label>
        <span v-if="busy" role="status" class="text-soft">{{ busy }}</span>
      </div>
      <p v-if="failed" role="alert" class="text-bad">{{ failed }}</p>
      <p v-if="found && !list.length && !failed" class="text-soft">
        There is no other session. Import the open session file of another program to borrow from it.
      </p>
      <fieldset v-if="lines.length" class="max-h-[46vh] overflow-auto">
        <legend class="mb-1 font-semibold">Lines</legend>
        <label v-for="t in lines" :key="t.id" class="flex items-center gap-2 border-t border-rule py-1"
          ><input v-model="chosen" type="checkbox" class="accent-[var(--rope)]" :value="t.id" /><span
            class="h-4 w-[5px] rounded-sm"
            :style="{ background: ui.swatch(t.colour) }"
          /><span class="w-[190px] truncate">{{ t.name }}</span
          ><span class="text-soft"
            >{{ t.role }}, {{ t.chain.length }} {{ t.chain.length === 1 ? 'device' : 'devices'
            }}{{ t.clips.length ? ', with sound' : '' }}</span
          ></label
        >
      </fieldset>
      <label class="flex items-center gap-2"
        ><input v-model="clips" type="checkbox" class="accent-[var(--rope)]" /> With the sounds on them</label
      >
    </div>
    <template #actions
      ><span class="mr-auto text-body text-soft"
        >Buses and returns that they use can come along; the next sheet asks.</span
      ><button type="button" class="btn" @click="emit('close')">Cancel</button
      ><button type="button" class="btn btn-main" :disabled="!sum.length" @click="take">
        Borrow {{ sum.length === 1 ? 'one line' : `${sum.length} lines` }} …
      </button></template
    >
  </Sheet>
</template>
