<script setup lang="ts">
/** Handles that fight over one value or one controller, and the ways out. */
import { computed } from 'vue';
import {
  controllersIn,
  findSlot,
  freeController,
  handleConflicts,
  onHandle,
  onRack,
  type Edit,
  type Handle,
  type HandleConflict,
  type Rack,
} from '../../../core/index.ts';
import { useSession } from '../../document/doc.ts';

const props = defineProps<{ rack: Rack }>();
const session = useSession();
type Party = HandleConflict['handles'][number];
const conflicts = computed(() =>
  handleConflicts(session.doc!).filter((c) => c.handles.some((h) => h.rack === props.rack.id)),
);
function where(party: Party): string {
  const track = session.doc!.tracks.find((t) => t.id === party.track);
  const rack = track && findSlot(track.chain, party.rack);
  return `${rack?.name ?? '?'} on ${track?.name ?? '?'}`;
}

/** Its name, with its rack and line where another of the same name takes part, and a number within one rack. */
function nameOf(c: HandleConflict, party: Party): string {
  const twins = c.handles.filter((h) => h.name === party.name);
  if (twins.length === 1) return party.name;
  // in one rack even that is the same: the first, the second …
  const near = twins.filter((h) => h.rack === party.rack);
  const number = near.length > 1 ? ` (${near.indexOf(party) + 1})` : '';
  return `${party.name}${number} of ${where(party)}`;
}

/** A handle without what is fought over. */
function letGo(c: HandleConflict, party: Party): Edit {
  const without = (h: Handle): Handle =>
    c.kind === 'controller'
      ? { ...h, cc: null }
      : { ...h, ties: h.ties.filter((tie) => tie.id !== party.tie) };
  return onRack(party.track, party.rack, (r) => ({
    handles: r.handles.map((h) => (h.id === party.handle ? without(h) : h)),
  }));
}
/** Keeps one handle and takes the value or the controller from the others. */
function settle(c: HandleConflict, keep: string) {
  const others = c.handles.filter((h) => h.handle !== keep);
  session.edit('Settle a conflict of handles', (s) => others.reduce((now, party) => letGo(c, party)(now), s));
}
/** The first keeps the number; each of the others gets a free one, as long as there are any. */
function renumber(c: HandleConflict) {
  session.edit('Give handles controllers of their own', (s) =>
    c.handles.slice(1).reduce((now, { track, rack, handle }) => {
      const cc = freeController(controllersIn(now.tracks.map((t) => t.chain)));
      return cc === null ? now : onHandle(track, rack, handle, { cc })(now);
    }, s),
  );
}
</script>

<template>
  <div
    v-for="c in conflicts"
    :key="c.text"
    class="mt-1 rounded border border-warn px-2 py-1 text-note"
    role="status"
  >
    <p class="text-warn">{{ c.text }}</p>
    <span class="flex flex-wrap gap-1"
      ><button
        v-for="h in c.handles"
        :key="h.handle"
        type="button"
        class="btn px-1.5 py-0"
        :title="where(h)"
        @click="settle(c, h.handle)"
      >
        Only {{ nameOf(c, h) }}</button
      ><button v-if="c.kind === 'controller'" type="button" class="btn px-1.5 py-0" @click="renumber(c)">
        A controller for each
      </button></span
    >
  </div>
</template>
