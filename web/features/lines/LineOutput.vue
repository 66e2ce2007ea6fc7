<script setup lang="ts">
/** The right end of a line: where it goes, with all the places where it could go. */
import { ArrowRight } from '@lucide/vue';
import { computed } from 'vue';
import {
  addressText,
  colourOf,
  destinations,
  listenersIn,
  onTrack,
  sameAddress,
  type Track,
} from '../../../core/index.ts';
import { useSession } from '../../document/doc.ts';
import type { MenuEntry } from '../../ui/menu.ts';
import PopMenu from '../../ui/PopMenu.vue';
import { outputText } from './ends.ts';

const props = defineProps<{ track: Track }>();
const session = useSession();
const text = computed(() => outputText(props.track, session.nameOf));

function goTo(output: Track['output']) {
  session.edit(`Output of ${props.track.name}`, onTrack(props.track.id, { output }));
}
const noWhere = (label: string): MenuEntry => ({
  label,
  checked: props.track.output.kind === 'none',
  run: () => goTo({ kind: 'none' }),
});
function listeners(): MenuEntry[] {
  const output = props.track.output;
  return [
    { heading: `Notes of ${props.track.name} go to` },
    ...listenersIn(session.doc!.tracks).map((at) => ({
      label: `${at.name}: ${addressText(at)}`,
      checked: output.kind === 'midi' && sameAddress(output, at),
      run: () => goTo({ kind: 'midi', port: at.port, channel: at.channel }),
    })),
    noWhere('Nobody'),
  ];
}
function lines(): MenuEntry[] {
  const output = props.track.output;
  return [
    { heading: `Output of ${props.track.name}` },
    ...destinations(session.doc!, props.track, false).map((to) => ({
      label: to.name,
      swatch: colourOf(to.colour).day,
      checked: output.kind === 'track' && output.track === to.id,
      run: () => goTo({ kind: 'track', track: to.id }),
    })),
    noWhere('Nowhere'),
  ];
}
const items = () => (props.track.role === 'midi' ? listeners() : lines());
</script>

<template>
  <div class="flex shrink-0 items-center">
    <ArrowRight :size="13" class="shrink-0 text-soft" aria-hidden="true" />
    <span v-if="track.role === 'master'" class="truncate px-1 text-note text-soft">{{ text }}</span>
    <PopMenu
      v-else
      :label="`Output of ${track.name}: ${text}`"
      :items="items"
      button-class="max-w-[76px] truncate rounded px-1 text-left text-note hover:bg-sunk"
      ><span :class="{ 'text-warn': track.output.kind === 'none' }">{{ text }}</span></PopMenu
    >
  </div>
</template>
