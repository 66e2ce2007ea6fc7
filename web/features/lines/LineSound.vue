<script setup lang="ts">
/** The recorded sound on a line. */
import { Music } from '@lucide/vue';
import { computed } from 'vue';
import { setClips, type Track } from '../../../core/index.ts';
import { useSession } from '../../document/doc.ts';
import FileSpot from './FileSpot.vue';
import { chooseSound, putSound } from './sound.ts';

const props = defineProps<{ track: Track }>();
const session = useSession();
const sounds = computed(() =>
  props.track.clips.map((clip) => session.doc!.media.find((m) => m.id === clip.media)?.name ?? 'sound'),
);
const takeOff = () =>
  session.edit(`Take the sound off ${props.track.name}`, setClips(props.track.id, [], []));
</script>

<template>
  <FileSpot @file="(file) => void putSound(track.id, file)">
    <p v-if="sounds.length" class="flex items-center gap-1 truncate">
      <Music :size="13" aria-hidden="true" /> {{ sounds.join(', ') }}
    </p>
    <p v-else class="text-soft">No sound yet. Drag a WAV file here, or choose one.</p>
    <div class="mt-1 flex gap-2">
      <button type="button" class="btn px-2 py-0.5" @click="chooseSound(track.id)">Choose a WAV file</button
      ><button v-if="sounds.length" type="button" class="btn btn-plain px-1 py-0.5" @click="takeOff">
        Take off
      </button>
    </div>
  </FileSpot>
</template>
