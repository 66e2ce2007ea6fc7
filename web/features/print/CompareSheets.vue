<script setup lang="ts">
/** This session's recall sheet against another: as it was printed before, or of another session. */
import { computed, ref, shallowRef, watch } from 'vue';
import type { SessionEntry } from '../../../contract/index.ts';
import { compareSheets, type Session } from '../../../core/index.ts';
import { api } from '../../api/index.ts';
import { useSession } from '../../document/doc.ts';
import { chosenIn } from '../../ui/events.ts';
import Sheet from '../../ui/Sheet.vue';
import { SessionFinder } from '../sessions/index.ts';
import { toldApart } from '../../ui/format.ts';
import { useUi } from '../../ui/window.ts';
import { usePrintJobs } from './jobs.ts';

const props = defineProps<{ session: Session }>();
const emit = defineEmits<{ close: [] }>();
const ui = useUi();
const open = useSession();
const prints = usePrintJobs();
const sessions = shallowRef<SessionEntry[] | null>(null);
const before = shallowRef<Session | null>(null);
const chosen = ref('');
const when = (iso: string) => new Date(iso).toLocaleString([], { dateStyle: 'medium', timeStyle: 'short' });
/** earlier prints of this session */
const printed = computed(() =>
  prints.list.flatMap((job) => {
    const song = job.songs.findIndex((s) => s.session === open.id);
    return song < 0 ? [] : [{ value: `print ${job.id} ${song}`, label: `as printed ${when(job.createdAt)}` }];
  }),
);
const others = computed(() => (sessions.value ?? []).filter((s) => s.id !== open.id));
const changes = computed(() => (before.value ? compareSheets(before.value, props.session) : []));
chosen.value = printed.value[0]?.value ?? '';
async function bring(what: string): Promise<Session> {
  const [kind, id, song] = what.split(' ');
  return kind === 'print' ? api.jobSession(id, Number(song)) : (await api.session(id)).document;
}
watch(
  chosen,
  async (what) => {
    before.value = null;
    if (!what) return;
    const found = await bring(what).catch((e: unknown) => {
      ui.fail(e);
      return null;
    });
    if (chosen.value === what) before.value = found;
  },
  { immediate: true },
);
</script>

<template>
  <Sheet :title="`What changed in ${session.name}`" :width="820" @close="emit('close')">
    <SessionFinder v-model="sessions" @failed="ui.fail" />
    <label class="mb-2 flex items-center gap-2"
      >Since
      <select
        class="field py-0.5"
        aria-label="Compared with"
        :value="chosen"
        @change="chosen = chosenIn($event)"
      >
        <option value="">choose …</option>
        <optgroup v-if="printed.length" label="This session">
          <option v-for="p in printed" :key="p.value" :value="p.value">{{ p.label }}</option>
        </optgroup>
        <optgroup v-if="others.length" label="Other sessions">
          <option v-for="s in others" :key="s.id" :value="`session ${s.id}`">
            {{ toldApart(s, others) }}
          </option>
        </optgroup>
      </select></label
    >
    <p v-if="before && !changes.length" role="status">Nothing: both sheets say the same.</p>
    <table v-else-if="before" class="w-full text-body">
      <thead>
        <tr class="text-left text-note text-soft">
          <th class="font-normal">Part</th>
          <th class="font-normal">What</th>
          <th class="font-normal">Then</th>
          <th class="font-normal">Now</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="(c, i) in changes" :key="i" class="border-t border-rule align-top">
          <td class="py-0.5 pr-3 font-semibold">{{ changes[i - 1]?.part === c.part ? '' : c.part }}</td>
          <td class="pr-3">{{ c.what }}</td>
          <td class="pr-3" :class="{ 'text-soft': !c.from }">{{ c.from || 'not there' }}</td>
          <td :class="{ 'text-soft': !c.to }">{{ c.to || 'not there' }}</td>
        </tr>
      </tbody>
    </table>
    <template #actions><button type="button" class="btn" @click="emit('close')">Close</button></template>
  </Sheet>
</template>
