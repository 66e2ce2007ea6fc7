import {
  Copy,
  FolderPlus,
  Group,
  Package,
  PackagePlus,
  Pencil,
  Rows3,
  Split,
  Trash2,
  Ungroup,
  Upload,
} from '@lucide/vue';
import {
  ADDABLE,
  COLOURS,
  DEVICE_TYPES,
  chainAt,
  createRack,
  instrumentsOn,
  placeOf,
  type DeviceType,
  type Role,
  type Slot,
  type Track,
} from '../../core/index.ts';
import { useDefaults } from '../stores/defaults.ts';
import { useDrop } from '../stores/drop.ts';
import {
  addDevice,
  addInstrument,
  addSend,
  addTrack,
  alongside,
  destinations,
  insertSlots,
  moveTrack,
  onDevice,
  onTrack,
  removeTrack,
  type Spot,
} from '../stores/edits.ts';
import { useKit } from '../stores/kit.ts';
import { useOrigins } from '../stores/origins.ts';
import { useSession } from '../stores/session.ts';
import type { MenuEntry } from '../ui/menu.ts';
import { duplicateLine } from './lines.ts';
import { borrowing, dropList, duplicating, hardware, saving } from './saving.ts';
import { chooseNotes } from './notes.ts';
import { duplicate, group, remove, takeApart } from './slots.ts';
import { chooseSound } from './sound.ts';

export function putRack(spot: Spot): void {
  const session = useSession();
  const r = createRack('Rack');
  if (session.edit('Add a rack', insertSlots(spot, [r]))) session.select(spot.track, r.id);
}

export function deviceMenu(spot: Spot): MenuEntry[] {
  const drop = useDrop();
  const pieces = drop.pieces.slice(0, 30);
  const role = useSession().doc?.tracks.find((t) => t.id === spot.track)?.role;
  return [
    { heading: 'Add a device' },
    ...ADDABLE.filter((d) => fitsOn(d, role)).map((d) => ({
      label: d.label,
      run: () => {
        putDevice(spot, d.type);
      },
    })),
    { heading: 'Parallel paths' },
    { label: 'Empty rack', icon: Split, run: () => putRack(spot) },
    ...(pieces.length
      ? [
          { heading: 'From the shelf' },
          ...pieces.map((p) => ({
            label: p.name,
            icon: Package,
            run: () =>
              void drop.begin(
                p.id,
                {
                  kind: 'onto',
                  track: spot.track,
                  container: spot.container ?? spot.track,
                  chain: 'at',
                  at: spot.at ?? Infinity,
                },
                true,
              ),
          })),
        ]
      : []),
  ];
}

/** Instruments belong on instrument lines, patterns on MIDI lines, everything else on lines with sound. */
export const fitsOn = (d: DeviceType, role: Role | undefined): boolean =>
  d.pattern ? role === 'midi' : role === 'midi' ? false : !d.instrument || role === 'instrument';

/** Adds a device with the values that are its default on this shelf, and selects it. */
export function putDevice(spot: Spot, type: string): void {
  const session = useSession();
  const a = addDevice(spot, type, useDefaults().valuesOf(type));
  if (session.edit(`Add ${DEVICE_TYPES[type].label}`, a.edit)) session.select(spot.track, a.id);
}

/** What can be done with one device or rack, from its panel. */
export function slotMenu(t: Track, slot: Slot, save: () => void): MenuEntry[] {
  const session = useSession();
  const defaults = useDefaults();
  const place = placeOf(t, slot.id)!;
  const chain = chainAt(t, place.container)!;
  const next = chain[place.at + 1];
  const type = slot.kind === 'device' ? slot.type : '';
  return [
    ...(type === 'opaque'
      ? []
      : [
          {
            label: slot.kind === 'rack' ? 'Save the rack to the shelf …' : 'Save the settings to the shelf …',
            icon: Package,
            run: save,
          },
        ]),
    { label: 'Duplicate', icon: Copy, run: () => duplicate(t, slot) },
    { heading: 'Rack' },
    ...(session.picked.length > 1
      ? [
          {
            label: `Put the ${session.picked.length} chosen into a rack`,
            icon: Group,
            keys: 'G',
            run: () => group(t, [...session.picked], slot),
          },
        ]
      : [{ label: 'Put into a rack', icon: Group, keys: 'G', run: () => group(t, [slot.id], slot) }]),
    ...(next
      ? [
          {
            label: `Put into a rack together with ${next.name}`,
            run: () => group(t, [slot.id, next.id], slot, `Put ${slot.name} and ${next.name} into a rack`),
          },
        ]
      : []),
    ...(chain.length > 1
      ? [
          {
            label: `Put all ${chain.length} of this chain into a rack`,
            run: () =>
              group(
                t,
                chain.map((x) => x.id),
                slot,
                'Put the chain into a rack',
              ),
          },
        ]
      : []),
    {
      label: 'Blend it with the dry sound',
      icon: Split,
      run: () => {
        const a = alongside(t.id, slot.id);
        if (session.edit(`Blend ${slot.name} with the dry sound`, a.edit)) session.select(t.id, a.id);
      },
    },
    ...(slot.kind === 'rack'
      ? [{ label: 'Ungroup', icon: Ungroup, keys: 'Shift G', run: () => takeApart(t, slot) }]
      : []),
    ...(slot.kind === 'device' && type !== 'opaque'
      ? [
          { heading: `Every new ${DEVICE_TYPES[type].label}` },
          { label: 'Begins with these settings', run: () => void defaults.setDevice(slot) },
          ...(defaults.has(`device:${type}`)
            ? [{ label: 'Begins as it came (factory)', run: () => void defaults.clear(`device:${type}`) }]
            : []),
          {
            label: 'Back to factory settings here',
            run: () => {
              session.edit(
                `Factory settings of ${slot.name}`,
                onDevice(t.id, slot.id, { params: { ...DEVICE_TYPES[type].defaults } }),
              );
            },
          },
        ]
      : []),
    { heading: ' ' },
    { label: 'Remove', icon: Trash2, danger: true, keys: 'Del', run: () => remove(t, slot) },
  ];
}

