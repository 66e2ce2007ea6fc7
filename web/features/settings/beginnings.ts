import { computed, shallowRef } from 'vue';
import type { PresetEntry } from '../../../contract/index.ts';
import {
  ADDABLE,
  DEVICE_TYPES,
  formatValue,
  type Device,
  type Params,
  type PresetKind,
} from '../../../core/index.ts';
import { api } from '../../api/index.ts';
import { useUi } from '../../ui/window.ts';
import { useDefaults } from '../defaults/index.ts';

/** presets of a kind that are offered; what has one that is not among them keeps it */
const OFFERED = 200;

/** Something new, and what it can begin with. */
export interface Beginning {
  /** name of the default */
  name: string;
  label: string;
  kind: PresetKind;
  /** type of device, where it is one */
  type?: string;
}

const LINES: [role: string, label: string][] = [
  ['audio', 'Audio lines'],
  ['instrument', 'Instrument lines'],
  ['bus', 'Buses'],
  ['return', 'Returns'],
  ['folder', 'Folders'],
  ['midi', 'MIDI lines'],
];
const devices = (isInstrument: boolean): Beginning[] =>
  ADDABLE.filter((t) => !!t.instrument === isInstrument).map((t) => ({
    name: `device:${t.type}`,
    label: t.label,
    kind: 'device',
    type: t.type,
  }));

/** Everything that begins with something, in groups. */
export const GROUPS: { title: string; rows: Beginning[] }[] = [
  {
    title: 'Sessions and lines',
    rows: [
      { name: 'session:new', label: 'Sessions', kind: 'starter' },
      ...LINES.map(([role, label]): Beginning => ({ name: `track:${role}`, label, kind: 'strip' })),
      { name: 'rack:new', label: 'Racks', kind: 'rack' },
    ],
  },
  { title: 'Kits and instruments', rows: devices(true) },
  { title: 'Devices', rows: devices(false) },
];

/** What of a device's values differs from how it came, in words. */
export function ownValues(type: string, params: Params): string[] {
  return DEVICE_TYPES[type].params
    .filter((p) => params[p.id] !== undefined && params[p.id] !== p.default)
    .map((p) => `${p.label} ${formatValue(p, params[p.id])}`);
}

/** Presets that something can begin with, and choosing one. */
export function useBeginnings() {
  const ui = useUi();
  const defaults = useDefaults();
  const found = shallowRef<Partial<Record<PresetKind, PresetEntry[]>>>({});

  async function load(): Promise<void> {
    const kinds: PresetKind[] = ['starter', 'strip', 'rack', 'device'];
    try {
      const pages = await Promise.all(kinds.map((kind) => api.presets({ kind, limit: OFFERED })));
      found.value = Object.fromEntries(kinds.map((kind, i) => [kind, pages[i].items]));
      await defaults.load();
    } catch (e) {
      ui.fail(e);
    }
  }
  const offered = (b: Beginning): PresetEntry[] => {
    const all = found.value[b.kind] ?? [];
    return b.type ? all.filter((p) => p.summary.devices[0]?.type === b.type) : all;
  };
  /** before that, what something begins with now is not known */
  const isLoaded = computed(() => Object.keys(found.value).length > 0 && defaults.isKnown);

  /** @param preset '' for as it came */
  async function choose(b: Beginning, preset: string): Promise<void> {
    if (!preset) {
      await defaults.clear(b.name);
      return;
    }
    const entry = offered(b).find((p) => p.id === preset);
    if (!b.type) {
      await defaults.set(b.name, preset, `“${entry?.name}”`);
      return;
    }
    try {
      const { preset: content } = await api.preset(preset);
      await defaults.setDevice(content.content.tracks[0].chain[0] as Device);
    } catch (e) {
      ui.fail(e);
    }
  }
  return { load, isLoaded, offered, choose, defaults };
}
