<script setup lang="ts">
/**
 * The values of a line that depend on the voice, worked out from what sounds on it now against what its preset was made
 * with: each with its reason and a tick; what could not be told; how the balance differs.
 */
import { computed, onBeforeUnmount, onMounted, ref, shallowRef } from 'vue';
import {
  applyFit,
  balanceEq,
  onTrack,
  type FitPlan,
  type FitStep,
  type Id,
  type LineReference,
  type Origin,
  type Track,
} from '../../../core/index.ts';
import { api } from '../../api/index.ts';
import { isCancelled, jobs, plain, type Running } from '../../audio/jobs.ts';
import { useSession } from '../../document/doc.ts';
import { WaysToHear } from '../transport/index.ts';
import Sheet from '../../ui/Sheet.vue';
import { useUi } from '../../ui/window.ts';
import BalancePlot from './BalancePlot.vue';
import { heardChain } from './heard.ts';
import { useFitView } from './view.ts';

const props = defineProps<{ track: Id }>();
const emit = defineEmits<{ close: [] }>();
const session = useSession();
const ui = useUi();
const view = useFitView();
const line = computed(() => session.doc?.tracks.find((t) => t.id === props.track));
const plan = shallowRef<FitPlan | null>(null);
const steps = ref<FitStep[]>([]);
const failed = ref('');
let running: Running<FitPlan> | null = null;

/** What the preset's version that the line came from remembers; null where it remembers nothing. */
async function referenceOf({ preset, version, local }: Origin): Promise<LineReference | null> {
  const found = await api.presetVersion(preset, version);
  return found.reference.lines?.[local] ?? null;
}
onMounted(async () => {
  try {
    const reference = await referenceOf(line.value!.origin!);
    running = jobs.fit(plain(session.doc!), props.track, reference);
    plan.value = await running.done;
    steps.value = plan.value.steps.map((step) => ({ ...step }));
  } catch (e) {
    if (!isCancelled(e)) failed.value = (e as Error).message;
  }
});
onBeforeUnmount(() => running?.cancel());
const count = computed(() => steps.value.filter((step) => step.on).length);
const isFitting = computed(
  () => plan.value !== null && !plan.value.steps.length && !plan.value.refused.length,
);

/** The line with what is ticked; it counts as adapted to the voice, not as changed by hand. */
function fittedLine(t: Track): Partial<Track> {
  const on = steps.value.filter((step) => step.on);
  const origin = t.origin && {
    ...t.origin,
    adapted: {
      ...t.origin.adapted,
      ...Object.fromEntries(
        on.flatMap((step) => {
          const local = step.device && t.origin?.ids?.[step.device];
          return local ? [[`${local}/${step.param}`, step.to]] : [];
        }),
      ),
    },
  };
  return { ...applyFit(t, on), ...(origin ? { origin } : {}) };
}
function fit() {
  const name = line.value!.name;
  if (session.edit(`Fit ${name} to its sound`, onTrack(props.track, fittedLine))) {
    const what = count.value === 1 ? '1 value' : `${count.value} values`;
    ui.say(`${what} of ${name} fitted to its sound.`, 'done', [session.undoing()]);
  }
  emit('close');
}
function addEq() {
  const eq = balanceEq(plan.value!.balance!);
  session.edit(
    `An EQ for the balance of ${line.value!.name}`,
    onTrack(props.track, (t) => ({ chain: [...t.chain, eq] })),
  );
  session.select(props.track, eq.id);
  emit('close');
}
</script>

<template>
  <Sheet v-if="line" :title="`Fit “${line.name}” to its sound`" :width="820" steady @close="emit('close')">
    <div class="flex flex-col gap-3 text-body">
      <p v-if="failed" role="alert" class="text-bad">{{ failed }}</p>
      <p v-else-if="!plan" role="status">Listening to the line …</p>
      <p v-else-if="isFitting" role="status">
        Everything fits: the chain does with this sound what it did with the one that it was made for.
      </p>
      <section v-if="steps.length" aria-label="What fits">
        <label
          v-for="step in steps"
          :key="step.path"
          class="flex min-h-7 items-baseline gap-2 border-t border-rule py-1"
          ><input v-model="step.on" type="checkbox" class="accent-[var(--rope)]" /><span class="w-[210px]">{{
            step.label
          }}</span
          ><span class="w-[170px] whitespace-nowrap"
            >{{ step.fromText }} → <strong>{{ step.on ? step.toText : step.fromText }}</strong></span
          ><span class="flex-1 text-soft">{{ step.reason }}</span></label
        >
      </section>
      <WaysToHear
        v-if="count"
        :line="line"
        now="As saved"
        :ways="[{ label: 'Fitted', chain: heardChain(line, fittedLine(line)) }]"
        hint="at equal loudness, while it plays"
      />
      <section v-if="plan?.refused.length" aria-label="Left as it is">
        <h3 class="font-semibold">Left as it is</h3>
        <p v-for="r in plan.refused" :key="r.label + r.reason">
          {{ r.label }}: <span class="text-soft">{{ r.reason }}</span>
        </p>
      </section>
      <section v-if="plan?.balance" aria-label="Balance">
        <h3 class="font-semibold">Balance against the voice that this was made for</h3>
        <BalancePlot :balance="plan.balance" />
        <p v-for="words in plan.balance.words" :key="words">{{ words }}.</p>
        <p v-if="!plan.balance.words.length" class="text-soft">Nothing stands out. No equaliser is moved.</p>
        <button v-else type="button" class="btn mt-1" @click="addEq">
          Put an EQ for it at the end of the chain, inactive
        </button>
      </section>
      <label class="flex min-h-6 items-center gap-2 text-soft"
        ><input v-model="view.isOn" type="checkbox" class="accent-[var(--rope)]" /> When a preset is dropped,
        what fits is ticked by itself</label
      >
    </div>
    <template #actions>
      <button type="button" class="btn" @click="emit('close')">
        {{ steps.length ? 'Cancel' : 'Close' }}
      </button>
      <button v-if="steps.length" type="button" class="btn btn-main" :disabled="!count" @click="fit">
        {{ count === 1 ? 'Fit 1 value' : `Fit ${count} values` }}
      </button>
    </template>
  </Sheet>
</template>
