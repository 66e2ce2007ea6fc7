<script setup lang="ts">
/** Measured when it is patched: each loop against what was measured when its preset was saved. */
import { computed, ref, shallowRef } from 'vue';
import {
  RECALLED,
  compareRecall,
  formatDb,
  loopsOfSession,
  measureSimulated,
  setHardware,
  suspectControl,
  type Measured,
  type SessionLoop,
} from '../../../core/index.ts';
import { useSession } from '../../document/doc.ts';
import { useUi } from '../../ui/window.ts';
import { measuredText } from './words.ts';

interface Found {
  text: string;
  isGood: boolean;
  now: Measured;
}
const session = useSession();
const ui = useUi();
const loops = computed(() =>
  session.doc ? loopsOfSession(session.doc).filter((l) => l.device.hardware) : [],
);
const found = shallowRef<Record<string, Found>>({});
const busy = ref('');
const real = ({ device }: SessionLoop) => device.hardware!.units.some((u) => u.unit.simulated === null);

/** In words: recalled, or what is off and which knob it may be. */
function judge(loop: SessionLoop, now: Measured): Found {
  const then = loop.device.hardware!.measured;
  const faults = now.faults.length ? ` ${now.faults.join('; ')}.` : '';
  if (!then)
    {return {
      text: `${measuredText(now)}. Nothing was measured before to hold it against.${faults}`,
      isGood: !faults,
      now,
    };}
  const off = compareRecall(then, now);
  if (off.within <= RECALLED)
    {return { text: `Recalled within ${off.within.toFixed(1)} dB.${faults}`, isGood: !faults, now };}
  const where = Math.abs(off.response) > Math.abs(off.gain) ? ` at ${Math.round(off.at)} Hz` : '';
  const suspect = suspectControl(loop.device, now);
  const who = suspect
    ? ` It sounds as if ${suspect.control} of ${suspect.unit} stood at ${suspect.stands}.`
    : '';
  return { text: `Off by ${formatDb(off.within)}${where}.${who}${faults}`, isGood: false, now };
}
async function measureAll() {
  const out: Record<string, Found> = {};
  for (const loop of loops.value.filter((l) => !real(l))) {
    busy.value = loop.device.name;
    // the page shows how far it is before the next one begins
    await new Promise((done) => setTimeout(done, 30));
    out[loop.device.id] = judge(
      loop,
      measureSimulated(loop.device, session.doc!.sampleRate, new Date().toISOString()),
    );
    found.value = { ...out };
  }
  busy.value = '';
}
function keep(loop: SessionLoop) {
  const { now } = found.value[loop.device.id];
  const hardware = { ...loop.device.hardware!, measured: now };
  if (session.edit('Keep what was measured', setHardware(loop.track.id, loop.device.id, hardware))) {
    ui.say(`What was measured of “${loop.device.name}” is kept with it.`, 'done');
  }
}
</script>

<template>
  <section v-if="loops.length" class="mt-6" aria-label="Measured afterwards">
    <div class="mb-1 flex items-center gap-3">
      <h2 class="text-lead font-semibold">When it is patched</h2>
      <span class="flex-1" />
      <span v-if="busy" role="status" class="text-soft">Measuring “{{ busy }}” …</span>
      <button type="button" class="btn no-print" :disabled="busy !== ''" @click="measureAll">
        Measure what I patched
      </button>
    </div>
    <ul>
      <li
        v-for="l in loops"
        :key="l.device.id"
        class="flex flex-wrap items-baseline gap-3 border-t border-rule py-1.5"
      >
        <strong>{{ l.device.name }}</strong><span class="text-soft">on {{ l.track.name }}</span>
        <span
          v-if="found[l.device.id]"
          class="flex-1"
          :class="found[l.device.id].isGood ? 'text-good' : 'text-warn'"
          >{{ found[l.device.id].text }}</span
        >
        <span v-else class="flex-1 text-soft">{{
          real(l) ? 'goes through a real unit, which this program cannot reach yet' : 'not measured since'
        }}</span>
        <button v-if="found[l.device.id]" type="button" class="btn no-print px-2 py-0.5" @click="keep(l)">
          Keep as the measure
        </button>
      </li>
    </ul>
  </section>
</template>
