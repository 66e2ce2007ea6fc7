<script setup lang="ts">
/** The lanes of a line: add one, switch it, open it, take it away. */
import { Trash2 } from '@lucide/vue';
import { computed } from 'vue';
import {
  addLane,
  laneTarget,
  laneTargets,
  onLane,
  removeLane,
  type Lane,
  type LaneTarget,
  type Track,
} from '../../../core/index.ts';
import { useSession } from '../../document/doc.ts';
import { useLaneView } from './view.ts';

const props = defineProps<{ track: Track; open: Lane | null }>();
const session = useSession();
const view = useLaneView();
const lanes = computed(() => props.track.automation ?? []);
const targetOf = (l: Lane) => laneTarget(props.track, l, session.nameOf);
const labelOf = (l: Lane) => targetOf(l)?.label ?? 'what is gone';

interface Offer {
  label: string;
  key: string;
  target: LaneTarget;
}
/** What can still be given a lane, in groups as the line reads: itself, its sends, then its devices. */
const offered = computed(() => {
  const free = laneTargets(props.track, session.nameOf).filter(
    (target) => !lanes.value.some((l) => l.of === target.of && l.param === target.param),
  );
  const groups = new Map<string, Offer[]>();
  for (const target of free) {
    const cut = target.label.lastIndexOf(' · ');
    const group = cut < 0 ? 'Line' : target.label.slice(0, cut);
    const label = cut < 0 ? target.label : target.label.slice(cut + 3);
    const offer = { label, key: `${target.of}/${target.param}`, target };
    groups.set(group, [...(groups.get(group) ?? []), offer]);
  }
  return [...groups].map(([name, items]) => ({ name, items }));
});
function add(e: Event) {
  const field = e.target as HTMLSelectElement;
  const offers = offered.value.flatMap((group) => group.items);
  const chosen = offers.find((offer) => offer.key === field.value);
  field.value = '';
  if (!chosen) return;
  const made = addLane(props.track.id, chosen.target);
  session.edit(`Automate ${chosen.target.label} of ${props.track.name}`, made.edit);
  view.lane = made.id;
}
const take = (l: Lane) =>
  session.edit(`Remove a lane of ${props.track.name}`, removeLane(props.track.id, l.id));
const turn = (l: Lane) =>
  session.edit(
    `${l.on ? 'Lane off' : 'Lane on'} of ${props.track.name}`,
    onLane(props.track.id, l.id, { on: !l.on }),
  );
const turnHint = (l: Lane) =>
  l.on ? 'Follows its lane; switch off to move it by hand' : 'Off: the value stands still';
</script>

<template>
  <div class="flex min-h-0 flex-col gap-1">
    <select class="field h-[26px] shrink-0 py-0" aria-label="Add a lane" :value="''" @change="add">
      <option value="">Add a lane for …</option>
      <optgroup v-for="g in offered" :key="g.name" :label="g.name">
        <option v-for="i in g.items" :key="i.key" :value="i.key">{{ i.label }}</option>
      </optgroup>
    </select>
    <ul class="min-h-0 flex-1 overflow-auto" aria-label="Lanes">
      <li
        v-for="l in lanes"
        :key="l.id"
        class="flex items-center gap-1 border-b border-rule"
        :class="{ 'bg-rope-wash': l.id === open?.id }"
      >
        <label class="grid h-6 w-6 shrink-0 place-items-center" :title="turnHint(l)"
          ><input
            type="checkbox"
            class="accent-[var(--rope)]"
            :checked="l.on"
            :aria-label="`${labelOf(l)} follows its lane`"
            @change="turn(l)"
        /></label>
        <button
          type="button"
          class="min-h-6 min-w-0 flex-1 truncate text-left"
          :class="{ 'text-soft': !l.on || !targetOf(l) }"
          :aria-pressed="l.id === open?.id"
          :aria-label="`Open the lane of ${labelOf(l)}`"
          @click="view.lane = l.id"
          @keydown.delete.prevent="take(l)"
        >
          {{ labelOf(l) }}
        </button>
        <button
          type="button"
          class="btn btn-plain min-h-6 px-1 py-0"
          :aria-label="`Remove the lane of ${labelOf(l)}`"
          @click="take(l)"
        >
          <Trash2 :size="13" aria-hidden="true" />
        </button>
      </li>
    </ul>
    <p v-if="!lanes.length" class="text-note text-soft">
      Nothing moves yet. A lane begins with the value as it stands; points move it along the song.
    </p>
  </div>
</template>
