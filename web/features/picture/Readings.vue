<script setup lang="ts">
/** The live figures of a device in words: level, gain reduction and what else it measures. */
import { computed, ref } from 'vue';
import { DEVICE_TYPES, readingText, type Device } from '../../../core/index.ts';
import { useAudio } from '../transport/index.ts';
import { useFrame } from '../../ui/frame.ts';

const props = defineProps<{ device: Device }>();
const audio = useAudio();
const spec = computed(() => DEVICE_TYPES[props.device.type]);
const text = ref('');
let count = 0;
let deepest = 0;
useFrame(() => {
  const s = audio.slots.get(props.device.id);
  deepest = Math.min(deepest, s?.reduction ?? 0);
  // figures are for reading, so they change slowly
  if (++count % 8) return;
  const out: string[] = [];
  if (audio.playing && s) {
    if (s.level > -100) out.push(`level ${readingText('peak', s.level)}`);
    if (spec.value.reduces) out.push(`gain reduction ${readingText('gain', deepest)}`);
    const { readings = [], shown } = spec.value;
    readings.slice(0, shown?.(props.device.params)).forEach((label, i) => {
      const v = audio.scope.readings?.[i];
      if (v !== undefined) out.push(`${label} ${readingText(label, v)}`);
    });
  }
  deepest = 0;
  text.value = out.join(' · ');
});
</script>

<template>
  <p class="min-h-[18px] text-note text-soft" data-testid="readings">
    {{ text || (audio.playing ? '' : 'Figures come while it plays.') }}
  </p>
</template>
