<script setup lang="ts">
/** Above the map: search, folders, what is wrong, legend, size, and the map as a file. */
import { HelpMark } from '../guide/index.ts';
import { ArrowLeft, Download, Maximize, Minus, Plus } from '@lucide/vue';
import { computed } from 'vue';
import type { Id, SignalGraph, Track } from '../../../core/index.ts';
import { useSession } from '../../document/doc.ts';
import PopMenu from '../../ui/PopMenu.vue';
import MapLegend from './MapLegend.vue';
import SearchField from '../../ui/SearchField.vue';

const props = defineProps<{ found: number; folders: Track[]; graph: SignalGraph }>();
const emit = defineEmits<{
  next: [];
  zoom: [by: number];
  fit: [];
  fold: [folder: Id];
  save: [kind: 'svg' | 'png'];
}>();
const query = defineModel<string>('query', { required: true });
const folded = defineModel<Id[]>('folded', { required: true });
const session = useSession();
const foundText = computed(() => `${props.found} found${props.found ? '; Enter goes to each' : ''}`);
const loopText = computed(() => {
  const count = props.graph.loops.size;
  return `⟳ ${count} ${count === 1 ? 'flow' : 'flows'} in a loop`;
});

const folderMenu = () => [
  { label: 'Open all', run: () => (folded.value = []) },
  { label: 'Fold all', run: () => (folded.value = props.folders.map((t) => t.id)) },
  { heading: ' ' },
  ...props.folders.map((t) => ({
    label: t.name,
    checked: !folded.value.includes(t.id),
    run: () => emit('fold', t.id),
  })),
];
const saveMenu = () => [
  { label: 'As a picture (PNG)', run: () => emit('save', 'png') },
  { label: 'As a drawing (SVG)', run: () => emit('save', 'svg') },
];
</script>

<template>
  <div class="flex flex-wrap items-center gap-2 border-b border-rule px-2 py-1.5 text-body">
    <RouterLink class="btn px-2 py-0.5" :to="`/session/${session.id}`">
      <ArrowLeft :size="14" aria-hidden="true" /> Lines
    </RouterLink>
    <SearchField v-model="query" label="Find on the map" width="w-[200px]" @keydown.enter="emit('next')" />
    <span v-if="query" class="text-soft" role="status">{{ foundText }}</span>
    <PopMenu v-if="folders.length" label="Folders" :items="folderMenu" button-class="btn px-2 py-0.5"
      >Folders</PopMenu
    >
    <span class="flex-1" />
    <HelpMark about="Signal map" />
    <span v-if="graph.loops.size" class="chip border-bad text-bad">{{ loopText }}</span>
    <span
      v-if="graph.doubles.size"
      class="chip border-warn text-warn"
      title="A track reaches the same bus or the master by two dry ways: it may sound twice"
      >⇉ {{ graph.doubles.size }} on double paths</span
    >
    <MapLegend />
    <button type="button" class="btn btn-plain px-1" aria-label="Smaller" @click="emit('zoom', 1 / 1.25)">
      <Minus :size="15" aria-hidden="true" />
    </button>
    <button type="button" class="btn btn-plain px-1" aria-label="Larger" @click="emit('zoom', 1.25)">
      <Plus :size="15" aria-hidden="true" />
    </button>
    <button
      type="button"
      class="btn btn-plain px-1"
      aria-label="All of it"
      title="All of it"
      @click="emit('fit')"
    >
      <Maximize :size="15" aria-hidden="true" />
    </button>
    <PopMenu label="Save the map" :items="saveMenu" button-class="btn px-2 py-0.5"
      ><Download :size="14" aria-hidden="true" /> Save the map</PopMenu
    >
  </div>
</template>
