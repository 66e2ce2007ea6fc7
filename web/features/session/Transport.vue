<script setup lang="ts">
/** Name, transport, comparison, tempo, undo and redo. */
import { Ellipsis, PanelLeft, Pause, Play, Redo2, SkipBack, Undo2, Waypoints, Disc3 } from '@lucide/vue';
import { computed, nextTick, ref } from 'vue';
import { useRouter } from 'vue-router';
import { useAudio, CompareButton } from '../transport/index.ts';
import { useCheck } from '../check/index.ts';
import { useOrigins } from '../origin/index.ts';
import { useSession } from '../../document/doc.ts';
import { useUi } from '../../ui/window.ts';
import SeverityMark from '../../ui/SeverityMark.vue';
import PopMenu from '../../ui/PopMenu.vue';
import ValueField from '../../ui/ValueField.vue';
import { sessionMenu } from './menu.ts';
import { TEMPO } from '../../ui/specs.ts';
import { useSheets } from '../../ui/sheets.ts';

const sheets = useSheets();
const session = useSession();
const audio = useAudio();
const ui = useUi();
const origins = useOrigins();
const check = useCheck();
const router = useRouter();
const patchList = () => void router.push(`/session/${session.id}/patch`);
const menu = () => [
  { label: 'Rename', run: rename },
  ...sessionMenu(),
  { label: 'Patch list', run: patchList },
];
const clock = (s: number) => `${Math.floor(s / 60)}:${(s % 60).toFixed(1).padStart(4, '0')}`;
const place = computed(() => {
  const b = Math.floor((audio.seconds * session.doc!.tempo) / 60);
  const per = session.doc!.meter[0];
  return `${Math.floor(b / per) + 1}.${(b % per) + 1}`;
});
const compared = computed(() => session.doc?.tracks.find((t) => t.id === audio.compare?.track) ?? null);
const screens = computed(() => [
  { label: 'Map', title: 'Signal map', icon: Waypoints, to: `/session/${session.id}/map` },
  { label: 'Print', title: 'Mix, stems, recall sheet', icon: Disc3, to: `/session/${session.id}/print` },
]);
const renaming = ref(false);
const name = ref('');
const input = ref<HTMLInputElement | null>(null);
function rename() {
  renaming.value = true;
  name.value = session.doc!.name;
  void nextTick(() => input.value?.select());
}
function renamed() {
  if (!renaming.value) return;
  renaming.value = false;
  const n = name.value.trim();
  if (n && n !== session.doc!.name) session.edit('Rename the session', (s) => ({ ...s, name: n }));
}
/** How much of its time the engine needs, and what it missed. */
const loadText = computed(() => {
  const late = audio.late ? `; ${audio.late} callbacks came late` : '';
  const share = (audio.load * 100).toFixed(0);
  return `The engine needs ${share} % of the time there is${late}; ${audio.dropouts} gaps in the sound. Make lines or devices inactive to take it down.`;
});
</script>

