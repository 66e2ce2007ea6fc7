<script setup lang="ts">
/**
 * Several lines at once: where they come from, go and lie, sends, colour, state, level, order; a device for all; a chain
 * or chosen parts copied to all. Each is one undo step.
 */
import { Package } from '@lucide/vue';
import { computed } from 'vue';
import { ADDABLE, DEVICE_TYPES, createDevice, isPiece, onTracks, type Track } from '../../../core/index.ts';
import { useDefaults } from '../defaults/index.ts';
import { api } from '../../api/index.ts';
import { useDrop } from '../drop/index.ts';
import { useSession } from '../../document/doc.ts';
import { useShelf } from '../shelf/index.ts';
import { useUi } from '../../ui/window.ts';
import { useSheets } from '../../ui/sheets.ts';
import PopMenu from '../../ui/PopMenu.vue';
import CopyParts from './CopyParts.vue';
import ManySends from './ManySends.vue';
import ManySettings from './ManySettings.vue';
import { duplicateAll, flip, flipActive, flipChains, hide, makeFolder, removeAll, step } from './many.ts';
import { printMenu } from '../print/index.ts';

const sheets = useSheets();
const session = useSession();
const defaults = useDefaults();
const shelf = useShelf();
const drop = useDrop();
const ui = useUi();
const many = computed(() => session.many);
const plain = computed(() => many.value.filter((t) => t.role !== 'master'));
const ids = computed(() => session.together);
const count = computed(() => `${ids.value.length} lines`);
const each = (label: string, change: (t: Track) => Partial<Track>) =>
  session.edit(`${label} of ${count.value}`, onTracks(ids.value, change));
const devices = () => [
  { heading: 'Add to the end of all' },
  ...ADDABLE.filter((d) => !d.instrument && !d.pattern).map((d) => ({
    label: d.label,
    run: () => {
      each(`Add ${d.label}`, (t) => ({
        chain: [
          ...t.chain,
          createDevice(d.type, defaults.valuesOf(d.type), { name: DEVICE_TYPES[d.type].label }),
        ],
      }));
    },
  })),
];
/** Strips and pieces of the shelf, to go onto every chosen line. */
const drops = () => {
  const fit = shelf.items.filter((p) => p.summary.tracks === 1);
  return fit.length
    ? [
        { heading: 'Onto all chosen lines' },
        ...fit.slice(0, 40).map((p) => ({ label: p.name, run: () => void onto(p.id, isPiece(p.kind)) })),
      ]
    : [{ label: 'Nothing on the shelf fits', disabled: true }];
};
async function onto(id: string, piece: boolean) {
  try {
    const d = await api.preset(id);
    drop.beginWith(
      { ...d.preset, name: d.name },
      { kind: 'onto', track: ids.value[0], chain: piece ? 'append' : 'replace' },
      false,
      { also: ids.value },
    );
  } catch (e) {
    ui.fail(e);
  }
}

const level = (by: number) =>
  each('Level', (t) => ({ level: Math.max(-144, Math.min(12, Math.round((t.level + by) * 10) / 10)) }));
const every = (f: (t: Track) => boolean) => plain.value.every(f);
const word = (is: boolean, then: string, otherwise: string) => (is ? then : otherwise);
/** What one press does to all of them. */
const acts = computed(() => [
  {
    label: word(
      every((t) => t.mute),
      'Unmute all',
      'Mute all',
    ),
    run: () => flip('mute', many.value),
  },
  {
    label: word(
      every((t) => t.solo),
      'Unsolo all',
      'Solo all',
    ),
    run: () => flip('solo', many.value),
  },
  {
    label: word(
      every((t) => t.state === 'inactive'),
      'Make active',
      'Make inactive',
    ),
    run: () => flipActive(many.value),
  },
  { label: 'Bypass their chains', run: () => flipChains(many.value, 'bypassed') },
  { label: 'Chains inactive', run: () => flipChains(many.value, 'inactive') },
  { label: '+1 dB', run: () => level(1) },
  { label: '−1 dB', run: () => level(-1) },
  { label: 'Up', run: () => step(plain.value, -1) },
  { label: 'Down', run: () => step(plain.value, 1) },
  { label: 'Colours …', run: () => sheets.open('colours', { lines: many.value.map((t) => t.id) }) },
  { label: 'Into a new folder', run: () => makeFolder(plain.value) },
  {
    label: word(
      every((t) => t.hidden),
      'Show',
      'Hide',
    ),
    run: () => hide(plain.value),
  },
  { label: 'Even out takes …', run: () => sheets.open('even', { tracks: plain.value.map((t) => t.id) }) },
  { label: 'Duplicate', run: () => duplicateAll(plain.value) },
  { label: 'Delete', run: () => removeAll(plain.value) },
  ...printMenu(plain.value),
]);
</script>

<template>
  <section class="flex h-full min-h-0 flex-col" aria-label="Several lines">
    <header class="flex items-center gap-2 border-b border-rule px-3 py-1">
      <h2 class="whitespace-nowrap text-head font-semibold">{{ count }}</h2>
      <span class="min-w-0 truncate text-note text-soft">{{ many.map((t) => t.name).join(', ') }}</span><span
        class="flex-1"
      /><button
        type="button"
        class="btn btn-main px-2 py-0.5 text-note"
        :disabled="plain.length < 2"
        @click="sheets.open('save', { lines: ids })"
      >
        <Package :size="13" aria-hidden="true" /> Save as a rig …</button
      ><PopMenu label="Drop onto all …" :items="drops" button-class="btn px-2 py-0.5 text-note"
        >Drop onto all …</PopMenu
      ><button type="button" class="btn px-2 py-0.5 text-note" @click="session.select(session.selectedTrack)">
        Choose one again
      </button>
    </header>
    <div class="grid min-h-0 grid-cols-3 gap-6 overflow-auto p-3 text-body">
      <fieldset class="flex flex-col gap-2">
        <legend class="mb-1 text-note font-semibold">For all of them</legend>
        <ManySettings :lines="plain" />
        <div class="flex flex-wrap gap-1.5">
          <PopMenu label="Add a device to all" :items="devices" button-class="btn px-2 py-0.5"
            >Add a device …</PopMenu
          >
          <button v-for="act in acts" :key="act.label" type="button" class="btn px-2 py-0.5" @click="act.run">
            {{ act.label }}
          </button>
        </div>
      </fieldset>
      <ManySends :lines="plain" />
      <CopyParts :lines="plain" :ids="ids" />
    </div>
  </section>
</template>
