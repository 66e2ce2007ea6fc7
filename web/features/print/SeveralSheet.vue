<script setup lang="ts">
/** Several sessions printed in a row, each by its own plan; all to one loudness, if that is wanted. */
import { computed, ref, shallowRef, watch } from 'vue';
import type { SessionEntry } from '../../../contract/index.ts';
import { useSession } from '../../document/doc.ts';
import Sheet from '../../ui/Sheet.vue';
import { SessionFinder } from '../sessions/index.ts';
import { toldApart } from '../../ui/format.ts';
import { useUi } from '../../ui/window.ts';
import { usePrintJobs } from './jobs.ts';
import NumberField from '../../ui/NumberField.vue';

const emit = defineEmits<{ close: [] }>();
const ui = useUi();
const prints = usePrintJobs();
const session = useSession();
const sessions = shallowRef<SessionEntry[] | null>(null);
const chosen = ref<string[]>([]);
const isTogether = ref(false);
// EBU R 128
const target = ref(-23);
const ceiling = ref(-1);
const busy = ref(false);
/** all that were seen, so that what is chosen stays when another word is looked for */
const seen = shallowRef<SessionEntry[]>([]);
watch(sessions, (list) => {
  const ids = new Set(seen.value.map((s) => s.id));
  seen.value = [...seen.value, ...(list ?? []).filter((s) => !ids.has(s.id))];
});
const shown = computed(() => {
  const ids = new Set((sessions.value ?? []).map((s) => s.id));
  return seen.value.filter((s) => ids.has(s.id) || chosen.value.includes(s.id));
});
/** in the order of the list */
const songs = computed(() => seen.value.filter((s) => chosen.value.includes(s.id)));
async function go() {
  busy.value = true;
  try {
    if (session.id) await session.flush();
    const asked = songs.value.map((s) => ({ session: s.id }));
    const together = { target: target.value, ceiling: ceiling.value };
    // songs at one loudness are one print: how much each is raised is known when all were heard
    if (isTogether.value) await prints.queue({ songs: asked, together });
    else for (const song of asked) await prints.queue({ songs: [song] });
    emit('close');
  } catch (e) {
    ui.fail(e);
  } finally {
    busy.value = false;
  }
}
</script>

<template>
  <Sheet title="Print several sessions" :width="620" @close="emit('close')">
    <SessionFinder v-model="sessions" @failed="ui.fail" />
    <p v-if="!sessions" class="text-soft">Loading …</p>
    <div v-else class="flex flex-col gap-3 text-body">
      <p>Each by its own print plan; one without gets a first one. They are printed one after the other.</p>
      <fieldset class="max-h-[300px] overflow-auto">
        <legend class="sr-only">Sessions</legend>
        <label v-for="s in shown" :key="s.id" class="flex min-h-7 items-center gap-2"
          ><input v-model="chosen" type="checkbox" class="accent-[var(--rope)]" :value="s.id" />{{
            toldApart(s, shown)
          }}
          <span class="text-note text-soft">{{
            s.trackCount === 1 ? '1 line' : `${s.trackCount} lines`
          }}</span>
        </label>
      </fieldset>
      <div class="flex flex-wrap items-center gap-2 border-t border-rule pt-3">
        <label class="flex items-center gap-2"
          ><input v-model="isTogether" type="checkbox" class="accent-[var(--rope)]" />All to one
          loudness</label
        >
        <template v-if="isTogether">
          <NumberField
            label="Loudness"
            unit="LUFS"
            :value="target"
            :min="-60"
            :max="0"
            @change="target = $event"
          />
          <NumberField
            label="Ceiling"
            unit="dBTP"
            :value="ceiling"
            :min="-40"
            :max="0"
            @change="ceiling = $event"
            >never over</NumberField
          >
        </template>
      </div>
      <p v-if="isTogether" class="text-note text-soft">
        By gain alone: where one song comes to the ceiling before, all of them stay at what it reaches.
      </p>
    </div>
    <template #actions
      ><button type="button" class="btn" @click="emit('close')">Cancel</button
      ><button type="button" class="btn btn-main" :disabled="busy || !songs.length" @click="go">
        {{ songs.length > 1 ? `Print ${songs.length} sessions` : 'Print' }}
      </button></template
    >
  </Sheet>
</template>
