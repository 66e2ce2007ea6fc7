<script setup lang="ts">
/**
 * The selected line without a device: width, output, sends, level and pan, sound, note, where it came from.
 */
import { Music, Package, Plus, Trash2 } from '@lucide/vue';
import { computed, ref } from 'vue';
import {
  COLOURS,
  MIDI_PORTS,
  listenersIn,
  sameAddress,
  sentBy,
  type MidiPort,
  type Send,
  type Track,
  addSend,
  destinations,
  removeSend,
  setClips,
  onSend,
  onTrack,
} from '../../../core/index.ts';
import { useSession } from '../../document/doc.ts';
import { useUi } from '../../ui/window.ts';
import PopMenu from '../../ui/PopMenu.vue';
import ValueField from '../../ui/ValueField.vue';
import { useKit } from '../kit/index.ts';
import { AutomationPanel } from '../automation/index.ts';
import { CompareButton, MasterMeters } from '../transport/index.ts';
import InputPicker from './InputPicker.vue';
import { OriginMark } from '../origin/index.ts';
import SoundFigures from './SoundFigures.vue';
import { LEVEL, PAN, SEND_LEVEL } from '../../ui/specs.ts';
import { putNotes, saveNotes } from './notes.ts';
import { chooseSound, putSound } from './sound.ts';

const props = defineProps<{ track: Track }>();
const emit = defineEmits<{ save: [] }>();
const session = useSession();
const ui = useUi();

const edit = (label: string, change: Partial<Track>, key?: string) =>
  session.edit(
    `${label} of ${props.track.name}`,
    onTrack(props.track.id, change),
    key ? key + props.track.id : undefined,
  );
const editSend = (s: Send, label: string, change: Partial<Send>, key?: string) =>
  session.edit(
    `${label} of ${props.track.name}`,
    onSend(props.track.id, s.id, change),
    key ? key + s.id : undefined,
  );
const nameOf = (id: string) => session.doc?.tracks.find((t) => t.id === id)?.name ?? '?';
const outs = computed(() => destinations(session.doc!, props.track, false));
const sendable = computed(() =>
  destinations(session.doc!, props.track, true).filter((x) => !props.track.sends.some((y) => y.to === x.id)),
);
const sounds = computed(() =>
  props.track.clips.map((c) => session.doc!.media.find((m) => m.id === c.media)?.name ?? 'sound'),
);
const hasSound = computed(() => !['folder', 'master', 'bus', 'return', 'midi'].includes(props.track.role));
const kit = useKit();
const isMidi = computed(() => props.track.role === 'midi');
const sendTo = (port: string, channel: number) =>
  edit('Output', { output: port ? { kind: 'midi', port: port as MidiPort, channel } : { kind: 'none' } });
const hearers = computed(() => {
  const sent = sentBy(props.track);
  const at = props.track.output.kind === 'midi' && !sent.length ? [props.track.output] : sent;
  return [
    ...new Set(
      listenersIn(session.doc!.tracks)
        .filter((l) => at.some((a) => sameAddress(a, l) || (a.channel === 0 && a.port === l.port)))
        .map((l) => l.name),
    ),
  ].slice(0, 4);
});
const over = ref(false);
function notesChosen(e: Event) {
  const el = e.target as HTMLInputElement;
  const f = el.files?.[0];
  if (f) void putNotes(props.track.id, f);
  el.value = '';
}
function notesDropped(e: DragEvent) {
  over.value = false;
  const f = e.dataTransfer?.files[0];
  if (f) {
    e.preventDefault();
    void putNotes(props.track.id, f);
  }
}
function dropped(e: DragEvent) {
  over.value = false;
  const f = e.dataTransfer?.files[0];
  if (f) {
    e.preventDefault();
    void putSound(props.track.id, f);
  }
}
</script>

