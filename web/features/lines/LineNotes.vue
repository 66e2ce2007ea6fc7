<script setup lang="ts">
/** The notes of a MIDI line, and who hears them. */
import { Music } from '@lucide/vue';
import { computed } from 'vue';
import { listenersIn, onTrack, sameAddress, sentBy, type Track } from '../../../core/index.ts';
import { useSession } from '../../document/doc.ts';
import { filesIn } from '../../ui/events.ts';
import FileSpot from './FileSpot.vue';
import { putNotes, saveNotes } from './notes.ts';

const props = defineProps<{ track: Track }>();
const session = useSession();
const beats = computed(() => session.doc!.meter[0]);
const emptyText = computed(() =>
  props.track.chain.length
    ? 'Its pattern plays.'
    : 'No notes yet. Drag a MIDI file here, choose one, or add a pattern source.',
);
/** The first few instruments that stand at an address the line sends to. */
const hearers = computed(() => {
  const sent = sentBy(props.track);
  const output = props.track.output;
  const addresses = output.kind === 'midi' && !sent.length ? [output] : sent;
  const hearing = listenersIn(session.doc!.tracks).filter((listener) =>
    addresses.some((at) => sameAddress(at, listener) || (at.channel === 0 && at.port === listener.port)),
  );
  return [...new Set(hearing.map((listener) => listener.name))].slice(0, 4);
});
function chosen(e: Event) {
  const [file] = filesIn(e);
  if (file) void putNotes(props.track.id, file);
}
const takeOff = () =>
  session.edit(`Take the notes off ${props.track.name}`, onTrack(props.track.id, { notes: [] }));
</script>

<template>
  <FileSpot @file="(file) => void putNotes(track.id, file)">
    <p v-for="c in track.notes ?? []" :key="c.id" class="flex items-center gap-1 truncate">
      <Music :size="13" aria-hidden="true" /> {{ c.name }}: {{ c.notes.length }} notes,
      {{ Math.ceil(c.length / beats) }} bars
    </p>
    <p v-if="!track.notes?.length" class="text-soft">{{ emptyText }}</p>
    <p v-if="hearers.length" class="text-soft">Heard by {{ hearers.join(', ') }}.</p>
    <p v-else class="text-warn">No instrument listens to it.</p>
    <div class="mt-1 flex flex-wrap gap-2">
      <label class="btn cursor-pointer px-2 py-0.5"
        >Choose a MIDI file<input
          type="file"
          class="sr-only"
          accept=".mid,.midi,audio/midi"
          @change="chosen" /></label
      ><template v-if="track.notes?.length"
        ><button type="button" class="btn px-2 py-0.5" @click="saveNotes(track)">Save as MIDI</button
        ><button type="button" class="btn btn-plain px-1 py-0.5" @click="takeOff">Take off</button></template
      >
    </div>
  </FileSpot>
</template>
