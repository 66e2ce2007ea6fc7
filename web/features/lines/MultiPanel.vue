<script setup lang="ts">
/**
 * Several lines at once: output, send, colour, state, level; a device for all; a chain or chosen parts copied
 * to all. Each is one undo step.
 */
import { Package } from '@lucide/vue';
import { computed } from 'vue';
import {
  ADDABLE,
  COLOURS,
  DEVICE_TYPES,
  colourOf,
  createDevice,
  createSend,
  isPiece,
  type SlotState,
  type Track,
  destinations,
  onTracks,
} from '../../../core/index.ts';
import { useDefaults } from '../defaults/index.ts';
import { api } from '../../api/index.ts';
import { useDrop } from '../drop/index.ts';
import { useSession } from '../../document/doc.ts';
import { useShelf } from '../shelf/index.ts';
import { useUi } from '../../ui/window.ts';
import { useSheets } from '../../ui/sheets.ts';
import PopMenu from '../../ui/PopMenu.vue';
import CopyParts from './CopyParts.vue';
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
const s = computed(() => session.doc!);
const count = computed(() => `${ids.value.length} lines`);
const each = (label: string, change: (t: Track) => Partial<Track>) =>
  session.edit(`${label} of ${count.value}`, onTracks(ids.value, change));
/** Where all of them can go without a loop. */
const common = (forSend: boolean) =>
  plain.value.length
    ? plain.value
        .map((t) => destinations(s.value, t, forSend))
        .reduce((a, b) => a.filter((x) => b.some((y) => y.id === x.id)))
    : [];

const outs = () => [
  { heading: 'Output of all' },
  ...common(false).map((t) => ({
    label: t.name,
    swatch: colourOf(t.colour).day,
    run: () => {
      each('Output', () => ({ output: { kind: 'track', track: t.id } }));
    },
  })),
  {
    label: 'Nowhere',
    run: () => {
      each('Output', () => ({ output: { kind: 'none' } }));
    },
  },
];
const sends = () => [
  { heading: 'Send all to, at −18 dB' },
  ...common(true).map((t) => ({
    label: t.name,
    run: () => {
      each(`Send to ${t.name}`, (x) =>
        x.sends.some((y) => y.to === t.id) ? {} : { sends: [...x.sends, createSend(t.id, { level: -18 })] },
      );
    },
  })),
];
const colours = () =>
  COLOURS.map((c) => ({
    label: c.label,
    swatch: c.day,
    run: () => {
      each('Colour', () => ({ colour: c.id }));
    },
  }));
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
const all = (f: (t: Track) => boolean) => plain.value.every(f);

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
const setChains = (state: SlotState) =>
  each('Devices', (t) => ({ chain: t.chain.map((d) => ({ ...d, state })) }));
const areMuted = computed(() => all((t) => t.mute));
const areSolo = computed(() => all((t) => t.solo));
const areOff = computed(() => all((t) => t.state === 'inactive'));
/** What one press does to all of them. */
const acts = computed(() => [
  {
    label: areMuted.value ? 'Unmute all' : 'Mute all',
    run: () => each(areMuted.value ? 'Unmute' : 'Mute', () => ({ mute: !areMuted.value })),
  },
  {
    label: areSolo.value ? 'Unsolo all' : 'Solo all',
    run: () => each(areSolo.value ? 'Unsolo' : 'Solo', () => ({ solo: !areSolo.value })),
  },
  {
    label: areOff.value ? 'Make active' : 'Make inactive',
    run: () => each('State', () => ({ state: areOff.value ? 'on' : 'inactive' })),
  },
  { label: 'Bypass their chains', run: () => setChains('bypassed') },
  { label: 'Switch their chains on', run: () => setChains('on') },
  { label: '+1 dB', run: () => level(1) },
  { label: '−1 dB', run: () => level(-1) },
  ...printMenu(plain.value),
]);
</script>

<template>
  <section class="flex h-full min-h-0 flex-col" aria-label="Several lines">
    <header class="flex items-center gap-2 border-b border-rule px-3 py-1">
      <h2 class="text-head font-semibold">{{ count }}</h2>
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
    <div class="grid min-h-0 grid-cols-2 gap-6 overflow-auto p-3 text-body">
      <fieldset class="flex flex-col gap-2">
        <legend class="mb-1 text-note font-semibold">For all of them</legend>
        <div class="flex flex-wrap gap-1.5">
          <PopMenu label="Output of all" :items="outs" button-class="btn px-2 py-0.5">Output …</PopMenu>
          <PopMenu label="Send to, for all" :items="sends" button-class="btn px-2 py-0.5">Send to …</PopMenu>
          <PopMenu label="Colour of all" :items="colours" button-class="btn px-2 py-0.5">Colour …</PopMenu>
          <PopMenu label="Add a device to all" :items="devices" button-class="btn px-2 py-0.5"
            >Add a device …</PopMenu
          >
        </div>
        <div class="flex flex-wrap gap-1.5">
          <button v-for="act in acts" :key="act.label" type="button" class="btn px-2 py-0.5" @click="act.run">
            {{ act.label }}
          </button>
        </div>
      </fieldset>
      <CopyParts :lines="plain" :ids="ids" />
    </div>
  </section>
</template>
