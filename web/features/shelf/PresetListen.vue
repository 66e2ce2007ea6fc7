<script setup lang="ts">
/** A preset heard on a sound of the person's own, alone with its spares. */
import { Play, Square } from '@lucide/vue';
import { computed, onBeforeUnmount, onMounted, ref, shallowRef, watch } from 'vue';
import type { MediaRef, Preset } from '../../../core/index.ts';
import { api } from '../../api/index.ts';
import { useUi } from '../../ui/window.ts';
import { CompareButton, Meter, useAudio } from '../transport/index.ts';
import { listeningSession, suits } from './listening.ts';

const props = defineProps<{ id: string; preset: Preset; name: string }>();
const ui = useUi();
const audio = useAudio();
const sounds = shallowRef<MediaRef[]>([]);
const material = ref('');
/** the line of a rig or starter that is listened to: the first that a sound comes from */
const heard = ref('');
watch(
  () => props.preset,
  ({ content }) => {
    const withChain = content.tracks.find((t) => t.role === 'audio' && t.chain.length);
    heard.value = (withChain ?? content.tracks[0])?.id ?? '';
  },
  { immediate: true },
);
onMounted(async () => {
  try {
    sounds.value = await api.media();
    material.value = suits(props.preset.content.tracks[0].name, sounds.value)?.id ?? '';
  } catch (e) {
    ui.fail(e);
  }
});
onBeforeUnmount(() => audio.endListening());

const lines = computed(() =>
  props.preset.content.tracks.filter((t) => t.role !== 'master' && t.role !== 'folder'),
);
const isMine = computed(() => audio.listening?.preset === props.id);
const playing = computed(() => {
  const listening = audio.listening;
  if (!isMine.value || !listening) return null;
  return listening.session.tracks.find((t) => t.id === listening.track) ?? null;
});
async function listen() {
  const sound = sounds.value.find((m) => m.id === material.value);
  if (!sound) {
    ui.say('Choose a sound to listen on first.');
    return;
  }
  const { session, track } = listeningSession(props.preset, sound, heard.value);
  await audio.listen(props.id, session, track);
}
watch([material, heard], () => {
  if (isMine.value && audio.playing) void listen();
});
</script>

<template>
  <div
    class="mt-2 flex flex-wrap items-center gap-2 rounded border border-rule bg-sheet p-2 text-body"
    role="group"
    aria-label="Listen"
  >
    <label class="flex items-center gap-2"
      >Listen on
      <select v-model="material" class="field max-w-[220px] py-0.5" aria-label="Sound to listen on">
        <option v-for="m in sounds" :key="m.id" :value="m.id">{{ m.name.replace(/\.wav$/, '') }}</option>
      </select></label
    >
    <label v-if="preset.content.tracks.length > 1" class="flex items-center gap-2"
      >through
      <select v-model="heard" class="field max-w-[160px] py-0.5" aria-label="Line to listen through">
        <option v-for="t in lines" :key="t.id" :value="t.id">{{ t.name }}</option>
      </select></label
    >
    <button
      v-if="isMine && audio.playing"
      type="button"
      class="btn px-2 py-0.5"
      @click="audio.endListening()"
    >
      <Square :size="13" aria-hidden="true" /> Stop
    </button>
    <button
      v-else
      type="button"
      class="btn btn-main px-2 py-0.5"
      :disabled="!sounds.length || audio.starting"
      @click="listen"
    >
      <Play :size="14" aria-hidden="true" /> Listen
    </button>
    <template v-if="playing"
      ><CompareButton :track="playing" /><Meter class="w-[150px]" :track="playing.id" :name="name"
    /></template>
    <span v-if="!sounds.length" class="text-soft"
      >Put a WAV file on a line of a session first; it can be chosen here.</span
    >
  </div>
</template>
