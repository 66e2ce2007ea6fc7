<script setup lang="ts">
/** All prints on the server: what waits, what is printed, what came of it; several sessions in a row. */
import { computed, onBeforeUnmount, onMounted, ref, shallowRef, watch } from 'vue';
import { useRoute, useRouter } from 'vue-router';
import type { JobDetail, JobEntry, PrintedSong } from '../../../contract/index.ts';
import { api } from '../../api/index.ts';
import EmptyNote from '../../ui/EmptyNote.vue';
import RemoveButton from '../../ui/RemoveButton.vue';
import { saveFrom } from '../../ui/save.ts';
import { useUi } from '../../ui/window.ts';
import { fileUrl, isUnderWay, usePrintJobs, zipUrl } from './jobs.ts';
import JobState from './JobState.vue';
import PrintResult from './PrintResult.vue';
import SeveralSheet from './SeveralSheet.vue';
import { level, megabytes } from './words.ts';

const route = useRoute();
const router = useRouter();
const ui = useUi();
const prints = usePrintJobs();
const failed = ref('');
const choosing = ref(false);
const shown = shallowRef<JobDetail | null>(null);
let unlisten: (() => void) | null = null;

async function load() {
  failed.value = '';
  await prints.load().catch((e: unknown) => {
    failed.value = (e as Error).message;
  });
}
onMounted(() => {
  void load();
  unlisten = prints.listen();
});
onBeforeUnmount(() => unlisten?.());
const total = computed(() => prints.list.reduce((sum, job) => sum + job.bytes, 0));
/** the print whose files are shown, and how it stands */
const open = computed(() => {
  const job = prints.list.find((x) => x.id === route.params.id);
  return [route.params.id as string | undefined, job?.state] as const;
});
watch(
  open,
  async ([id, state]) => {
    shown.value = null;
    if (!id || state !== 'done') return;
    shown.value = await api.job(id).catch((e: unknown) => {
      ui.fail(e);
      return null;
    });
  },
  { immediate: true },
);
const toggle = (job: JobEntry) =>
  router.replace(route.params.id === job.id ? '/prints' : `/prints/${job.id}`);
const when = (iso: string) => new Date(iso).toLocaleString([], { dateStyle: 'medium', timeStyle: 'short' });
const titleOf = (job: JobEntry) =>
  job.songs.length === 1 ? job.name : `${job.name} and ${job.songs.length - 1} more`;
const remove = (job: JobEntry) => prints.remove(job.id).catch((e: unknown) => ui.fail(e));
function sinceOf({ now, revision }: PrintedSong) {
  if (now === null) return 'gone';
  return now === revision ? 'same' : 'changed';
}
/** How a print of several songs came out, in words. */
function loudnessOf({ together, printed }: JobDetail): string {
  const found = printed?.map((p) => p.files[0]?.loudness.integrated).filter(Number.isFinite) ?? [];
  if (!together || !found.length) return '';
  const common = Math.min(...(found as number[]));
  const text = `All songs at ${level(common)} LUFS`;
  return common < together.target - 0.05
    ? `${text}: one of them comes to its ceiling there, before ${level(together.target)} LUFS.`
    : `${text}.`;
}
</script>

<template>
  <main class="min-h-0 flex-1 overflow-auto">
    <div class="mx-auto max-w-[1120px] p-5">
      <div class="mb-3 flex items-center gap-2">
        <h1 class="flex-1 text-title font-semibold">Prints</h1>
        <span v-if="total" class="text-soft">{{ megabytes(total) }} MB on the server</span>
        <button type="button" class="btn btn-main" @click="choosing = true">Print several sessions …</button>
      </div>
      <p v-if="failed" role="alert" class="rounded border border-bad p-3">
        {{ failed }} <button type="button" class="btn ml-2" @click="load">Try again</button>
      </p>
      <EmptyNote
        v-else-if="!prints.list.length"
        class="rounded border border-dashed border-edge"
        text="Nothing was printed yet. Open a session and choose Print there, or print several in a row."
      >
        <RouterLink to="/sessions" class="btn">Open a session</RouterLink>
        <button type="button" class="btn" @click="choosing = true">Print several sessions …</button>
      </EmptyNote>
      <ul v-else>
        <li
          v-for="job in prints.list"
          :key="job.id"
          class="border-t border-rule py-2"
          :aria-label="titleOf(job)"
        >
          <div class="flex items-center gap-3">
            <button
              type="button"
              class="btn btn-plain min-w-0 truncate px-1 text-left font-semibold"
              :aria-expanded="route.params.id === job.id"
              :disabled="job.state !== 'done'"
              @click="toggle(job)"
            >
              {{ titleOf(job) }}
            </button>
            <span class="text-note whitespace-nowrap text-soft">{{ when(job.createdAt) }}</span>
            <span v-if="job.state === 'done'" class="text-note whitespace-nowrap text-soft"
              >{{ job.files === 1 ? '1 file' : `${job.files} files` }}, {{ megabytes(job.bytes) }} MB</span
            >
            <JobState :job="job" class="min-w-0 flex-1" />
            <span class="flex-1" />
            <button
              v-if="job.state === 'done'"
              type="button"
              class="btn px-2 py-0.5"
              :aria-label="`${titleOf(job)} as a zip`"
              @click="saveFrom(zipUrl(job.id))"
            >
              As a zip
            </button>
            <RemoveButton
              v-if="!isUnderWay(job)"
              :what="`the print of ${titleOf(job)}`"
              @remove="remove(job)"
            />
          </div>
          <template v-if="shown?.id === job.id && shown.printed">
            <p v-if="loudnessOf(shown)">{{ loudnessOf(shown) }}</p>
            <PrintResult
              v-for="(song, i) in shown.printed"
              :key="i"
              :title="song.name"
              :printed="song"
              :since="sinceOf(song)"
              :urls="song.files.map((_, k) => fileUrl(job.id, i, k))"
            >
              <RouterLink
                v-if="song.now !== null"
                class="btn px-2 py-0.5"
                :to="`/session/${song.session}/print`"
                >Its plan</RouterLink
              >
            </PrintResult>
          </template>
        </li>
      </ul>
      <SeveralSheet v-if="choosing" @close="choosing = false" />
    </div>
  </main>
</template>
