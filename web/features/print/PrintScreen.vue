<script setup lang="ts">
/** What a session is printed to, what will come of it, and what came. */
import { ArrowLeft } from '@lucide/vue';
import { computed } from 'vue';
import { useRoute, useRouter } from 'vue-router';
import { useSession } from '../../document/doc.ts';
import { useOpened } from '../transport/index.ts';
import { usePrintPlan } from './plan.ts';
import PrintOptions from './PrintOptions.vue';
import PrintOutlook from './PrintOutlook.vue';
import PrintResult from './PrintResult.vue';
import RecallSheet from './RecallSheet.vue';
import StemTable from './StemTable.vue';
import VersionTable from './VersionTable.vue';

const route = useRoute();
const router = useRouter();
const session = useSession();
const print = usePrintPlan();
const { failed } = useOpened();
const outlook = computed(() => (typeof print.outlook === 'object' ? print.outlook : null));
const trouble = computed(() => (typeof print.outlook === 'string' ? print.outlook : ''));
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
        <button v-if="print.isOwn" type="button" class="btn" @click="print.beginAnew">
          A first plan again
        </button>
        <button
          type="button"
          class="btn btn-main"
          :disabled="print.share !== null || !outlook || outlook.problems.length > 0 || !!print.refused"
          @click="print.print"
        >
          Print it
        </button>
      </div>
      <p v-if="trouble || print.refused" role="alert" class="text-bad">{{ trouble || print.refused }}</p>
      <p v-if="print.simulated.length" class="text-warn">
        Goes over real ports while it plays, and is printed here simulated or silent:
        {{ print.simulated.join(', ') }}. Print those lines with their chains first.
      </p>
      <div v-if="print.share !== null" role="status" class="mb-3 flex items-center gap-3">
        <progress class="flex-1" max="1" :value="print.share" aria-label="Printing" />
        {{ Math.round(print.share * 100) }} %
        <button type="button" class="btn px-2 py-0.5" @click="print.stop">Stop</button>
      </div>
      <PrintOutlook
        v-if="outlook"
        :session="session.doc"
        :plan="print.plan"
        :outlook="outlook"
        @change="print.change"
      />
      <PrintResult v-if="print.done" :key="print.done.files[0]?.id" :done="print.done" />
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
