<script setup lang="ts">
/** At which level a print is written, and what that comes to, before it happens. */
import { computed, ref, shallowRef } from 'vue';
import {
  gainFor,
  type Loudness,
  type PrintLevel,
  type PrintPlan,
  type Session,
} from '../../../core/index.ts';
import { isCancelled, jobs, plain, type Running } from '../../audio/jobs.ts';
import { chosenIn } from '../../ui/events.ts';
import { useUi } from '../../ui/window.ts';
import NumberField from '../../ui/NumberField.vue';
import { level as shown } from './words.ts';

const props = defineProps<{ session: Session; plan: PrintPlan }>();
const emit = defineEmits<{ change: [label: string, over: Partial<PrintPlan>] }>();
const ui = useUi();
const setLevel = (level: PrintLevel) => emit('change', 'Level of the print', { level });
const LEVELS: Record<string, PrintLevel> = {
  'as it is': { kind: 'as it is' },
  peak: { kind: 'peak', ceiling: -1 },
  // EBU R 128
  loudness: { kind: 'loudness', target: -23, ceiling: -1 },
};
function levelNumber(side: 'target' | 'ceiling', value: number) {
  const { level } = props.plan;
  if (level.kind !== 'as it is') setLevel({ ...level, [side]: value } as PrintLevel);
}
/** the mix as it was measured, of which session */
const found = shallowRef<{ session: Session; mix: Loudness } | null>(null);
const share = ref<number | null>(null);
let job: Running<Loudness> | null = null;
async function measure() {
  const { session, plan } = props;
  share.value = 0;
  job = jobs.mix(plain(session), plain(plan), (x) => {
    share.value = x;
  });
  try {
    found.value = { session, mix: await job.done };
  } catch (e) {
    if (!isCancelled(e)) ui.fail(e);
  } finally {
    share.value = null;
    job = null;
  }
}
/** What the mix will come to, in words. */
const outlook = computed(() => {
  if (!found.value) return null;
  const { mix, session } = found.value;
  const gain = gainFor(props.plan.level, mix, mix.truePeak);
  const peak = mix.truePeak + gain;
  const raised =
    gain === 0 ? 'as it is' : `${gain > 0 ? 'raised' : 'lowered'} by ${shown(Math.abs(gain))} dB`;
  const { level } = props.plan;
  const missing = level.kind === 'loudness' ? level.target - mix.integrated - gain : 0;
  return {
    text: `The mix, ${raised}: ${shown(mix.integrated + gain)} LUFS, ${shown(peak)} dBTP, ${shown(-peak)} dB of headroom.`,
    isOver: peak > 0 && props.plan.file.bits < 32,
    missing: missing > 0.1 ? `The ceiling comes first: ${shown(missing)} LU under what is asked for.` : '',
    isOld: session.tracks !== props.session.tracks,
  };
});
</script>

<template>
  <section aria-label="Level">
    <h2 class="mb-1 text-lead font-semibold">Level</h2>
    <div class="flex flex-wrap items-center gap-2">
      <select
        class="field py-0.5"
        aria-label="Level of the print"
        :value="plan.level.kind"
        @change="setLevel(LEVELS[chosenIn($event)])"
      >
        <option value="as it is">as it is</option>
        <option value="peak">to a true peak</option>
        <option value="loudness">to a loudness</option>
      </select>
      <NumberField
        v-if="plan.level.kind === 'loudness'"
        label="Loudness"
        unit="LUFS"
        :value="plan.level.target"
        :min="-60"
        :max="0"
        @change="levelNumber('target', $event)"
      />
      <NumberField
        v-if="plan.level.kind !== 'as it is'"
        label="Ceiling"
        unit="dBTP"
        :value="plan.level.ceiling"
        :min="-40"
        :max="0"
        @change="levelNumber('ceiling', $event)"
        >never over</NumberField
      >
      <span class="text-note text-soft">by one gain for all files, so that the balance stays</span>
    </div>
    <div class="mt-1 flex flex-wrap items-center gap-2">
      <button v-if="share === null" type="button" class="btn px-2 py-0.5 text-note" @click="measure">
        Measure the mix
      </button>
      <template v-else>
        <progress max="1" :value="share" aria-label="Measuring the mix" />
        <button type="button" class="btn px-2 py-0.5 text-note" @click="job?.cancel()">Stop</button>
      </template>
      <span v-if="outlook" role="status"
        >{{ outlook.text }}
        <span v-if="outlook.isOver" class="text-bad">It would clip: choose a level, or 32 bit.</span>
        <span v-if="outlook.missing" class="text-warn">{{ outlook.missing }}</span>
        <span v-if="outlook.isOld" class="text-soft">Measured before the last change.</span></span
      >
    </div>
  </section>
</template>
