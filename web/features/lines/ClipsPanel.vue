<script setup lang="ts">
/** The clips of a line, takes among them: one row each. */
import type { Track } from '../../../core/index.ts';
import { useSheets } from '../../ui/sheets.ts';
import ClipRow from './ClipRow.vue';

defineProps<{ track: Track }>();
const sheets = useSheets();
</script>

<template>
  <div class="min-h-0 flex-1 overflow-auto p-3 text-body">
    <p v-if="!track.clips.length" class="text-soft">
      No sound on this line yet. Let WAV files go anywhere over the session, or choose one under Settings.
    </p>
    <template v-else>
      <div class="mb-1 flex items-center gap-2">
        <p class="flex-1 text-soft">
          Of takes that lie over each other one plays. What moves along the song stays where it is.
        </p>
        <button type="button" class="btn px-2 py-0.5" @click="sheets.open('even', { tracks: [track.id] })">
          Even out …
        </button>
      </div>
      <table class="w-full">
        <thead>
          <tr class="text-left text-note text-soft">
            <th class="font-normal">Plays</th>
            <th class="font-normal">Sound</th>
            <th class="font-normal"><span class="sr-only">Waveform</span></th>
            <th class="font-normal">In the song at</th>
            <th class="font-normal">From</th>
            <th class="font-normal">Length</th>
            <th class="font-normal">Gain</th>
            <th><span class="sr-only">Actions</span></th>
          </tr>
        </thead>
        <tbody>
          <ClipRow v-for="(clip, i) in track.clips" :key="clip.id" :track="track" :clip="clip" :index="i" />
        </tbody>
      </table>
    </template>
  </div>
</template>
