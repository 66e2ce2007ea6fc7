<script setup lang="ts">
/** Measured when it is patched: each loop against what was measured when its preset was saved. */
import { computed, ref, shallowRef } from 'vue';
import {
  RECALLED,
  loopsOfSession,
  setHardware,
  type Measured,
  type SessionLoop,
} from '../../../core/index.ts';
import { jobs } from '../../audio/jobs.ts';
import type { LoopNow } from '../../audio/messages.ts';
import { useSession } from '../../document/doc.ts';
import { useUi } from '../../ui/window.ts';
import { usePorts } from '../ports/index.ts';
import { useAudio } from '../transport/index.ts';
import { measuredText } from './words.ts';

interface Found {
  text: string;
  isGood: boolean;
  now: Measured;
}
const session = useSession();
const ports = usePorts();
const audio = useAudio();
const ui = useUi();
const loops = computed(() =>
  session.doc ? loopsOfSession(session.doc).filter((l) => l.device.hardware) : [],
);
const found = shallowRef<Record<string, Found>>({});
const busy = ref('');
const isLive = ({ device }: SessionLoop) => ports.isOpen && ports.isLive(session.doc!, device);
/** Real units that no connected port leads to cannot be measured. */
const isOutOfReach = (loop: SessionLoop) =>
  !isLive(loop) && loop.device.hardware!.units.some((u) => u.unit.simulated === null);

/** In words: recalled, or what is off and which knob it may be. */
function judge({ now, recalled, suspect }: LoopNow): Found {
  const faults = now.faults.length ? ` ${now.faults.join('; ')}.` : '';
  const said = (text: string, isGood: boolean): Found => ({
    text: `${text}${faults}`,
    isGood: isGood && !faults,
    now,
  });
  if (!recalled) return said(`${measuredText(now)}. Nothing was measured before to hold it against.`, true);
  const within = recalled.within.toFixed(1);
  if (recalled.within <= RECALLED) return said(`Recalled within ${within} dB.`, true);
  const isTone = Math.abs(recalled.response) > Math.abs(recalled.gain);
  const where = isTone ? ` at ${Math.round(recalled.at)} Hz` : '';
  const who = suspect
    ? ` It sounds as if ${suspect.control} of ${suspect.unit} stood at ${suspect.stands}.`
    : '';
  return said(`Off by ${within} dB${where}.${who}`, false);
}
async function measureAll() {
  try {
    await measureEach();
  } catch (e) {
    ui.fail(e);
  } finally {
    busy.value = '';
  }
}
async function measureEach() {
  const out: Record<string, Found> = {};
  const s = session.doc!;
  if (ports.connectionOf(s.setup?.studio)) await audio.wake();
  for (const loop of loops.value.filter((l) => !isOutOfReach(l))) {
    busy.value = loop.device.name;
    const { device } = loop;
    const then = device.hardware!.measured;
    const taken = await audio.measureLive(s, device);
    const measure = taken ? jobs.realLoop(device, taken, then) : jobs.loop(device, s.sampleRate, then);
    out[device.id] = judge(await measure.done);
    found.value = { ...out };
  }
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
  <section v-if="loops.length" class="no-print mt-6" aria-label="Measured afterwards">
    <div class="mb-1 flex items-center gap-3">
      <h2 class="text-lead font-semibold">When it is patched</h2>
      <span class="flex-1" />
      <span v-if="busy" role="status" class="text-soft">Measuring “{{ busy }}” …</span>
      <button type="button" class="btn" :disabled="busy !== ''" @click="measureAll">
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
          isOutOfReach(l)
            ? 'goes through a real unit: connect the real ports to measure it'
            : 'not measured since'
        }}</span>
        <button v-if="found[l.device.id]" type="button" class="btn px-2 py-0.5" @click="keep(l)">
          Keep as the measure
        </button>
      </li>
    </ul>
  </section>
</template>
