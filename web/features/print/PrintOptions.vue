<script setup lang="ts">
/** Range, files and level of a print. */
import { computed } from 'vue';
import { nameBy, type PrintFile, type PrintPlan, type Session } from '../../../core/index.ts';
import { chosenIn } from '../../ui/events.ts';
import LevelOptions from './LevelOptions.vue';
import MarkTable from './MarkTable.vue';
import RangeOptions from './RangeOptions.vue';

const props = defineProps<{ session: Session; plan: PrintPlan }>();
const emit = defineEmits<{ change: [label: string, over: Partial<PrintPlan>] }>();
const RATES = [44100, 48000, 88200, 96000];
const file = (over: Partial<PrintFile>) =>
  emit('change', 'Files of the print', { file: { ...props.plan.file, ...over } });
const FORMATS: Record<string, Pick<PrintFile, 'format' | 'bits'>> = {
  'wav 16': { format: 'wav', bits: 16 },
  'wav 24': { format: 'wav', bits: 24 },
  'wav 32': { format: 'wav', bits: 32 },
  'flac 16': { format: 'flac', bits: 16 },
  'flac 24': { format: 'flac', bits: 24 },
};
const marks = computed(() => props.plan.marks ?? []);
const example = computed(() => {
  const { session, plan } = props;
  const stem = plan.stems[0]?.name ?? 'Mix';
  const nn = plan.mix && plan.stems.length ? 2 + plan.versions.length : 1;
  return nameBy(plan.file.names, {
    nn,
    song: session.name,
    stem,
    bpm: session.tempo,
    key: '',
    date: '2026-01-31',
  });
});
</script>

<template>
  <div class="flex flex-col gap-4">
    <RangeOptions
      :session="session"
      :plan="plan"
      :marks="marks"
      @change="(label, over) => emit('change', label, over)"
    />
    <MarkTable
      :session="session"
      :marks="marks"
      @change="(label, list) => emit('change', label, { marks: list })"
    />
    <section aria-label="Files">
      <h2 class="mb-1 text-lead font-semibold">Files</h2>
      <div class="flex flex-wrap items-center gap-2">
        <select
          class="field py-0.5"
          aria-label="Format of the files"
          :value="`${plan.file.format} ${plan.file.bits}`"
          @change="file(FORMATS[chosenIn($event)])"
        >
          <option value="wav 16">WAV, 16 bit</option>
          <option value="wav 24">WAV, 24 bit</option>
          <option value="wav 32">WAV, 32 bit floating point</option>
          <option value="flac 16">FLAC, 16 bit</option>
          <option value="flac 24">FLAC, 24 bit</option>
        </select>
        <select
          v-if="plan.file.bits < 32"
          class="field py-0.5"
          aria-label="Dither"
          :value="plan.file.dither"
          @change="file({ dither: chosenIn($event) as PrintFile['dither'] })"
        >
          <option value="triangular">triangular dither</option>
          <option value="shaped">dither, shaped</option>
          <option value="none">no dither</option>
        </select>
        <select
          class="field py-0.5"
          aria-label="Rate of the files"
          :value="plan.file.rate ?? ''"
          @change="file({ rate: Number(chosenIn($event)) || null })"
        >
          <option value="">{{ session.sampleRate / 1000 }} kHz, as the session</option>
          <option v-for="r in RATES" :key="r" :value="r">{{ r / 1000 }} kHz</option>
        </select>
        <label class="flex items-center gap-2"
          ><input
            type="checkbox"
            class="accent-[var(--rope)]"
            :checked="plan.file.mono"
            @change="file({ mono: !plan.file.mono })"
          />one channel where both sides are the same</label
        >
      </div>
      <label class="mt-2 flex items-center gap-2"
        >Names
        <input
          class="field w-[260px] py-0.5"
          maxlength="200"
          :value="plan.file.names"
          aria-label="Names of the files"
          @change="file({ names: chosenIn($event).trim() || '{nn} {song} {stem}' })"
        /><span class="text-note text-soft">{{ example }}.{{ plan.file.format }}</span></label
      >
      <p class="text-note text-soft">
        {nn} the number · {song} · {stem} · {bpm} · {date}.
        {{
          plan.file.format === 'wav'
            ? 'The extension of Broadcast Wave says what and when it is, and how loud; marks are in it, too.'
            : 'FLAC is half as large and loses nothing; it carries neither the extension of Broadcast Wave nor marks.'
        }}
      </p>
    </section>
    <LevelOptions :session="session" :plan="plan" @change="(label, over) => emit('change', label, over)" />
  </div>
</template>
