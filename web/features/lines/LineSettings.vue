<script setup lang="ts">
/** Width, colour, input, output and switches of a line. */
import { computed } from 'vue';
import { MIDI_PORTS, destinations, type MidiPort, type Track } from '../../../core/index.ts';
import { useSession } from '../../document/doc.ts';
import { chosenIn } from '../../ui/events.ts';
import { useSheets } from '../../ui/sheets.ts';
import InputPicker from './InputPicker.vue';
import { lineEdit } from './edit.ts';
import ColourMenu from '../../ui/ColourMenu.vue';

const props = defineProps<{ track: Track }>();
const session = useSession();
const edit = lineEdit(() => props.track);
const isMidi = computed(() => props.track.role === 'midi');
const sheets = useSheets();
/** What stands before a hardware input. */
const unitsText = computed(() => {
  const { input } = props.track;
  const names = input.kind === 'hardware' ? (input.units ?? []).map((u) => u.unit.name) : [];
  return names.length ? `Through ${names.join(', ')} …` : 'Units before it …';
});
const takesInput = computed(() => !['master', 'bus', 'return', 'folder', 'midi'].includes(props.track.role));
const places = computed(() => destinations(session.doc!, props.track, false));

const setWidth = (e: Event) => edit('Width', { channels: Number(chosenIn(e)) as 1 | 2 });
function setOutput(e: Event) {
  const track = chosenIn(e);
  edit('Output', { output: track ? { kind: 'track', track } : { kind: 'none' } });
}

const midiOut = computed(() => (props.track.output.kind === 'midi' ? props.track.output : null));
function setPort(e: Event) {
  const port = chosenIn(e) as MidiPort;
  const channel = midiOut.value?.channel ?? 0;
  edit('Output', { output: port ? { kind: 'midi', port, channel } : { kind: 'none' } });
}
function setChannel(e: Event) {
  const port = midiOut.value?.port ?? 'A';
  edit('Output', { output: { kind: 'midi', port, channel: Number(chosenIn(e)) } });
}
</script>

<template>
  <fieldset class="flex flex-col gap-2">
    <legend class="mb-1 text-note font-semibold">Line</legend>
    <label v-if="!isMidi" class="flex items-center justify-between gap-2"
      ><span class="label">Width</span>
      <select
        class="field h-[24px] py-0"
        aria-label="Width"
        :value="track.channels"
        :disabled="track.role === 'master'"
        @change="setWidth"
      >
        <option :value="1">mono</option>
        <option :value="2">stereo</option>
      </select></label
    >
    <div class="flex items-center justify-between gap-2">
      <span class="label">Colour</span>
      <ColourMenu
        :label="`Colour of ${track.name}`"
        :model-value="track.colour"
        @update:model-value="(colour) => edit('Colour', { colour })"
      />
    </div>
    <InputPicker v-if="takesInput" :track="track" />
    <button
      v-if="track.input.kind === 'hardware'"
      type="button"
      class="btn self-end px-2 py-0.5 text-note"
      @click="sheets.open('inputUnits', { track: track.id })"
    >
      {{ unitsText }}
    </button>
    <label v-if="isMidi" class="flex items-center justify-between gap-2"
      ><span class="label">Notes go to</span>
      <span class="flex gap-1"
        ><select
          class="field h-[24px] px-1 py-0"
          aria-label="MIDI port out"
          :value="midiOut?.port ?? ''"
          @change="setPort"
        >
          <option value="">nobody</option>
          <option v-for="p in MIDI_PORTS" :key="p" :value="p">port {{ p }}</option>
        </select>
        <select
          v-if="midiOut"
          class="field h-[24px] px-1 py-0"
          aria-label="MIDI channel out"
          :value="midiOut.channel"
          @change="setChannel"
        >
          <option :value="0">own</option>
          <option v-for="n in 16" :key="n" :value="n">ch {{ n }}</option>
        </select></span
      ></label
    >
    <template v-else>
      <label class="flex items-center justify-between gap-2"
        ><span class="label">Output</span>
        <select
          class="field h-[24px] max-w-[130px] py-0"
          aria-label="Output"
          :value="track.output.kind === 'track' ? track.output.track : ''"
          :disabled="track.role === 'master'"
          @change="setOutput"
        >
          <option value="">{{ track.role === 'master' ? 'speakers' : 'nowhere' }}</option>
          <option v-for="t in places" :key="t.id" :value="t.id">{{ t.name }}</option>
        </select></label
      >
      <label class="flex items-center gap-2"
        ><input
          type="checkbox"
          class="accent-[var(--rope)]"
          :checked="track.soloSafe"
          @change="edit('Solo safe', { soloSafe: !track.soloSafe })"
        />
        Solo safe</label
      >
      <label class="flex items-center gap-2"
        ><input
          type="checkbox"
          class="accent-[var(--rope)]"
          :checked="track.polarity"
          @change="edit('Polarity', { polarity: !track.polarity })"
        />
        Polarity turned over</label
      >
    </template>
  </fieldset>
</template>
