<script setup lang="ts">
/** The sound that a device plays with: a space that ships, a sound of the session, or a WAV file from the disk. */
import { FolderOpen } from '@lucide/vue';
import { computed, ref } from 'vue';
import {
  DEVICE_TYPES,
  SPACES,
  setPlayed,
  spaceId,
  spaceOf,
  type Device,
  type Track,
} from '../../../core/index.ts';
import { api } from '../../api/index.ts';
import { useSession } from '../../document/doc.ts';
import { chosenIn, filesIn } from '../../ui/events.ts';
import { useUi } from '../../ui/window.ts';
import { useValues } from './values.ts';

const props = defineProps<{ track: Track; device: Device }>();
const session = useSession();
const ui = useUi();
const { set } = useValues(props);
const plays = computed(() => DEVICE_TYPES[props.device.type].plays!);
const now = computed(() => String(props.device.params[plays.value]));
const sounds = computed(() => session.doc!.media);
const own = computed(() => sounds.value.find((m) => m.id === now.value));
const isLost = computed(() => !own.value && !spaceOf(now.value));
const about = computed(() => {
  if (own.value) {
    const { frames, sampleRate, channels } = own.value;
    return `${(frames / sampleRate).toFixed(2)} s, ${channels === 1 ? 'mono' : 'stereo'}, travels with presets`;
  }
  const space = spaceOf(now.value);
  return space
    ? `${space.decay[4].toFixed(1)} s at 1 kHz, made by formula`
    : 'It is not in the session: silent.';
});
const isReading = ref(false);
const isOver = ref(false);

async function take(file: File | undefined) {
  if (!file) return;
  isOver.value = false;
  isReading.value = true;
  try {
    const { track, device } = props;
    const edit = session.editLater();
    const media = await api.upload(file);
    const what = `Impulse response of ${device.name}: ${media.name}`;
    edit(what, setPlayed(track.id, device.id, { [plays.value]: media.id }, media));
  } catch (e) {
    ui.fail(e);
  } finally {
    isReading.value = false;
  }
}
</script>

<template>
  <div
    class="flex items-center gap-2 rounded border px-2 py-1"
    :class="isOver ? 'border-rope' : 'border-rule'"
    data-takes-files
    @dragover.prevent.stop="isOver = true"
    @dragleave="isOver = false"
    @drop.prevent.stop="take($event.dataTransfer?.files[0])"
  >
    <label class="flex items-center gap-2 text-note">
      Impulse response
      <select class="field w-[220px] text-body" :value="now" @change="set({ [plays]: chosenIn($event) })">
        <optgroup label="Spaces that ship">
          <option v-for="s in SPACES" :key="s.id" :value="spaceId(s)">{{ s.label }}</option>
        </optgroup>
        <optgroup v-if="sounds.length" label="Sounds of this session">
          <option v-for="m in sounds" :key="m.id" :value="m.id">{{ m.name }}</option>
        </optgroup>
        <option v-if="isLost" :value="now">missing ({{ now.slice(0, 8) }}…)</option>
      </select>
    </label>
    <label class="btn flex cursor-pointer items-center gap-1 text-note focus-within:outline-2">
      <FolderOpen class="size-3.5" aria-hidden="true" />
      {{ isReading ? 'Reading …' : 'Your own WAV …' }}
      <input
        type="file"
        accept=".wav,audio/wav"
        class="sr-only"
        aria-label="Your own impulse response"
        :disabled="isReading"
        @change="take(filesIn($event)[0])"
      />
    </label>
    <span class="text-note" :class="isLost ? 'text-bad' : 'text-soft'">{{ about }}</span>
  </div>
</template>
