<script setup lang="ts">
/** A name between lines: closes and opens what stands under it. */
import { ChevronDown, ChevronRight, Ellipsis, GripVertical, Pencil, Trash2 } from '@lucide/vue';
import { computed } from 'vue';
import { COLOURS, onHeading, removeHeading, type Heading, type Id } from '../../../core/index.ts';
import { useSession } from '../../document/doc.ts';
import PopMenu from '../../ui/PopMenu.vue';
import { useUi } from '../../ui/window.ts';
import { startDrag } from '../drop/index.ts';
import NameField from './NameField.vue';
import { useLineView } from './view.ts';

const props = defineProps<{ heading: Heading; count: number }>();
const session = useSession();
const ui = useUi();
const view = useLineView();
const isClosed = computed(() => view.closed.includes(props.heading.id));
const isNaming = computed(() => view.naming === props.heading.id);
const countText = computed(() => (props.count === 1 ? '1 line' : `${props.count} lines`));
function name(text: string) {
  session.edit(`Rename ${props.heading.name}`, onHeading(props.heading.id, { name: text }));
}
/** The line that it stands above one step up or down; null where there is none. */
function beside(by: 1 | -1): Id | null {
  const { tracks } = session.doc!;
  const at = tracks.findIndex((t) => t.id === props.heading.before);
  return tracks[at + by]?.id ?? null;
}
function move(by: 1 | -1) {
  const before = beside(by);
  if (before) session.edit(`Move ${props.heading.name}`, onHeading(props.heading.id, { before }));
}
const menu = () => [
  {
    label: 'Rename',
    icon: Pencil,
    run: () => {
      view.naming = props.heading.id;
    },
  },
  { label: 'Move up', disabled: !beside(-1), run: () => move(-1) },
  { label: 'Move down', disabled: !beside(1), run: () => move(1) },
  {
    label: 'Remove the heading',
    icon: Trash2,
    run: () => {
      session.edit(`Remove the heading ${props.heading.name}`, removeHeading(props.heading.id));
    },
  },
  { heading: 'Colour' },
  ...COLOURS.map((colour) => ({
    label: colour.label,
    swatch: colour.day,
    checked: props.heading.colour === colour.id,
    run: () => {
      session.edit(`Colour of ${props.heading.name}`, onHeading(props.heading.id, { colour: colour.id }));
    },
  })),
];
</script>

<template>
  <div
    class="flex h-full items-center gap-1.5 border-b border-rule bg-paper px-2"
    role="group"
    :aria-label="`Heading ${heading.name}`"
  >
    <button
      type="button"
      class="btn btn-plain px-0.5"
      :aria-expanded="!isClosed"
      :aria-label="`${isClosed ? 'Open' : 'Close'} ${heading.name}`"
      @click="view.toggle(heading.id)"
    >
      <component :is="isClosed ? ChevronRight : ChevronDown" :size="14" aria-hidden="true" />
    </button>
    <span
      class="cursor-grab text-soft"
      draggable="true"
      role="img"
      :aria-label="`Move the heading ${heading.name}`"
      @dragstart="startDrag($event, { kind: 'heading', heading: heading.id })"
      ><GripVertical :size="13" aria-hidden="true"
    /></span>
    <span
      class="h-3.5 w-3.5 rounded-sm"
      :style="{ background: ui.swatch(heading.colour) }"
      aria-hidden="true"
    />
    <NameField v-if="isNaming" :id="heading.id" :name="heading.name" class="w-[220px]" @name="name" />
    <span v-else class="font-semibold" @dblclick="view.naming = heading.id">{{ heading.name }}</span>
    <span v-if="isClosed" class="text-note text-soft">{{ countText }}</span>
    <span class="h-px flex-1 bg-rule" />
    <PopMenu :label="`More for the heading ${heading.name}`" :items="menu" button-class="btn btn-plain px-0.5"
      ><Ellipsis :size="15" aria-hidden="true"
    /></PopMenu>
  </div>
</template>