export function addMenu(): MenuEntry[] {
  const roles = [
    ['audio', 'Audio track'],
    ['bus', 'Bus'],
    ['return', 'Return'],
    ['folder', 'Folder'],
  ] as const;
  return [
    { heading: 'Add a line' },
    ...roles.map(([role, label]) => ({ label, run: () => void addLine(role) })),
    { label: 'MIDI track', run: () => void addLine('midi') },
    { heading: 'Add an instrument' },
    ...['kit', 'keys', 'bass'].map((type) => ({
      label: `${DEVICE_TYPES[type].label} with a pattern`,
      run: () => putInstrument(type),
    })),
    {
      label: 'Parts player …',
      run: () => {
        useKit().sheet = { kind: 'player', tracks: [] };
      },
    },
  ];
}

/** Adds an instrument on a line of its own and a pattern that plays it; selects the instrument. */
export function putInstrument(type: string): void {
  const session = useSession();
  const a = addInstrument(type, session.doc!, true);
  if (session.edit(`Add ${DEVICE_TYPES[type].label}`, a.edit)) session.select(a.id, a.device);
}

/** What can be done with a line's instrument, for its menu and the palette. */
export function instrumentMenu(t: Track): MenuEntry[] {
  const kit = useKit();
  const s = useSession().doc!;
  const slot = instrumentsOn(t)[0]?.device;
  const outputs = slot ? DEVICE_TYPES[slot.type].instrument!.outputs : 0;
  const printed = s.tracks.find(
    (x) => x.printed && (x.id === t.id || x.printed.instrument.track === t.id),
  )?.printed;
  return [
    ...(printed
      ? [{ label: 'Restore the instrument', run: () => kit.restore(printed.instrument.slot) }]
      : []),
    ...(slot && outputs
      ? [
          {
            label: 'Lay out the outputs …',
            icon: Rows3,
            run: () => {
              kit.sheet = { kind: 'layout', slot: slot.id };
            },
          },
          {
            label: 'Output levels …',
            run: () => {
              kit.sheet = { kind: 'levels', slot: slot.id };
            },
          },
        ]
      : []),
    ...(slot?.type === 'parts'
      ? [
          {
            label: 'Parts and channels …',
            run: () => {
              kit.sheet = { kind: 'player', tracks: [t.id] };
            },
          },
        ]
      : []),
    ...(slot && !printed
      ? [
          {
            label: 'Print to audio …',
            run: () => {
              kit.sheet = { kind: 'print', slot: slot.id };
            },
          },
        ]
      : []),
  ];
}

/** Adds a line: the default strip of its role when the shelf has one, otherwise an empty one. */
export async function addLine(role: Role): Promise<void> {
  const session = useSession();
  const strip = useDefaults().presetOf(`track:${role}`);
  if (strip) {
    await useDrop().begin(strip, { kind: 'new' }, true);
    return;
  }
  const a = addTrack(role);
  if (session.edit(`Add a ${role}`, a.edit)) session.select(a.id);
}

