<script setup lang="ts">
/**
 * Line check: what the standing rules found, faults first, each with why it matters and the way out; silenced
 * ones with their reason.
 */
import { ArrowLeft, Ear, Wrench } from '@lucide/vue';
import { computed, ref } from 'vue';
import { HelpMark } from '../guide/index.ts';
import { useRoute, useRouter } from 'vue-router';
import { RULES, type Finding } from '../../../core/index.ts';
import { useCheck } from './store.ts';
import { useSession } from '../../document/doc.ts';
import { useOpened } from '../transport/index.ts';
import Sheet from '../../ui/Sheet.vue';
import { TapTest } from '../kit/index.ts';
import VirtualRows from '../../ui/VirtualRows.vue';
import FindingRow from './FindingRow.vue';
import SeverityMark from '../../ui/SeverityMark.vue';

const route = useRoute();
const router = useRouter();
const session = useSession();
const check = useCheck();
const { failed } = useOpened();
const only = ref<string>(typeof route.query.line === 'string' ? route.query.line : '');
const shown = computed(() => check.open.filter((f) => !only.value || f.track === only.value));
const groups = computed(() =>
  (['fault', 'warning', 'advice'] as const)
    .map((severity) => ({ severity, list: shown.value.filter((f) => f.severity === severity) }))
    .filter((g) => g.list.length),
);
const WORDS = {
  fault: ['fault', 'faults'],
  warning: ['warning', 'warnings'],
  advice: ['piece of advice', 'pieces of advice'],
};
const levelsText = computed(() => {
  if (!check.levels) return 'Levels are not measured yet.';
  return check.stale ? 'The levels are those of before the last change.' : 'Levels are measured.';
});
function go(f: Finding) {
  session.select(f.track, f.slot ?? null);
  void router.push(`/session/${route.params.id as string}`);
}
const silencing = ref<Finding | null>(null);
const reason = ref('');
function silenceIt() {
  if (silencing.value) check.quiet(silencing.value, reason.value);
  silencing.value = null;
  reason.value = '';
}
</script>

<template>
  <main class="min-h-0 flex-1 overflow-auto">
    <p v-if="failed" class="p-8 text-center" role="alert">
      {{ failed }}
      <button type="button" class="btn ml-2" @click="router.push('/sessions')">To the sessions</button>
    </p>
    <div v-else-if="session.doc" class="mx-auto max-w-[980px] p-5">
      <div class="mb-3 flex flex-wrap items-center gap-2">
        <button type="button" class="btn px-2 py-0.5" @click="router.push(`/session/${route.params.id}`)">
          <ArrowLeft :size="14" aria-hidden="true" /> Lines
        </button>
        <h1 class="flex-1 text-title font-semibold">Line check of {{ session.doc.name }}</h1>
        <HelpMark about="Line check" />
        <label v-if="only" class="flex items-center gap-2 text-body"
          >Only {{ session.nameOf(only) }}
          <button type="button" class="btn px-2 py-0.5" @click="only = ''">Show all</button></label
        >
        <button
          v-if="check.measuring === null"
          type="button"
          class="btn"
          title="Plays the session once, faster than it sounds, and measures every line and the master"
          @click="check.listen()"
        >
          <Ear :size="15" aria-hidden="true" />
          {{ check.levels ? 'Measure the levels again' : 'Measure the levels too' }}
        </button>
        <button v-else type="button" class="btn" @click="check.stop()">
          Measuring {{ Math.round(check.measuring * 100) }} %, stop
        </button>
        <button type="button" class="btn btn-main" :disabled="!check.safe.length" @click="check.fixSafe()">
          <Wrench :size="15" aria-hidden="true" /> Mend all that is safe ({{ check.safe.length }})
        </button>
      </div>
      <p class="mb-3 text-body text-soft" role="status">
        {{ check.done ? '' : 'Checking … ' }}{{ RULES.length }} rules, run after every change.
        {{ levelsText }}
      </p>
      <TapTest v-if="!only" :start="typeof route.query.tap === 'string' ? route.query.tap : ''" />
      <p v-if="check.done && !shown.length" class="rounded border border-rule bg-sheet p-6 text-center">
        Nothing found{{ only ? ` on ${session.nameOf(only)}` : '' }}.
        {{ check.levels ? '' : 'Measure the levels too before a print.' }}
      </p>
      <section v-for="g in groups" :key="g.severity" class="mb-4" :aria-label="WORDS[g.severity][1]">
        <h2 class="mb-1 flex items-center gap-2 font-semibold">
          <SeverityMark :severity="g.severity" /> {{ g.list.length }}
          {{ WORDS[g.severity][g.list.length === 1 ? 0 : 1] }}
        </h2>
        <VirtualRows v-slot="{ item }" as="div" :items="g.list" :key-of="(f) => f.key" :estimate="78">
          <FindingRow :finding="item" @go="go(item)" @silence="silencing = item" />
        </VirtualRows>
      </section>
      <section v-if="check.silenced.length" class="mt-6" aria-label="Silenced">
        <h2 class="mb-1 font-semibold text-soft">{{ check.silenced.length }} silenced</h2>
        <article
          v-for="f in check.silenced"
          :key="f.key"
          class="flex items-start gap-3 border-t border-rule py-2 text-body text-soft"
          :aria-label="f.title"
        >
          <div class="min-w-0 flex-1">
            <p>{{ f.message }}</p>
            <p>Silenced: “{{ f.silenced }}”</p>
          </div>
          <button type="button" class="btn px-2 py-0.5" @click="check.quiet(f, null)">Let it speak</button>
        </article>
      </section>
    </div>
    <p v-else class="p-8 text-center text-soft">Opening the session …</p>
    <Sheet
      v-if="silencing"
      :title="`Silence “${silencing.title}” here`"
      :width="480"
      @close="silencing = null"
    >
      <form id="silence-form" class="flex flex-col gap-2 text-body" @submit.prevent="silenceIt">
        <p>{{ silencing.message }}</p>
        <label class="flex flex-col"
          ><span class="label">Why it is meant so</span
          ><input
            v-model="reason"
            class="field"
            maxlength="300"
            placeholder="The trigger is heard nowhere on purpose"
        /></label>
      </form>
      <template #actions
        ><button type="button" class="btn" @click="silencing = null">Cancel</button
        ><button type="submit" form="silence-form" class="btn btn-main" :disabled="!reason.trim()">
          Silence it
        </button></template
      >
    </Sheet>
  </main>
</template>
