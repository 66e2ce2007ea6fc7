<script setup lang="ts">
/** What was done to the session, from every window, newest first; the way back to any of it is a new step. */
import { computed, onMounted, ref } from 'vue';
import type { HistoryEntry } from '../../../contract/index.ts';
import { api, CLIENT } from '../../api/index.ts';
import { useSession, wordsOf } from '../../document/doc.ts';
import Sheet from '../../ui/Sheet.vue';
import { when } from '../../ui/format.ts';
import { useUi } from '../../ui/window.ts';

const PAGE = 100;
const emit = defineEmits<{ close: [] }>();
const session = useSession();
const ui = useUi();
const entries = ref<HistoryEntry[]>([]);
const isAll = ref(false);
const busy = ref(true);

/** The revision that a step leads back to. */
const beforeIt = (e: HistoryEntry) => e.revision - e.steps;

/** The next page, older than what is shown. */
async function more() {
  busy.value = true;
  try {
    await session.flush();
    const last = entries.value.at(-1);
    const page = await api.history(session.id!, {
      ...(last ? { from: beforeIt(last) } : {}),
      limit: PAGE,
    });
    entries.value = [...entries.value, ...page];
    isAll.value = page.length < PAGE || beforeIt(page.at(-1)!) === 1;
  } catch (e) {
    ui.fail(e);
  } finally {
    busy.value = false;
  }
}
onMounted(more);

const whoOf = (e: HistoryEntry) => {
  if (e.client === CLIENT) return '';
  if (e.by) return e.client === 'shelf' ? `${e.by}, from the shelf` : e.by;
  return e.client === 'shelf' ? 'from the shelf' : 'another window, or before a reload';
};
const days = computed(() => {
  const dayOf = (e: HistoryEntry) => new Date(e.at).toLocaleDateString(undefined, { dateStyle: 'full' });
  const names = [...new Set(entries.value.map(dayOf))];
  return names.map((name) => ({ name, entries: entries.value.filter((e) => dayOf(e) === name) }));
});
const timeOf = (e: HistoryEntry) => new Date(e.at).toLocaleTimeString(undefined, { timeStyle: 'medium' });
const isThinned = computed(() => entries.value.some((e) => e.steps > 1));
const isNow = (e: HistoryEntry) => e === entries.value[0];

/** Puts the session as it was after a step; what came since stays in the history. */
async function goTo(revision: number, words: string) {
  busy.value = true;
  try {
    const { document } = await api.sessionAt(session.id!, revision);
    if (!session.edit(`Back to ${words}`, () => document)) return;
    const undo = session.undoing();
    ui.say(`The session is as it was ${words}. What came since is kept in the history.`, 'done', [undo]);
    emit('close');
  } catch (e) {
    ui.fail(e);
  } finally {
    busy.value = false;
  }
}
const goAfter = (e: HistoryEntry) => goTo(e.revision, `after “${wordsOf(e)}” (${when(e.at)})`);
const goBefore = (e: HistoryEntry) => goTo(beforeIt(e), `before “${wordsOf(e)}” (${when(e.at)})`);
</script>

<template>
  <Sheet title="History" :width="620" @close="emit('close')">
    <p v-if="!entries.length && !busy" class="text-body text-soft">Nothing was done to this session yet.</p>
    <p v-if="isThinned" class="mb-2 text-note text-soft">
      Every step of the last day is here; from before that, what was left of each hour for a month, then of
      each day.
    </p>
    <section v-for="day in days" :key="day.name" class="mb-3">
      <h3 class="mb-1 text-note font-semibold">{{ day.name }}</h3>
      <ol>
        <li
          v-for="e in day.entries"
          :key="e.revision"
          class="flex min-h-8 items-center gap-2 border-t border-rule py-0.5 text-body"
          :class="e.kind === 'undo' ? 'text-soft' : ''"
        >
          <time class="w-[76px] shrink-0 text-note text-soft" :datetime="e.at">{{ timeOf(e) }}</time>
          <span class="min-w-0 flex-1 truncate" :title="wordsOf(e)">{{ wordsOf(e) }}</span>
          <span class="max-w-[150px] truncate text-note text-soft" :title="whoOf(e)">{{ whoOf(e) }}</span>
          <span v-if="isNow(e)" class="px-2 text-note">as it is now</span>
          <button
            v-else
            type="button"
            class="btn px-2 py-0 text-note"
            :disabled="busy"
            :aria-label="`Go back to after: ${wordsOf(e)}, ${timeOf(e)}`"
            @click="goAfter(e)"
          >
            Go back to
          </button>
        </li>
      </ol>
    </section>
    <div class="flex gap-2">
      <button v-if="!isAll && entries.length" type="button" class="btn" :disabled="busy" @click="more">
        Earlier steps
      </button>
      <button
        v-if="isAll && entries.length"
        type="button"
        class="btn"
        :disabled="busy"
        @click="goBefore(entries.at(-1)!)"
      >
        Go back to before all of these
      </button>
    </div>
  </Sheet>
</template>