<template>
  <section class="flex h-full min-h-0 flex-col" :aria-label="`Line ${track.name}`">
    <header class="flex items-center gap-2 border-b border-rule px-3 py-1">
      <h2 class="truncate text-[15px] font-semibold">{{ track.name }}</h2>
      <span class="text-[12px] text-soft">{{
        isMidi ? 'MIDI' : `${track.role}, ${track.channels === 1 ? 'mono' : 'stereo'}`
      }}</span>
      <OriginMark v-if="track.origin" :id="track.id" :origin="track.origin" />
      <template v-if="track.printed"
        ><span class="chip">printed</span
        ><button type="button" class="btn px-2 py-0.5" @click="kit.restore(track.printed!.instrument.slot)">
          Restore the instrument
        </button></template
      >
      <span v-if="!isMidi" class="ml-2 flex" role="group" aria-label="What this panel shows">
        <button
          type="button"
          class="switch w-auto px-2"
          :aria-pressed="ui.linePage === 'line'"
          @click="ui.linePage = 'line'"
        >
          Settings
        </button>
        <button
          type="button"
          class="switch w-auto px-2"
          :aria-pressed="ui.linePage === 'lanes'"
          @click="ui.linePage = 'lanes'"
        >
          Automation{{ track.automation?.length ? ` (${track.automation.length})` : '' }}
        </button>
      </span>
      <span class="flex-1" />
      <CompareButton v-if="track.chain.length && !isMidi" :track="track" label="Chain with / without" />
      <button v-if="track.role !== 'master'" type="button" class="btn px-2 py-0.5" @click="emit('save')">
        <Package :size="14" aria-hidden="true" /> Save to the shelf
      </button>
    </header>
    <AutomationPanel v-if="ui.linePage === 'lanes' && !isMidi" :key="track.id" :track="track" />
    <div
      v-else
      class="grid min-h-0 flex-1 grid-cols-[176px_196px_minmax(372px,1fr)_minmax(160px,200px)] gap-4 overflow-auto p-3 text-[13px]"
    >
      <fieldset class="flex flex-col gap-2">
        <legend class="mb-1 text-[12px] font-semibold">Line</legend>
        <label v-if="!isMidi" class="flex items-center justify-between gap-2"
          ><span class="label">Width</span>
          <select
            class="field h-[24px] py-0"
            aria-label="Width"
            :value="track.channels"
            :disabled="track.role === 'master'"
            @change="edit('Width', { channels: Number(($event.target as HTMLSelectElement).value) as 1 | 2 })"
          >
            <option :value="1">mono</option>
            <option :value="2">stereo</option>
          </select></label
        >
        <label class="flex items-center justify-between gap-2"
          ><span class="label">Colour</span>
          <select
            class="field h-[24px] py-0"
            aria-label="Colour"
            :value="track.colour"
            @change="edit('Colour', { colour: ($event.target as HTMLSelectElement).value })"
          >
            <option v-for="c in COLOURS" :key="c.id" :value="c.id">{{ c.label }}</option>
          </select></label
        >
        <InputPicker
          v-if="!['master', 'bus', 'return', 'folder', 'midi'].includes(track.role)"
          :track="track"
        />
        <label v-if="isMidi" class="flex items-center justify-between gap-2"
          ><span class="label">Notes go to</span>
          <span class="flex gap-1"
            ><select
              class="field h-[24px] px-1 py-0"
              aria-label="MIDI port out"
              :value="track.output.kind === 'midi' ? track.output.port : ''"
              @change="
                sendTo(
                  ($event.target as HTMLSelectElement).value,
                  track.output.kind === 'midi' ? track.output.channel : 0,
                )
              "
            >
              <option value="">nobody</option>
              <option v-for="p in MIDI_PORTS" :key="p" :value="p">port {{ p }}</option>
            </select>
            <select
              v-if="track.output.kind === 'midi'"
              class="field h-[24px] px-1 py-0"
              aria-label="MIDI channel out"
              :value="track.output.channel"
              @change="
                sendTo(
                  track.output.kind === 'midi' ? track.output.port : 'A',
                  Number(($event.target as HTMLSelectElement).value),
                )
              "
            >
              <option :value="0">own</option>
              <option v-for="n in 16" :key="n" :value="n">ch {{ n }}</option>
            </select></span
          ></label
        >
        <label v-else class="flex items-center justify-between gap-2"
          ><span class="label">Output</span>
          <select
            class="field h-[24px] max-w-[130px] py-0"
            aria-label="Output"
            :value="track.output.kind === 'track' ? track.output.track : ''"
            :disabled="track.role === 'master'"
            @change="
              edit('Output', {
                output: ($event.target as HTMLSelectElement).value
                  ? { kind: 'track', track: ($event.target as HTMLSelectElement).value }
                  : { kind: 'none' },
              })
            "
          >
            <option value="">nowhere</option>
            <option v-for="t in outs" :key="t.id" :value="t.id">{{ t.name }}</option>
          </select></label
        >
        <label v-if="!isMidi" class="flex items-center gap-2"
          ><input
            type="checkbox"
            class="accent-[var(--rope)]"
            :checked="track.soloSafe"
            @change="edit('Solo safe', { soloSafe: !track.soloSafe })"
          />
          Solo safe</label
        >
        <label v-if="!isMidi" class="flex items-center gap-2"
          ><input
            type="checkbox"
            class="accent-[var(--rope)]"
            :checked="track.polarity"
            @change="edit('Polarity', { polarity: !track.polarity })"
          />
          Polarity turned over</label
        >
      </fieldset>
      <fieldset class="flex flex-col gap-2">
        <legend class="mb-1 text-[12px] font-semibold">{{ isMidi ? 'Notes' : 'Level and sound' }}</legend>
        <div
          v-if="track.role === 'midi'"
          class="rounded border border-dashed border-edge p-2 text-[12px]"
          :class="{ 'border-rope bg-rope-wash': over }"
          @dragover.prevent="over = true"
          @dragleave="over = false"
          @drop="notesDropped"
        >
          <p v-for="c in track.notes ?? []" :key="c.id" class="flex items-center gap-1 truncate">
            <Music :size="13" aria-hidden="true" /> {{ c.name }}: {{ c.notes.length }} notes,
            {{ Math.ceil(c.length / session.doc!.meter[0]) }} bars
          </p>
          <p v-if="!track.notes?.length" class="text-soft">
            {{
              track.chain.length
                ? 'Its pattern plays.'
                : 'No notes yet. Drag a MIDI file here, choose one, or add a pattern source.'
            }}
          </p>
          <p v-if="hearers.length" class="text-soft">Heard by {{ hearers.join(', ') }}.</p>
          <p v-else class="text-warn">No instrument listens to it.</p>
          <div class="mt-1 flex flex-wrap gap-2">
            <label class="btn cursor-pointer px-2 py-0.5"
              >Choose a MIDI file<input
                type="file"
                class="sr-only"
                accept=".mid,.midi,audio/midi"
                @change="notesChosen" /></label
            ><template v-if="track.notes?.length"
              ><button type="button" class="btn px-2 py-0.5" @click="saveNotes(track)">Save as MIDI</button
              ><button
                type="button"
                class="btn btn-plain px-1 py-0.5"
                @click="session.edit(`Take the notes off ${track.name}`, onTrack(track.id, { notes: [] }))"
              >
                Take off
              </button></template
            >
          </div>
        </div>
        <ValueField
          v-if="track.role !== 'midi'"
          :spec="LEVEL"
          :value="track.level"
          :name="`Level, ${track.name}`"
          @change="(v, s) => edit('Level', { level: v as number }, s ? 'level' : undefined)"
        />
        <ValueField
          v-if="track.role !== 'midi'"
          :spec="PAN"
          :value="track.pan"
          :name="`Pan, ${track.name}`"
          @change="(v, s) => edit('Pan', { pan: v as number }, s ? 'pan' : undefined)"
        />
        <div
          v-if="hasSound"
          class="rounded border border-dashed border-edge p-2 text-[12px]"
          :class="{ 'border-rope bg-rope-wash': over }"
          @dragover.prevent="over = true"
          @dragleave="over = false"
          @drop="dropped"
        >
          <p v-if="sounds.length" class="flex items-center gap-1 truncate">
            <Music :size="13" aria-hidden="true" /> {{ sounds.join(', ') }}
          </p>
          <p v-else class="text-soft">No sound yet. Drag a WAV file here, or choose one.</p>
          <div class="mt-1 flex gap-2">
            <button type="button" class="btn px-2 py-0.5" @click="chooseSound(track.id)">
              Choose a WAV file</button
            ><button
              v-if="sounds.length"
              type="button"
              class="btn btn-plain px-1 py-0.5"
              @click="session.edit(`Take the sound off ${track.name}`, setClips(track.id, [], []))"
            >
              Take off
            </button>
          </div>
        </div>
      </fieldset>
      <div v-if="track.role === 'master'" class="flex min-w-0 flex-col gap-3">
        <MasterMeters /><SoundFigures :track="track" />
      </div>
      <fieldset v-else-if="track.role === 'midi'" class="min-w-0 text-[12px] text-soft">
        <legend class="mb-1 text-[12px] font-semibold text-ink">Sends</legend>
        A MIDI line sends notes, no sound.
      </fieldset>
      <fieldset v-else class="min-w-0">
        <legend class="mb-1 text-[12px] font-semibold">Sends</legend>
        <p v-if="!track.sends.length" class="text-[12px] text-soft">No sends. A new one starts at −18 dB.</p>
        <div
          v-for="s in track.sends"
          :key="s.id"
          class="grid grid-cols-[minmax(70px,1fr)_132px_62px_58px_24px] items-center gap-1.5 py-0.5"
          role="group"
          :aria-label="`Send to ${nameOf(s.to)}`"
        >
          <label class="flex items-center gap-1 truncate"
            ><input
              type="checkbox"
              class="accent-[var(--rope)]"
              :checked="s.on"
              :aria-label="`Send to ${nameOf(s.to)} on`"
              @change="editSend(s, 'Send', { on: !s.on })"
            /><span class="truncate">{{ nameOf(s.to) }}</span></label
          >
          <ValueField
            compact
            :spec="SEND_LEVEL"
            :value="s.level"
            :name="`Send to ${nameOf(s.to)}`"
            @change="(v, sl) => editSend(s, 'Send level', { level: v as number }, sl ? 'send' : undefined)"
          />
          <select
            class="field h-[22px] px-1 py-0 text-[12px]"
            :aria-label="`Tap of the send to ${nameOf(s.to)}`"
            :value="s.tap"
            @change="
              editSend(s, 'Send tap', { tap: ($event.target as HTMLSelectElement).value as 'pre' | 'post' })
            "
          >
            <option value="post">post</option>
            <option value="pre">pre</option>
          </select>
          <select
            class="field h-[22px] px-1 py-0 text-[12px]"
            :aria-label="`Pan of the send to ${nameOf(s.to)}`"
            :value="s.panMode"
            :title="'follows the track’s pan, or its own'"
            @change="
              editSend(s, 'Send pan', {
                panMode: ($event.target as HTMLSelectElement).value as 'own' | 'follow',
              })
            "
          >
            <option value="follow">follow</option>
            <option value="own">own</option>
          </select>
          <button
            type="button"
            class="btn btn-plain px-1 py-0"
            :aria-label="`Remove the send to ${nameOf(s.to)}`"
            @click="session.edit(`Remove a send of ${track.name}`, removeSend(track.id, s.id))"
          >
            <Trash2 :size="13" aria-hidden="true" />
          </button>
          <ValueField
            v-if="s.panMode === 'own'"
            class="col-start-2"
            compact
            :spec="PAN"
            :value="s.pan"
            :name="`Pan of the send to ${nameOf(s.to)}`"
            @change="(v, sl) => editSend(s, 'Send pan', { pan: v as number }, sl ? 'sendpan' : undefined)"
          />
        </div>
        <PopMenu
          v-if="sendable.length"
          label="Add a send"
          :items="
            () =>
              sendable.map((x) => ({
                label: x.name,
                run: () => {
                  session.edit(`Send ${track.name} to ${x.name}`, addSend(track.id, x.id));
                },
              }))
          "
          button-class="btn mt-1 px-2 py-0.5 text-[12px]"
          ><Plus :size="13" aria-hidden="true" /> Add a send</PopMenu
        >
        <SoundFigures class="mt-4" :track="track" />
      </fieldset>
      <label class="flex min-h-0 flex-col"
        ><span class="mb-1 text-[12px] font-semibold">Note: what to touch first</span>
        <textarea
          class="field min-h-[60px] flex-1 resize-none text-[13px]"
          :value="track.note"
          placeholder="Threshold first, then …"
          @change="edit('Note', { note: ($event.target as HTMLTextAreaElement).value })"
        />
      </label>
    </div>
  </section>
</template>
