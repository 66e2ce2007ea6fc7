<script setup lang="ts">
/** What is done with an instrument as a whole: lay out, try, level, print or restore. */
import { computed } from 'vue';
import { useRouter } from 'vue-router';
import { DEVICE_TYPES, type Device, type Track } from '../../../core/index.ts';
import { useKit } from './store.ts';
import { useSession } from '../../document/doc.ts';
import { useSheets } from '../../ui/sheets.ts';

const props = defineProps<{ track: Track; device: Device }>();
const sheets = useSheets();
const session = useSession();
const kit = useKit();
const router = useRouter();
const kind = computed(() => DEVICE_TYPES[props.device.type].instrument);
const hasAddresses = computed(() => !!kind.value?.addressed);
const outputs = computed(() => kind.value?.outputs ?? 0);
const printed = computed(() =>
  session.doc!.tracks.some((t) => t.printed?.instrument?.slot === props.device.id),
);
const levelled = computed(() =>
  Object.entries(props.device.params).some(([k, v]) => /^t\d+$/.test(k) && v !== 0),
);
const from = computed(() =>
  props.track.input.kind === 'midi'
    ? `plays what comes on port ${props.track.input.port}, ${props.track.input.channel ? `channel ${props.track.input.channel}` : 'all channels'}`
    : 'no notes reach it: give its line a MIDI input',
);
</script>

<template>
  <div class="flex flex-wrap items-center gap-2 px-2 py-1.5 text-note">
    <span class="text-soft" :class="{ 'text-warn': track.input.kind !== 'midi' }">{{ from }}</span>
    <span class="flex-1" />
    <template v-if="printed"
      ><span class="chip">printed</span
      ><button type="button" class="btn btn-main px-2 py-0.5" @click="kit.restore(device.id)">
        Restore the instrument
      </button></template
    >
    <template v-else-if="device.state !== 'inactive'">
      <button
        v-if="hasAddresses"
        type="button"
        class="btn px-2 py-0.5"
        @click="sheets.open('kitPlayer', { tracks: [track.id] })"
      >
        Parts and channels …
      </button>
      <template v-if="outputs">
        <button
          type="button"
          class="btn px-2 py-0.5"
          @click="sheets.open('kitLayout', { slotId: device.id })"
        >
          Lay out the outputs …
        </button>
        <button
          type="button"
          class="btn px-2 py-0.5"
          @click="router.push(`/session/${session.id}/check?tap=${device.id}`)"
        >
          Tap test
        </button>
        <button
          type="button"
          class="btn px-2 py-0.5"
          @click="sheets.open('kitLevels', { slotId: device.id })"
        >
          Output levels …
        </button>
        <button
          v-if="levelled"
          type="button"
          class="btn btn-plain px-1 py-0.5"
          @click="kit.level(device.id, null)"
        >
          Levelling off
        </button>
      </template>
      <button type="button" class="btn px-2 py-0.5" @click="sheets.open('kitPrint', { slotId: device.id })">
        Print to audio …
      </button>
    </template>
  </div>
</template>
