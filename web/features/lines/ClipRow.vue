<script setup lang="ts">
/** One clip of a line: its waveform as it plays, place, ends, gain, and whether this take plays. */
import { Scissors, Trash2 } from '@lucide/vue';
import { computed, ref } from 'vue';
import { onClip, playTake, removeClip, splitClip, type Clip, type Track } from '../../../core/index.ts';
import { jobs, plain } from '../../audio/jobs.ts';
import { useSession } from '../../document/doc.ts';
import NumberField from '../../ui/NumberField.vue';
import { useUi } from '../../ui/window.ts';
import { outlineOf } from './outlines.ts';

const props = defineProps<{ track: Track; clip: Clip; index: number }>();
const session = useSession();
const ui = useUi();
const media = computed(() => session.doc!.media.find((m) => m.id === props.clip.media));
const name = computed(() => media.value?.name ?? 'sound');
const label = computed(() => `clip ${props.index + 1}, ${name.value}`);
/** s of the whole sound */
const whole = computed(() => (media.value ? media.value.frames / media.value.sampleRate : props.clip.length));
const outline = computed(() => outlineOf(props.clip.media, session.doc!.sampleRate).value);
const WIDTH = 320;
const path = computed(() => {
  const peaks = outline.value;
  if (!peaks.length || !whole.value) return '';
  const { offset, length, gain } = props.clip;
  const g = 10 ** (gain / 20);
  const at = (x: number) => Math.floor(((offset + (x / WIDTH) * length) / whole.value) * peaks.length);
  return Array.from({ length: WIDTH }, (_, x) => {
    const top = Math.max(0, ...peaks.slice(at(x), Math.max(at(x) + 1, at(x + 1))));
    const h = 19 * Math.min(1, top * g);
    return `M${x} ${20 - h}V${20 + Math.max(0.5, h)}`;
  }).join('');
});
const edit = (what: string, change: Partial<Clip>) =>
  session.edit(`${what} of a clip on ${props.track.name}`, onClip(props.track.id, props.clip.id, change));
const setStart = (start: number) => edit('Start', { start });
function setOffset(offset: number) {
  const length = Math.min(props.clip.length, whole.value - offset);
  edit('Beginning', { offset, length });
}
const setLength = (length: number) => edit('Length', { length });
const setGain = (gain: number) => edit('Gain', { gain });
const play = () =>
  session.edit(
    `Take ${props.index + 1} of ${props.track.name}`,
    playTake(props.track.id, props.clip.id, !!props.clip.off),
  );
const remove = () =>
  session.edit(`Remove a clip of ${props.track.name}`, removeClip(props.track.id, props.clip.id));
const busy = ref(false);
async function split() {
  busy.value = true;
  try {
    const { track, clip } = props;
    const edit = session.editLater();
    const parts = await jobs.pieces(plain(session.doc!), track.id, clip.id).done;
    if (parts.length < 2) ui.say(`There is no pause in “${name.value}” to split it at.`);
    else edit(`Split a clip of ${track.name} at its silences`, splitClip(track.id, clip.id, parts));
  } catch (e) {
    ui.fail(e);
  } finally {
    busy.value = false;
  }
}
const shown = (v: number) => Number(v.toFixed(3));
</script>

<template>
  <tr class="border-t border-rule" :class="{ 'opacity-60': clip.off }" :aria-label="`Clip ${index + 1}`">
    <td class="py-1 pr-2">
      <label class="flex min-h-6 items-center gap-1"
        ><input
          type="checkbox"
          class="m-1 accent-[var(--rope)]"
          :checked="!clip.off"
          :aria-label="`Play ${label}`"
          @change="play"
      /></label>
    </td>
    <td class="max-w-[150px] truncate pr-2" :title="name">{{ name }}</td>
    <td class="w-[320px] pr-2">
      <svg :viewBox="`0 0 ${WIDTH} 40`" preserveAspectRatio="none" class="h-9 w-full" aria-hidden="true">
        <path :d="path" stroke="var(--rope)" stroke-width="1" />
      </svg>
    </td>
    <td>
      <NumberField
        :label="`Start of ${label}`"
        unit="s"
        :value="shown(clip.start)"
        :min="0"
        :max="86400"
        @change="setStart"
      />
    </td>
    <td>
      <NumberField
        :label="`Beginning of ${label}`"
        unit="s"
        :value="shown(clip.offset)"
        :min="0"
        :max="Math.max(0, whole - 0.01)"
        @change="setOffset"
      />
    </td>
    <td>
      <NumberField
        :label="`Length of ${label}`"
        unit="s"
        :value="shown(clip.length)"
        :min="0.01"
        :max="whole - clip.offset"
        @change="setLength"
      />
    </td>
    <td>
      <NumberField
        :label="`Gain of ${label}`"
        unit="dB"
        :value="shown(clip.gain)"
        :min="-60"
        :max="36"
        @change="setGain"
      />
    </td>
    <td class="whitespace-nowrap text-right">
      <button
        type="button"
        class="btn px-2 py-0.5"
        :disabled="busy"
        :aria-label="`Split ${label} at its silences`"
        title="Split at silences"
        @click="split"
      >
        <Scissors :size="13" aria-hidden="true" />
      </button>
      <button type="button" class="btn btn-plain px-1 py-0.5" :aria-label="`Remove ${label}`" @click="remove">
        <Trash2 :size="13" aria-hidden="true" />
      </button>
    </td>
  </tr>
</template>