/** What can be done with the whole session; the palette has the same. */
export const sessionMenu = (): { label: string; run: () => void }[] => [
  {
    label: 'Save as a starter …',
    run: () => {
      saving.value = 'starter';
    },
  },
  {
    label: 'Borrow lines from another session …',
    run: () => {
      borrowing.value = true;
    },
  },
  {
    label: 'Hardware of this session …',
    run: () => {
      hardware.value = true;
    },
  },
  {
    label: 'What is newer on the shelf, what was changed',
    run: () => {
      useOrigins().overview = true;
    },
  },
  {
    label: 'What was dropped here',
    run: () => {
      dropList.value = true;
    },
  },
];

interface LineActions {
  rename: () => void;
  save: () => void;
  drop: () => void;
  colours: typeof COLOURS;
  types: unknown;
}

export function lineMenu(t: Track, a: LineActions): MenuEntry[] {
  const session = useSession();
  const s = session.doc!;
  const isMaster = t.role === 'master';
  const step = (d: 1 | -1) => {
    const i = s.tracks.findIndex((x) => x.id === t.id);
    const before = d < 0 ? s.tracks[i - 1] : s.tracks[i + 2];
    if (d < 0 ? i > 0 : i < s.tracks.length - 2) {
      session.edit(`Move ${t.name}`, moveTrack(t.id, before?.id ?? null));
    }
  };
  const folders = s.tracks.filter((x) => x.role === 'folder' && x.id !== t.id);
  const sendable = destinations(s, t, true).filter((x) => !t.sends.some((y) => y.to === x.id));
  return [
    ...(isMaster ? [] : [{ label: 'Save to the shelf …', icon: Package, run: a.save }]),
    { label: 'Drop a preset onto this line …', icon: PackagePlus, run: a.drop },
    { label: 'Rename', icon: Pencil, keys: 'F2', run: a.rename },
    ...instrumentMenu(t),
    ...(t.role === 'midi'
      ? [
          { label: 'Put a MIDI file on it …', icon: Upload, run: () => chooseNotes(t.id) },
          { label: 'Add a pattern source', run: () => putDevice({ track: t.id }, 'pattern') },
        ]
      : []),
    ...(isMaster || t.role === 'folder' || t.role === 'midi'
      ? []
      : [{ label: 'Put a sound on it (WAV) …', icon: Upload, run: () => chooseSound(t.id) }]),
    ...(isMaster
      ? []
      : [
          { label: 'Duplicate', icon: Copy, run: () => duplicateLine(t) },
          {
            label: 'Duplicate, choosing parts …',
            run: () => {
              duplicating.value = t.id;
            },
          },
          { label: 'Move up', run: () => step(-1) },
          { label: 'Move down', run: () => step(1) },
        ]),
    ...(t.origin && !isMaster
      ? [
          {
            label: `“${t.origin.name}” for every new ${t.role} line`,
            run: () => void useDefaults().set(`track:${t.role}`, t.origin!.preset, `“${t.origin!.name}”`),
          },
        ]
      : []),
    ...(useDefaults().has(`track:${t.role}`)
      ? [{ label: `New ${t.role} lines begin empty`, run: () => void useDefaults().clear(`track:${t.role}`) }]
      : []),
    {
      label: t.state === 'on' ? 'Make inactive' : 'Make active',
      run: () => {
        session.edit(
          `${t.state === 'on' ? 'Make inactive' : 'Make active'}: ${t.name}`,
          onTrack(t.id, { state: t.state === 'on' ? 'inactive' : 'on' }),
        );
      },
    },
    ...(sendable.length && !isMaster
      ? [
          { heading: 'Sends' },
          ...sendable.map((x) => ({
            label: `Send to ${x.name}`,
            run: () => {
              session.edit(`Send ${t.name} to ${x.name}`, addSend(t.id, x.id));
              session.select(t.id);
            },
          })),
        ]
      : []),
    ...(folders.length && !isMaster
      ? [
          { heading: 'Folder' },
          ...folders.map((f) => ({
            label: `Into “${f.name}”`,
            icon: FolderPlus,
            checked: t.folder === f.id,
            run: () => {
              session.edit(`Put ${t.name} into ${f.name}`, onTrack(t.id, { folder: f.id }));
            },
          })),
          {
            label: 'No folder',
            checked: t.folder === null,
            run: () => {
              session.edit(`Take ${t.name} out of its folder`, onTrack(t.id, { folder: null }));
            },
          },
        ]
      : []),
    { heading: 'Colour' },
    ...a.colours.map((c) => ({
      label: c.label,
      swatch: c.day,
      checked: t.colour === c.id,
      run: () => {
        session.edit(`Colour of ${t.name}`, onTrack(t.id, { colour: c.id }));
      },
    })),
    ...(isMaster
      ? []
      : [
          { heading: ' ' },
          {
            label: 'Delete',
            icon: Trash2,
            danger: true,
            keys: 'Del',
            run: () => {
              session.edit(`Delete ${t.name}`, removeTrack(t.id));
            },
          },
        ]),
  ];
}
