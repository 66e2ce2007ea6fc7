<script setup lang="ts">
/**
 * The selected line without a device: width, output, sends, level and pan, sound, note, where it came from.
 */
import { Package } from '@lucide/vue';
import { computed } from 'vue';
import type { Track } from '../../../core/index.ts';
import { chosenIn } from '../../ui/events.ts';
import { INPUT_TRIM, LEVEL, PAN } from '../../ui/specs.ts';
import ValueField from '../../ui/ValueField.vue';
import { AutomationPanel, useLaneView } from '../automation/index.ts';
import { useKit } from '../kit/index.ts';
import { usePrint } from '../print/index.ts';
import { OriginMark } from '../origin/index.ts';
import { CompareButton, MasterMeters } from '../transport/index.ts';
import { lineEdit } from './edit.ts';
import ClipsPanel from './ClipsPanel.vue';
import LineNotes from './LineNotes.vue';
import LineSettings from './LineSettings.vue';
import LineSound from './LineSound.vue';
import SendRows from './SendRows.vue';
import SoundFigures from './SoundFigures.vue';

const props = defineProps<{ track: Track }>();
const emit = defineEmits<{ save: [] }>();
const view = useLaneView();
const kit = useKit();
const print = usePrint();
const edit = lineEdit(() => props.track);
const isMidi = computed(() => props.track.role === 'midi');
const setTrim = (dB: number, sliding: boolean) =>
  edit('Trim before the chain', { inputTrim: dB }, sliding ? 'trim' : undefined);
const showsLanes = computed(() => view.page === 'lanes' && !isMidi.value);
const holdsSound = computed(() => !['folder', 'master', 'bus', 'return', 'midi'].includes(props.track.role));
const showsClips = computed(() => view.page === 'clips' && holdsSound.value);
const roleText = computed(() => {
  if (isMidi.value) return 'MIDI';
  return `${props.track.role}, ${props.track.channels === 1 ? 'mono' : 'stereo'}`;
});
const pages = computed(() => {
  const lanes = props.track.automation?.length;
  const clips = props.track.clips.length;
  return [
    { id: 'line', label: 'Settings' },
    { id: 'lanes', label: lanes ? `Automation (${lanes})` : 'Automation' },
    ...(holdsSound.value ? [{ id: 'clips', label: clips ? `Clips (${clips})` : 'Clips' } as const] : []),
  ] as { id: typeof view.page; label: string }[];
});
</script>

<template>
  <section class="flex h-full min-h-0 flex-col" :aria-label="`Line ${track.name}`">
    <header class="flex items-center gap-2 border-b border-rule px-3 py-1">
      <h2 class="truncate text-head font-semibold">{{ track.name }}</h2>
      <span class="text-note text-soft">{{ roleText }}</span>
      <OriginMark v-if="track.origin" :id="track.id" :origin="track.origin" />
      <template v-if="track.printed"
        ><span class="chip">printed</span
        ><button
          v-if="track.printed.instrument"
          type="button"
          class="btn px-2 py-0.5"
          @click="kit.restore(track.printed.instrument.slot)"
        >
          Restore the instrument</button
        ><button v-else type="button" class="btn px-2 py-0.5" @click="print.restore([track])">
          Restore the line
        </button></template
      >
      <span v-if="!isMidi" class="ml-2 flex" role="group" aria-label="What this panel shows">
        <button
          v-for="page in pages"
          :key="page.id"
          type="button"
          class="switch w-auto px-2"
          :aria-pressed="view.page === page.id"
          @click="view.page = page.id"
        >
          {{ page.label }}
        </button>
      </span>
      <span class="flex-1" />
      <CompareButton v-if="track.chain.length && !isMidi" :track="track" label="Chain with / without" />
      <button v-if="track.role !== 'master'" type="button" class="btn px-2 py-0.5" @click="emit('save')">
        <Package :size="14" aria-hidden="true" /> Save to the shelf
      </button>
    </header>
    <AutomationPanel v-if="showsLanes" :key="track.id" :track="track" />
    <ClipsPanel v-else-if="showsClips" :key="`clips ${track.id}`" :track="track" />
    <div v-else class="fields grid min-h-0 flex-1 gap-4 overflow-auto p-3 text-body">
      <LineSettings :track="track" />
      <fieldset class="flex flex-col gap-2">
        <legend class="mb-1 text-note font-semibold">{{ isMidi ? 'Notes' : 'Level and sound' }}</legend>
        <LineNotes v-if="isMidi" :track="track" />
        <template v-else>
          <ValueField
            :spec="LEVEL"
            :value="track.level"
            :name="`Level, ${track.name}`"
            @change="(v, sliding) => edit('Level', { level: v as number }, sliding ? 'level' : undefined)"
          />
          <ValueField
            :spec="PAN"
            :value="track.pan"
            :name="`Pan, ${track.name}`"
            @change="(v, sliding) => edit('Pan', { pan: v as number }, sliding ? 'pan' : undefined)"
          />
          <ValueField
            v-if="holdsSound"
            :spec="INPUT_TRIM"
            :value="track.inputTrim ?? 0"
            :name="`Trim before the chain, ${track.name}`"
            @change="(v, sliding) => setTrim(v as number, sliding)"
          />
        </template>
        <LineSound v-if="holdsSound" :track="track" />
      </fieldset>
      <div v-if="track.role === 'master'" class="flex min-w-0 flex-col gap-3">
        <MasterMeters /><SoundFigures :track="track" />
      </div>
      <fieldset v-else-if="isMidi" class="min-w-0 text-note text-soft">
        <legend class="mb-1 text-note font-semibold text-ink">Sends</legend>
        A MIDI line sends notes, no sound.
      </fieldset>
      <SendRows v-else :track="track"><SoundFigures class="mt-4" :track="track" /></SendRows>
      <label class="flex min-h-0 flex-col"
        ><span class="mb-1 text-note font-semibold">Note: what to touch first</span>
        <textarea
          class="field min-h-[60px] flex-1 resize-none text-body"
          :value="track.note"
          placeholder="Threshold first, then …"
          @change="edit('Note', { note: chosenIn($event) })"
        />
      </label>
    </div>
  </section>
</template>

<style scoped>
.fields {
  grid-template-columns: 176px 196px minmax(376px, 560px) minmax(156px, 200px);
}
header > * {
  white-space: nowrap;
}
@media (max-width: 860px), (max-height: 540px) {
  header {
    flex-wrap: wrap;
  }
  .fields {
    grid-template-columns: 1fr 1fr;
  }
  .fields > :nth-child(n + 3) {
    grid-column: 1 / -1;
  }
}
</style>
