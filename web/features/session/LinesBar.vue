<script setup lang="ts">
/** Above the lines: adding, choosing, devices to drag, what is hidden, how late it sounds. */
import { Plus } from '@lucide/vue';
import { computed } from 'vue';
import { ADDABLE } from '../../../core/index.ts';
import { useSession } from '../../document/doc.ts';
import PopMenu from '../../ui/PopMenu.vue';
import { vOneStop } from '../../ui/one-stop.ts';
import { useUi } from '../../ui/window.ts';
import { putDevice, putRack } from '../device/index.ts';
import { startDrag } from '../drop/index.ts';
import { addMenu, chooseMenu, useLineView } from '../lines/index.ts';
import { useAudio } from '../transport/index.ts';

defineProps<{ hasKeys: boolean }>();
const session = useSession();
const audio = useAudio();
const view = useLineView();
const ui = useUi();
const devices = [
  { type: 'rack', label: 'Rack' },
  ...ADDABLE.filter((x) => !x.instrument && !x.pattern).map(({ type, label }) => ({ type, label })),
];
const addTitle = (label: string) =>
  session.track ? `${label} at the end of “${session.track.name}”; or drag it` : `Drag ${label} onto a line`;
/** Without dragging: at the end of the chosen line. */
function add(type: string) {
  const { track } = session;
  if (!track) {
    ui.say('Choose a line first: the device goes to its end. Or drag it onto a line.');
  } else if (type === 'rack') void putRack({ track: track.id });
  else void putDevice({ track: track.id }, type);
}
const hidden = computed(() => session.doc!.tracks.filter((t) => t.hidden).length);
const linesText = computed(() => {
  const count = session.doc!.tracks.length;
  return count === 1 ? '1 line' : `${count} lines`;
});
const latency = computed(() => ((audio.latency / session.doc!.sampleRate) * 1000).toFixed(1));
</script>

<template>
  <div class="flex items-center gap-2 border-b border-rule px-2 py-1 text-note text-soft">
    <PopMenu label="Add a line" :items="addMenu" button-class="btn px-2 py-0.5 text-ink"
      ><Plus :size="14" aria-hidden="true" /> Add a line</PopMenu
    >
    <PopMenu label="Choose lines" :items="chooseMenu" button-class="btn px-2 py-0.5 text-ink" :width="260"
      >Choose</PopMenu
    >
    <span
      v-one-stop
      class="flex min-w-0 flex-wrap items-center gap-1 max-xl:flex-nowrap max-xl:overflow-x-auto max-xl:py-0.5 [&>*]:shrink-0"
      role="group"
      aria-label="Devices: drag them onto a line, or press one for the chosen line"
      ><button
        v-for="d in devices"
        :key="d.type"
        type="button"
        class="chip min-h-6 cursor-grab text-ink"
        :class="{ 'border-rope font-semibold': d.type === 'rack' }"
        :aria-label="`Add ${d.label}`"
        :title="addTitle(d.label)"
        draggable="true"
        @dragstart="startDrag($event, { kind: 'new-device', type: d.type })"
        @click="add(d.type)"
      >
        {{ d.label }}
      </button></span
    >
    <span class="flex-1" />
    <label v-if="hasKeys" class="flex items-center gap-1 whitespace-nowrap"
      ><input v-model="view.keyLines" type="checkbox" class="accent-[var(--rope)]" /> keys</label
    >
    <button
      v-if="hidden"
      type="button"
      class="btn whitespace-nowrap px-2 py-0.5 text-ink"
      :aria-pressed="view.showsHidden"
      title="Lines out of sight; what plays there is heard"
      @click="view.showsHidden = !view.showsHidden"
    >
      {{ hidden }} hidden
    </button>
    <span class="whitespace-nowrap">{{ linesText }}</span>
    <span v-if="audio.latency" class="whitespace-nowrap" title="From a sound to the master’s output"
      >latency {{ latency }} ms</span
    >
  </div>
</template>
