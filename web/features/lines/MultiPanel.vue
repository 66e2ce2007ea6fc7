<script setup lang="ts">
/**
 * Several lines at once: output, send, colour, state, level; a device for all; a chain or chosen parts copied
 * to all. Each is one undo step.
 */
import { Package } from '@lucide/vue';
import { computed, ref } from 'vue';
import {
  ADDABLE,
  COLOURS,
  DEVICE_TYPES,
  PARTS,
  colourOf,
  createDevice,
  createSend,
  isPiece,
  togglePart,
  type PartId,
  type Track,
  copyParts,
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

const from = ref('');
const parts = ref<PartId[]>(['chain']);
const append = ref(false);
const offered = PARTS.filter((p) =>
  ['chain', 'sends', 'level', 'pan', 'output', 'colour', 'note'].includes(p.id),
);
const source = computed(() => s.value.tracks.find((t) => t.id === from.value) ?? plain.value[0]);
const toggle = (p: PartId) => {
  parts.value = togglePart(parts.value, p);
};
function copy() {
  if (source.value) {
    session.edit(
      `Copy from ${source.value.name} to ${count.value}`,
      copyParts(source.value, ids.value, parts.value, append.value),
    );
  }
}
</script>

<template>
  <section class="flex h-full min-h-0 flex-col" aria-label="Several lines">
    <header class="flex items-center gap-2 border-b border-rule px-3 py-1">
      <h2 class="text-[15px] font-semibold">{{ count }}</h2>
      <span class="min-w-0 truncate text-[12px] text-soft">{{
        many.map((t) => t.name).join(', ')
      }}</span><span class="flex-1" /><button
        type="button"
        class="btn btn-main px-2 py-0.5 text-[12px]"
        :disabled="plain.length < 2"
        @click="sheets.open('save', { lines: ids })"
      >
        <Package :size="13" aria-hidden="true" /> Save as a rig …</button
      ><PopMenu label="Drop onto all …" :items="drops" button-class="btn px-2 py-0.5 text-[12px]"
        >Drop onto all …</PopMenu
      ><button
        type="button"
        class="btn px-2 py-0.5 text-[12px]"
        @click="session.select(session.selectedTrack)"
      >
        Choose one again
      </button>
    </header>
    <div class="grid min-h-0 grid-cols-2 gap-6 overflow-auto p-3 text-[13px]">
      <fieldset class="flex flex-col gap-2">
        <legend class="mb-1 text-[12px] font-semibold">For all of them</legend>
        <div class="flex flex-wrap gap-1.5">
          <PopMenu label="Output of all" :items="outs" button-class="btn px-2 py-0.5">Output …</PopMenu>
          <PopMenu label="Send to, for all" :items="sends" button-class="btn px-2 py-0.5">Send to …</PopMenu>
          <PopMenu label="Colour of all" :items="colours" button-class="btn px-2 py-0.5">Colour …</PopMenu>
          <PopMenu label="Add a device to all" :items="devices" button-class="btn px-2 py-0.5"
            >Add a device …</PopMenu
          >
        </div>
        <div class="flex flex-wrap gap-1.5">
          <button
            type="button"
            class="btn px-2 py-0.5"
            @click="each(all((t) => t.mute) ? 'Unmute' : 'Mute', () => ({ mute: !all((t) => t.mute) }))"
          >
            {{ all((t) => t.mute) ? 'Unmute all' : 'Mute all' }}
          </button>
          <button
            type="button"
            class="btn px-2 py-0.5"
            @click="each(all((t) => t.solo) ? 'Unsolo' : 'Solo', () => ({ solo: !all((t) => t.solo) }))"
          >
            {{ all((t) => t.solo) ? 'Unsolo all' : 'Solo all' }}
          </button>
          <button
            type="button"
            class="btn px-2 py-0.5"
            @click="each('State', () => ({ state: all((t) => t.state === 'inactive') ? 'on' : 'inactive' }))"
          >
            {{ all((t) => t.state === 'inactive') ? 'Make active' : 'Make inactive' }}
          </button>
          <button
            type="button"
            class="btn px-2 py-0.5"
            @click="each('Devices', (t) => ({ chain: t.chain.map((d) => ({ ...d, state: 'bypassed' })) }))"
          >
            Bypass their chains
          </button>
          <button
            type="button"
            class="btn px-2 py-0.5"
            @click="each('Devices', (t) => ({ chain: t.chain.map((d) => ({ ...d, state: 'on' })) }))"
          >
            Switch their chains on
          </button>
          <button
            type="button"
            class="btn px-2 py-0.5"
            @click="each('Level', (t) => ({ level: Math.min(12, Math.round((t.level + 1) * 10) / 10) }))"
          >
            +1 dB
          </button>
          <button
            type="button"
            class="btn px-2 py-0.5"
            @click="each('Level', (t) => ({ level: Math.max(-144, Math.round((t.level - 1) * 10) / 10) }))"
          >
            −1 dB
          </button>
        </div>
      </fieldset>
      <fieldset class="flex flex-col gap-2">
        <legend class="mb-1 text-[12px] font-semibold">Copy from one line to the others</legend>
        <label class="flex items-center gap-2"
          >From
          <select v-model="from" class="field py-0.5" aria-label="Line to copy from">
            <option value="">{{ plain[0]?.name }}</option>
            <option
              v-for="t in s.tracks.filter((x) => x.role !== 'master' && x.id !== plain[0]?.id)"
              :key="t.id"
              :value="t.id"
            >
              {{ t.name }}
            </option>
          </select></label
        >
        <div class="flex flex-wrap gap-x-3 gap-y-1">
          <label v-for="p in offered" :key="p.id" class="flex items-center gap-1" :title="p.help"
            ><input
              type="checkbox"
              class="accent-[var(--rope)]"
              :checked="parts.includes(p.id)"
              @change="toggle(p.id)"
            />
            {{ p.label }}</label
          >
        </div>
        <label v-if="parts.includes('chain')" class="flex items-center gap-2"
          ><input v-model="append" type="checkbox" class="accent-[var(--rope)]" /> Behind what they have,
          instead of in its place</label
        >
        <div>
          <button type="button" class="btn btn-main px-2 py-0.5" :disabled="!parts.length" @click="copy">
            Copy to {{ ids.filter((id) => id !== source?.id).length }} lines
          </button>
        </div>
      </fieldset>
    </div>
  </section>
</template>
