<script setup lang="ts">
/** With and without, at equal loudness: the first press measures both, then each press switches. */
import { ArrowLeftRight, X } from '@lucide/vue';
import { computed } from 'vue';
import type { Track } from '../../core/index.ts';
import { useAudio } from '../stores/audio.ts';

const props = defineProps<{ track: Track; device?: string | null; label?: string; short?: boolean }>();
const audio = useAudio();
const mine = computed(() => { const c = audio.compare; return c && c.track === props.track.id && (props.device ? c.scope === 'device' && c.bypass[0] === props.device : c.scope === 'line') ? c : null; });
const lufs = (v: number) => (Number.isFinite(v) ? v.toFixed(1).replace('-', '−') : '−∞');
const signed = (v: number) => (v >= 0 ? '+' : '−') + Math.abs(v).toFixed(1);
</script>

<template>
  <div class="flex items-center gap-1 text-[12px]" aria-live="polite">
    <button type="button" class="btn px-2 py-0.5" :aria-pressed="!!mine?.without" :disabled="mine?.busy !== null && mine?.busy !== undefined" :title="'Hear it with and without at equal loudness (W)'" @click="audio.toggleCompare(track, device ?? null)">
      <ArrowLeftRight :size="13" aria-hidden="true" />
      <template v-if="!mine">{{ label ?? 'With / without' }}</template>
      <template v-else-if="mine.busy !== null">Measuring {{ Math.round(mine.busy * 100) }} %</template>
      <strong v-else-if="mine.without" class="text-warn">Without</strong>
      <strong v-else>With</strong>
    </button>
    <template v-if="mine?.match">
      <span v-if="!short" class="whitespace-nowrap text-soft" :title="`With: ${lufs(mine.match.withLufs)} LUFS, without: ${lufs(mine.match.withoutLufs)} LUFS, measured`">{{ lufs(mine.match.withLufs) }} ⇄ {{ lufs(mine.match.withoutLufs) }} LUFS, matched by {{ signed(mine.match.gain) }} dB</span>
      <button type="button" class="btn btn-plain px-1 py-0" aria-label="End the comparison" @click="audio.endCompare()"><X :size="13" aria-hidden="true" /></button>
    </template>
  </div>
</template>