<template>
  <div class="flex flex-wrap items-center gap-x-2 gap-y-1 border-b xl:flex-nowrap border-rule px-2 py-1.5">
    <button
      type="button"
      class="btn btn-plain px-1"
      :aria-pressed="ui.shelfOpen"
      aria-label="Shelf panel"
      title="Show or hide the shelf"
      @click="ui.shelfOpen = !ui.shelfOpen"
    >
      <PanelLeft :size="16" aria-hidden="true" />
    </button>
    <input
      v-if="renaming"
      ref="input"
      v-model="name"
      class="field w-[220px] font-semibold"
      aria-label="Session name"
      @keydown.enter="renamed"
      @keydown.esc.stop="renaming = false"
      @blur="renamed"
    />
    <button
      v-else
      type="button"
      class="min-w-[90px] max-w-[200px] truncate rounded px-1 text-lead font-semibold hover:bg-sunk"
      :title="`${session.doc!.name} · rename it`"
      @click="rename"
    >
      {{ session.doc!.name }}
    </button>
    <PopMenu label="Session menu" :items="menu" button-class="btn btn-plain px-0.5"
      ><Ellipsis :size="15" aria-hidden="true"
    /></PopMenu>
    <RouterLink
      v-for="screen in screens"
      :key="screen.label"
      :to="screen.to"
      class="btn px-2 py-0.5 text-note"
      :aria-label="screen.label"
      :title="screen.title"
      ><component :is="screen.icon" :size="14" aria-hidden="true" /><span v-if="!compared">{{
        screen.label
      }}</span></RouterLink
    >
    <RouterLink
      :to="`/session/${session.id}/check`"
      class="btn px-2 py-0.5 text-note"
      :title="
        check.open.length
          ? check.open
              .slice(0, 4)
              .map((f) => f.message)
              .join('\n')
          : 'The line check found nothing'
      "
      :aria-label="`Line check: ${check.open.length} found`"
      ><SeverityMark v-if="check.worst(check.open)" :severity="check.worst(check.open)!" :size="14" /> Line
      check: {{ check.open.length }}</RouterLink
    >
    <button
      v-if="origins.newer.length"
      type="button"
      class="chip min-h-6 whitespace-nowrap border-rope"
      title="The shelf has later versions of what is used here"
      @click="sheets.open('overview', {})"
    >
      ▲ {{ origins.newer.length }} newer
    </button>
    <button
      type="button"
      class="btn px-1.5"
      aria-label="Back to the start"
      title="Back to the start"
      @click="audio.seek(0)"
    >
      <SkipBack :size="15" aria-hidden="true" />
    </button>
    <button
      type="button"
      class="btn btn-main px-3"
      :aria-label="audio.playing ? 'Stop' : 'Play'"
      title="Space"
      :disabled="audio.starting"
      @click="audio.toggle()"
    >
      <component :is="audio.playing ? Pause : Play" :size="16" aria-hidden="true" />
    </button>
    <span
      class="w-[112px] shrink-0 text-figure whitespace-nowrap"
      data-testid="clock"
      :aria-label="`Position ${clock(audio.seconds)}`"
      >{{ clock(audio.seconds) }} <span class="text-note text-soft">bar {{ place }}</span></span
    >
    <input
      v-if="!compared"
      type="range"
      class="thread min-w-[60px] max-w-[150px]"
      min="0"
      max="1000"
      :value="audio.length ? (audio.seconds / audio.length) * 1000 : 0"
      :style="{ '--fill': (audio.length ? (audio.seconds / audio.length) * 100 : 0) + '%' }"
      aria-label="Position"
      :aria-valuetext="clock(audio.seconds)"
      @input="audio.seek((Number(($event.target as HTMLInputElement).value) / 1000) * audio.length)"
    />
    <CompareButton
      v-if="compared && audio.compare"
      :track="compared"
      :device="audio.compare.slot"
      short
      one
      class="max-w-[210px] min-w-0"
      :label="audio.compare.label"
    />
    <span class="flex-1" />
    <div class="flex w-[104px] items-center gap-1">
      <ValueField
        class="flex-1"
        compact
        :spec="TEMPO"
        :value="session.doc!.tempo"
        name="Tempo in bpm"
        @change="
          (v, s) => session.edit('Tempo', (d) => ({ ...d, tempo: v as number }), s ? 'tempo' : undefined)
        "
      /><span class="text-note text-soft">bpm</span>
    </div>
    <span
      v-if="audio.playing"
      class="w-[72px] whitespace-nowrap text-note text-soft"
      :class="{ 'text-bad': audio.load > 0.85 }"
      data-testid="load"
      :title="loadText"
      >engine {{ (audio.load * 100).toFixed(0) }} %</span
    >
    <button
      v-if="audio.mono"
      type="button"
      class="btn border-warn px-1.5 py-0 text-note text-warn"
      title="Both sides are heard as one; back to stereo"
      @click="audio.mono = false"
    >
      mono
    </button>
    <!-- what the engine needs stands in its place while it plays: nothing may move under the pointer -->
    <span v-if="!audio.playing" class="whitespace-nowrap text-note text-soft"
      >{{ session.doc!.sampleRate / 1000 }} kHz</span
    >
    <button
      type="button"
      class="btn btn-plain px-1"
      aria-label="Undo"
      :title="session.undoes ? `Undo: ${session.undoes}` : 'Nothing to undo'"
      :disabled="!session.undoes"
      @click="session.undo()"
    >
      <Undo2 :size="16" aria-hidden="true" />
    </button>
    <button
      type="button"
      class="btn btn-plain px-1"
      aria-label="Redo"
      :title="session.redoes ? `Redo: ${session.redoes}` : 'Nothing to redo'"
      :disabled="!session.redoes"
      @click="session.redo()"
    >
      <Redo2 :size="16" aria-hidden="true" />
    </button>
  </div>
</template>
