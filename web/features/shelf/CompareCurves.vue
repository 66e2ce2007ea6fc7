<script setup lang="ts">
/** Two lines' curves over each other: the whole chain, and each device with a transfer curve. */
import { computed } from 'vue';
import { logFrequencies, responseCurve, type Track } from '../../../core/index.ts';
import { CurvePlot } from '../picture/index.ts';
import { transferCurves } from './compare.ts';

const props = defineProps<{ first: Track; second: Track }>();
const FREQUENCIES = logFrequencies(220);
const RATE = 48000;
const responseOf = (t: Track) => responseCurve(t.chain, FREQUENCIES, RATE);
const responses = computed(() => ({ a: responseOf(props.first), b: responseOf(props.second) }));
const transfers = computed(() => transferCurves(props.first, props.second));
</script>

<template>
  <div class="grid grid-cols-3 gap-3">
    <CurvePlot
      class="col-span-2"
      title="Frequency response of the whole chain"
      :a="responses.a"
      :b="responses.b"
      :low="-24"
      :high="24"
      left="20 Hz"
      right="20 kHz"
      unit="dB"
    />
    <CurvePlot
      v-for="d in transfers"
      :key="d.name"
      :title="d.name"
      :a="d.a"
      :b="d.b"
      :low="-60"
      :high="12"
      left="−60 dB in"
      right="+6 dB"
      unit="dB out"
    />
  </div>
</template>
