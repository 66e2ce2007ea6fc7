<script setup lang="ts">
/** The sends of several lines: one row a bus or return, for all of them at once. */
import { Plus, Trash2 } from '@lucide/vue';
import { computed } from 'vue';
import {
  destinations,
  formatDb,
  onSendsTo,
  onTracks,
  waysIn,
  type Id,
  type Send,
  type Track,
} from '../../../core/index.ts';
import { useSession } from '../../document/doc.ts';
import { chosenIn } from '../../ui/events.ts';
import PopMenu from '../../ui/PopMenu.vue';
import { SEND_LEVEL } from '../../ui/specs.ts';
import ValueField from '../../ui/ValueField.vue';

const props = defineProps<{ lines: Track[] }>();
const session = useSession();
const ids = computed(() => props.lines.map((t) => t.id));
const rows = computed(() => {
  const to = [...new Set(props.lines.flatMap((t) => t.sends.map((x) => x.to)))];
  return to.map((id) => {
    const sends = props.lines.flatMap((t) => t.sends.filter((x) => x.to === id));
    const levels = sends.map((x) => x.level);
    return {
      id,
      name: session.nameOf(id),
      count: sends.length,
      level: sends[0].level,
      differ: levels.some((x) => x !== levels[0]),
      low: Math.min(...levels),
      high: Math.max(...levels),
      tap: sends.every((x) => x.tap === sends[0].tap) ? sends[0].tap : '',
      on: sends.every((x) => x.on),
    };
  });
});
type Row = (typeof rows.value)[number];
const what = computed(() => `${props.lines.length} lines`);
const edit = (row: Row, label: string, change: Partial<Send>, key?: string) =>
  session.edit(
    `${label} to ${row.name} of ${what.value}`,
    onSendsTo(ids.value, row.id, change),
    key ? key + row.id : undefined,
  );
const setTap = (row: Row, e: Event) => edit(row, 'Tap of the send', { tap: chosenIn(e) as Send['tap'] });
const remove = (row: Row) =>
  session.edit(
    `Remove the sends to ${row.name} of ${what.value}`,
    onTracks(ids.value, (t) => ({ sends: t.sends.filter((x) => x.to !== row.id) })),
  );
/** How many of the lines send there, and how loud where they differ. */
const rowText = (row: Row) => {
  const some = row.count < props.lines.length ? `${row.count} of ${what.value}` : '';
  const levels = row.differ ? `${formatDb(row.low)} to ${formatDb(row.high)}` : '';
  return [some, levels].filter(Boolean).join(', ');
};

const sendable = computed(() => {
  const ways = waysIn(session.doc!);
  const found = new Set<Id>(
    props.lines.flatMap((t) =>
      destinations(session.doc!, t, true, ways)
        .filter((to) => !t.sends.some((x) => x.to === to.id))
        .map((to) => to.id),
    ),
  );
  return session.doc!.tracks.filter((t) => found.has(t.id));
});
const places = () => [
  { heading: 'Send all to, at −18 dB' },
  ...sendable.value.map((to) => ({
    label: to.name,
    run: () => {
      session.edit(`Send ${what.value} to ${to.name}`, onSendsTo(ids.value, to.id, {}, true));
    },
  })),
];
</script>

<template>
  <fieldset class="min-w-0">
    <legend class="mb-1 text-note font-semibold">Sends of all</legend>
    <div
      v-for="row in rows"
      :key="row.id"
      class="grid grid-cols-[minmax(80px,1fr)_124px_62px_24px] items-center gap-1.5 py-1"
      role="group"
      :aria-label="`Sends to ${row.name}`"
    >
      <label class="flex min-h-6 min-w-0 items-center gap-1"
        ><input
          type="checkbox"
          class="m-1 accent-[var(--rope)]"
          :checked="row.on"
          :aria-label="`Sends to ${row.name} on`"
          @change="edit(row, 'Sends', { on: !row.on })"
        /><span class="truncate">{{ row.name }}</span></label
      >
      <ValueField
        compact
        :spec="SEND_LEVEL"
        :value="row.level"
        :name="`Sends to ${row.name}`"
        @change="
          (v, sliding) =>
            edit(row, 'Level of the sends', { level: v as number }, sliding ? 'sends' : undefined)
        "
      />
      <select
        class="field h-[22px] px-1 py-0 text-note"
        :aria-label="`Tap of the sends to ${row.name}`"
        :value="row.tap"
        @change="setTap(row, $event)"
      >
        <option v-if="!row.tap" value="" disabled>differs</option>
        <option value="post">post</option>
        <option value="pre">pre</option>
      </select>
      <button
        type="button"
        class="btn btn-plain px-1 py-0"
        :aria-label="`Remove the sends to ${row.name}`"
        @click="remove(row)"
      >
        <Trash2 :size="13" aria-hidden="true" />
      </button>
      <span v-if="rowText(row)" class="col-span-4 -mt-1 pl-5 text-note text-soft">{{ rowText(row) }}</span>
    </div>
    <PopMenu
      v-if="sendable.length"
      label="Send to, for all"
      :items="places"
      button-class="btn mt-1 px-2 py-0.5 text-note"
      ><Plus :size="13" aria-hidden="true" /> Send to …</PopMenu
    >
  </fieldset>
</template>
