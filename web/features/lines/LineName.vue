<script setup lang="ts">
/** The left end of a line: grip, colour, name, and the marks of what was found, moves and came from a preset. */
import { ChartSpline, ChevronDown, ChevronRight, EyeOff, GripVertical } from '@lucide/vue';
import { computed } from 'vue';
import { colourOf, onTrack, type Track } from '../../../core/index.ts';
import { useSession } from '../../document/doc.ts';
import { useUi } from '../../ui/window.ts';
import SeverityMark from '../../ui/SeverityMark.vue';
import { useLaneView } from '../automation/index.ts';
import { useCheck } from '../check/index.ts';
import { startDrag } from '../drop/index.ts';
import { LineGuests } from '../people/index.ts';
import { OriginMark } from '../origin/index.ts';
import NameField from './NameField.vue';
import { useLineView } from './view.ts';

const props = defineProps<{ track: Track; pressed: boolean; count: number }>();
const session = useSession();
const ui = useUi();
const lanes = useLaneView();
const check = useCheck();
/** faults and warnings stand on the line; advice only on the check's own screen */
const found = computed(() =>
  (check.byTrack.get(props.track.id) ?? []).filter((finding) => finding.severity !== 'advice'),
);
const lanesText = computed(() => {
  const count = props.track.automation?.length ?? 0;
  return `Automation of ${props.track.name}: ${count} ${count === 1 ? 'lane' : 'lanes'}`;
});
const lanesOn = computed(() => props.track.automation?.some((lane) => lane.on));
function openLanes() {
  lanes.open(props.track.id);
}

const view = useLineView();
const isNaming = computed(() => view.naming === props.track.id);
const isClosed = computed(() => view.closed.includes(props.track.id));
const rename = () => {
  view.naming = props.track.id;
};
function renamed(name: string) {
  session.edit(`Rename ${props.track.name}`, onTrack(props.track.id, { name }));
}
</script>

<template>
  <div class="flex shrink-0 items-center gap-1">
    <span
      class="cursor-grab text-soft"
      :class="{ invisible: track.role === 'master' }"
      draggable="true"
      :aria-label="`Move ${track.name}`"
      role="img"
      @dragstart="startDrag($event, { kind: 'track', track: track.id })"
      ><GripVertical :size="13" aria-hidden="true"
    /></span>
    <span
      class="h-9 w-[5px] shrink-0 rounded-sm"
      :style="{ background: ui.swatch(track.colour) }"
      :title="colourOf(track.colour).label"
    />
    <button
      v-if="track.role === 'folder'"
      type="button"
      class="btn btn-plain px-0"
      :aria-expanded="!isClosed"
      :aria-label="`${isClosed ? 'Open' : 'Close'} ${track.name}`"
      @click.stop="view.toggle(track.id)"
    >
      <component :is="isClosed ? ChevronRight : ChevronDown" :size="14" aria-hidden="true" />
    </button>
    <NameField v-if="isNaming" :id="track.id" :name="track.name" class="w-full" @name="renamed" />
    <template v-else>
      <button
        type="button"
        data-lets-go
        data-name
        class="min-w-0 flex-1 truncate rounded px-1 text-left font-semibold"
        :aria-label="`Line ${track.name}`"
        :aria-pressed="pressed"
        @dblclick="rename"
      >
        <EyeOff v-if="track.hidden" :size="13" class="inline" aria-label="hidden" />
        {{ track.name }}
        <span v-if="isClosed && count" class="font-normal text-soft">({{ count }})</span>
      </button>
      <RouterLink
        v-if="found.length"
        :to="`/session/${session.id}/check?line=${track.id}`"
        class="grid h-6 w-6 shrink-0 place-items-center rounded"
        :aria-label="`Line check of ${track.name}: ${found.length} found`"
        :title="found.map((finding) => finding.message).join('\n')"
        @click.stop
        ><SeverityMark :severity="check.worst(found)!" :size="14"
      /></RouterLink>
      <button
        v-if="track.automation?.length"
        type="button"
        class="grid h-6 w-6 shrink-0 place-items-center rounded text-rope"
        :class="{ 'opacity-50': !lanesOn }"
        :aria-label="lanesText"
        title="Values that move along the song"
        @click.stop="openLanes"
      >
        <ChartSpline :size="14" aria-hidden="true" />
      </button>
      <LineGuests :track="track.id" :name="track.name" />
      <OriginMark v-if="track.origin" :id="track.id" small :origin="track.origin" />
    </template>
  </div>
</template>
