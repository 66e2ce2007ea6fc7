<script setup lang="ts">
/** What a session is printed to, what will come of it, and what came. */
import { ArrowLeft } from '@lucide/vue';
import { computed, onMounted, watch } from 'vue';
import { HelpMark } from '../guide/index.ts';
import { useRoute, useRouter } from 'vue-router';
import type { Severity } from '../../../core/index.ts';
import { useSession } from '../../document/doc.ts';
import { saveFrom } from '../../ui/save.ts';
import { useUi } from '../../ui/window.ts';
import { useCheck } from '../check/index.ts';
import { useOpened } from '../transport/index.ts';
import { fileUrl, isUnderWay, usePrintJobs, zipUrl } from './jobs.ts';
import JobState from './JobState.vue';
import { usePrintPlan } from './plan.ts';
import PrintOptions from './PrintOptions.vue';
import PrintOutlook from './PrintOutlook.vue';
import PrintResult from './PrintResult.vue';
import RecallSheet from './RecallSheet.vue';
import StemTable from './StemTable.vue';
import { usePrint } from './store.ts';
import VersionTable from './VersionTable.vue';

const route = useRoute();
const router = useRouter();
const session = useSession();
const print = usePrintPlan();
const prints = usePrintJobs();
const playing = usePrint();
const check = useCheck();
const ui = useUi();
const { failed } = useOpened();
const outlook = computed(() => (typeof print.outlook === 'object' ? print.outlook : null));
const trouble = computed(() => (typeof print.outlook === 'string' ? print.outlook : ''));
const isPossible = computed(() => outlook.value !== null && outlook.value.problems.length === 0);
const isBusy = computed(() => (print.job !== null && isUnderWay(print.job)) || playing.isBusy);
/** what the line check finds before anything is printed, in words; advice is left to its own screen */
const findings = computed(() => {
  const of = (severity: Severity, one: string, many: string) => {
    const count = check.open.filter((f) => f.severity === severity).length;
    if (!count) return [];
    return [count === 1 ? `1 ${one}` : `${count} ${many}`];
  };
  return [...of('fault', 'fault', 'faults'), ...of('warning', 'warning', 'warnings')].join(', ');
});
/** what the newest print made of this session */
const made = computed(() => {
  const { made: job, song } = print;
  const printed = job?.printed?.[song];
  if (!job || !printed) return null;
  const day = new Date(job.createdAt).toLocaleString([], { dateStyle: 'medium', timeStyle: 'short' });
  return {
    job,
    printed,
    title: `Printed ${day}`,
    urls: printed.files.map((_, i) => fileUrl(job.id, song, i)),
  };
});
watch(
  () => session.id,
  () => session.doc && void playing.openLoops(session.doc).catch((e: unknown) => ui.fail(e)),
  { immediate: true },
);
onMounted(() => prints.load().catch((e: unknown) => ui.fail(e)));
</script>

<template>
  <main class="min-h-0 flex-1 overflow-auto">
    <p v-if="failed" class="p-8 text-center" role="alert">
      {{ failed }}
      <button type="button" class="btn ml-2" @click="router.push('/sessions')">To the sessions</button>
    </p>
    <div v-else-if="session.doc && print.plan" class="mx-auto max-w-[1120px] p-5">
      <div class="mb-3 flex flex-wrap items-center gap-2">
        <button type="button" class="btn px-2 py-0.5" @click="router.push(`/session/${route.params.id}`)">
          <ArrowLeft :size="14" aria-hidden="true" /> Lines
        </button>
        <h1 class="flex-1 text-title font-semibold">Print {{ session.doc.name }}</h1>
        <HelpMark about="Print and hand over" />
        <button v-if="print.isOwn" type="button" class="btn" @click="print.beginAnew">
          A first plan again
        </button>
        <button
          type="button"
          class="btn"
          :disabled="!isPossible || print.share !== null || !!print.tooLarge"
          :title="print.tooLarge || 'Where the server is busy or away; the window has to stay open'"
          @click="print.printHere"
        >
          Print in this window
        </button>
        <button type="button" class="btn btn-main" :disabled="!isPossible || isBusy" @click="print.print">
          Print it
        </button>
      </div>
      <p v-if="trouble" role="alert" class="text-bad">{{ trouble }}</p>
      <p v-if="findings" class="text-warn">
        The line check says: {{ findings }}.
        <RouterLink class="underline" :to="`/session/${route.params.id}/check`">See what</RouterLink>
      </p>
      <p v-if="print.loops.played.length">
        {{ print.loops.played.map((t) => t.name).join(', ') }}: played through the real loops first, as long
        as it sounds; the rest is printed faster.
      </p>
      <p v-if="print.loops.simulated.length" class="text-warn">
        Real loops on buses and returns are printed simulated or silent:
        {{ print.loops.simulated.join(', ') }}.
      </p>
      <div v-if="playing.busy" role="status" class="mb-3 flex items-center gap-3">
        <progress class="flex-1" max="1" :value="playing.busy.share" :aria-label="playing.busy.what" />
        {{ playing.busy.what }}
        <button type="button" class="btn px-2 py-0.5" @click="playing.stop">Stop</button>
      </div>
      <JobState v-if="print.job" :job="print.job" class="mb-3" />
      <div v-if="print.share !== null" role="status" class="mb-3 flex items-center gap-3">
        <progress class="flex-1" max="1" :value="print.share" aria-label="Printing in this window" />
        {{ Math.round(print.share * 100) }} %
        <button type="button" class="btn px-2 py-0.5" @click="print.stopHere">Stop</button>
      </div>
      <PrintOutlook
        v-if="outlook"
        :session="session.doc"
        :plan="print.plan"
        :outlook="outlook"
        @change="print.change"
      />
      <PrintResult
        v-if="print.done"
        :key="print.done.urls[0]"
        title="Printed in this window"
        :printed="print.done.printed"
        :urls="print.done.urls"
        :meant="print.done.plan.level"
      >
        <button type="button" class="btn btn-main" @click="print.saveAllHere">All as a zip</button>
      </PrintResult>
      <PrintResult
        v-else-if="made"
        :key="made.job.id"
        :title="made.title"
        :printed="made.printed"
        :urls="made.urls"
        :meant="made.job.together ? undefined : print.plan.level"
        :since="print.isOlder ? 'changed' : 'same'"
      >
        <RouterLink class="btn" :to="`/prints/${made.job.id}`">All prints</RouterLink>
        <button type="button" class="btn btn-main" @click="saveFrom(zipUrl(made.job.id))">
          All as a zip
        </button>
      </PrintResult>
      <div class="mt-5 flex flex-col gap-5">
        <StemTable
          :session="session.doc"
          :plan="print.plan"
          @change="(label, stems) => print.change(label, { stems })"
        />
        <VersionTable :session="session.doc" :plan="print.plan" @change="print.change" />
        <PrintOptions :session="session.doc" :plan="print.plan" @change="print.change" />
        <RecallSheet :session="session.doc" />
      </div>
    </div>
  </main>
</template>
