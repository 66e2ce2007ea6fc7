import { Copy, Group, Package, Split, Trash2, Ungroup } from '@lucide/vue';
import {
  ADDABLE,
  DEVICE_TYPES,
  chainAt,
  createRack,
  placeOf,
  type DeviceType,
  type Role,
  type Slot,
  type Track,
  addDevice,
  alongside,
  insertSlots,
  type Spot,
  onDevice,
} from '../../../core/index.ts';
import { useDefaults } from '../defaults/index.ts';
import { useDrop } from '../drop/index.ts';
import { useSession } from '../../document/doc.ts';
import type { MenuEntry } from '../../ui/menu.ts';
import { duplicate, group, remove, takeApart } from './slots.ts';

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
export const fitsOn = (d: DeviceType, role: Role | undefined): boolean => {
  if (d.pattern) return role === 'midi';
  if (role === 'midi') return false;
  return !d.instrument || role === 'instrument';
};

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
