<script setup lang="ts">
/** How far a print on the server is, and what can be done with it. */
import { computed } from 'vue';
import type { JobEntry } from '../../../contract/index.ts';
import { useUi } from '../../ui/window.ts';
import { usePrintJobs } from './jobs.ts';

const props = defineProps<{ job: JobEntry }>();
const ui = useUi();
const prints = usePrintJobs();
const waits = computed(() => {
  const before = prints.before(props.job);
  if (before === 0) return 'It is next.';
  return before === 1 ? 'One print comes before it.' : `${before} prints come before it.`;
});
const attempt = (task: () => Promise<unknown>) => void task().catch((e: unknown) => ui.fail(e));
const stop = () => attempt(() => prints.cancel(props.job.id));
const again = () => attempt(() => prints.again(props.job.id));
</script>

<template>
  <div v-if="job.state === 'running'" role="status" class="flex items-center gap-3">
    <progress
      class="min-w-[120px] flex-1"
      max="1"
      :value="job.progress"
      :aria-label="`Printing ${job.name}`"
    />
    {{ Math.round(job.progress * 100) }} %
    <button type="button" class="btn px-2 py-0.5" :aria-label="`Stop printing ${job.name}`" @click="stop">
      Stop
    </button>
  </div>
  <div v-else-if="job.state === 'queued'" role="status" class="flex items-center gap-3">
    Waiting. {{ waits }}
    <button type="button" class="btn px-2 py-0.5" :aria-label="`Stop printing ${job.name}`" @click="stop">
      Stop
    </button>
  </div>
  <div v-else-if="job.state === 'failed'" role="alert" class="flex items-center gap-3 text-bad">
    It could not be printed: {{ job.message }}
    <button type="button" class="btn px-2 py-0.5" :aria-label="`Print ${job.name} again`" @click="again">
      Print it again
    </button>
  </div>
  <div v-else-if="job.state === 'cancelled'" role="status" class="flex items-center gap-3 text-soft">
    Stopped; nothing was kept.
    <button type="button" class="btn px-2 py-0.5" :aria-label="`Print ${job.name} again`" @click="again">
      Print it again
    </button>
  </div>
</template>
