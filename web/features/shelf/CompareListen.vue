<script setup lang="ts">
/** Both sides of a comparison heard on the same sound, at equal loudness. */
import { Play, Square } from '@lucide/vue';
import { computed, onBeforeUnmount, onMounted, ref, shallowRef, watch } from 'vue';
import type { MediaRef, Preset } from '../../../core/index.ts';
import { api } from '../../api/index.ts';
import { useUi } from '../../ui/window.ts';
import { CompareButton, useAudio } from '../transport/index.ts';
import { titleOf } from './compare.ts';
import { listeningChain, listeningSession, suits } from './listening.ts';

const props = defineProps<{ first: Preset; second: Preset }>();
/** which line of both is compared */
const pair = defineModel<number>('pair', { required: true });
const ui = useUi();
const audio = useAudio();
const sounds = shallowRef<MediaRef[]>([]);
const material = ref('');
onMounted(async () => {
  try {
    sounds.value = await api.media();
    material.value = suits('lead', sounds.value)?.id ?? '';
  } catch (e) {
    ui.fail(e);
  }
});
watch([() => props.first, () => props.second], () => audio.endListening());
onBeforeUnmount(() => audio.endListening());

const lines = computed(() => {
  const count = Math.min(props.first.content.tracks.length, props.second.content.tracks.length);
  return props.first.content.tracks.slice(0, count);
});
const titles = computed(() => [titleOf(props.first), titleOf(props.second)]);
const isPlaying = computed(() => audio.listening?.preset === 'compare');
const line = computed(() => {
  const listening = audio.listening;
  if (!isPlaying.value || !listening) return null;
  return listening.session.tracks.find((t) => t.id === listening.track) ?? null;
});
async function listen() {
  const sound = sounds.value.find((m) => m.id === material.value);
  const first = props.first.content.tracks[pair.value];
  const second = props.second.content.tracks[pair.value];
  if (!sound || !first || !second) return;
  const { session, track } = listeningSession(props.first, sound, first.id);
  await audio.listen('compare', session, track);
  const id = `compare ${props.first.hash} ${props.second.hash} ${pair.value}`;
  const audition = { bypass: [], chains: { [track]: listeningChain(second.chain) } };
  await audio.compareHearings(
    id,
    session.tracks.find((t) => t.id === track)!,
    null,
    titles.value[0],
    [{ id: 'other', label: titles.value[1], at: 'line', audition }],
  );
}
</script>

<template>
  <div class="flex flex-wrap items-center gap-3" role="group" aria-label="Listen to both">
    <label v-if="lines.length > 1" class="flex items-center gap-2"
      >Line
      <select v-model.number="pair" class="field py-0.5" aria-label="Line to compare">
        <option v-for="(t, i) in lines" :key="i" :value="i">{{ t.name }}</option>
      </select></label
    >
    <label class="flex items-center gap-2"
      >On
      <select v-model="material" class="field max-w-[220px] py-0.5" aria-label="Sound to compare on">
        <option v-for="m in sounds" :key="m.id" :value="m.id">{{ m.name.replace(/\.wav$/, '') }}</option>
      </select></label
    >
    <button
      v-if="!isPlaying || !audio.playing"
      type="button"
      class="btn btn-main px-2 py-0.5"
      :disabled="!sounds.length || !lines.length"
      @click="listen"
    >
      <Play :size="14" aria-hidden="true" /> Hear both
    </button>
    <button v-else type="button" class="btn px-2 py-0.5" @click="audio.endListening()">
      <Square :size="13" aria-hidden="true" /> Stop
    </button>
    <template v-if="line && audio.compare?.match"
      ><div class="flex overflow-hidden rounded border border-edge" role="group" aria-label="Which is heard">
        <button
          v-for="(title, i) in titles"
          :key="i"
          type="button"
          class="min-h-6 max-w-[220px] truncate px-2 py-0.5"
          :class="audio.compare.now === i ? 'bg-ink text-paper' : 'bg-sheet'"
          :aria-pressed="audio.compare.now === i"
          @click="audio.hear(i)"
        >
          {{ title }}
        </button>
      </div>
      <span class="text-soft">at equal loudness</span></template
    >
    <CompareButton v-else-if="line && audio.compare" :track="line" />
  </div>
</template>
