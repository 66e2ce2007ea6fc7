import { Copy, Group, Package, Split, Trash2, Ungroup } from '@lucide/vue';
import {
  ADDABLE,
  DEVICE_TYPES,
  chainAt,
  createRack,
  newestRevision,
  placeOf,
  revisionOf,
  type Device,
  type DeviceType,
  type Place,
  type Rack,
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

/** Adds a rack: the one of the shelf that new racks begin with, otherwise an empty one. */
export async function putRack(spot: Spot): Promise<void> {
  const session = useSession();
  const edit = session.editLater();
  const defaults = useDefaults();
  await defaults.load();
  const begins = defaults.presetOf('rack:new');
  if (begins) {
    await useDrop().begin(begins, ontoSpot(spot), true);
    return;
  }
  const r = createRack('Rack');
  if (edit('Add a rack', insertSlots(spot, [r]))) session.select(spot.track, r.id);
}

/** A piece of the shelf at that place of a chain. */
const ontoSpot = (spot: Spot): Place => ({
  kind: 'onto',
  track: spot.track,
  container: spot.container ?? spot.track,
  chain: 'at',
  at: spot.at ?? Infinity,
});

export function deviceMenu(spot: Spot): MenuEntry[] {
  const drop = useDrop();
  const role = useSession().doc?.tracks.find((t) => t.id === spot.track)?.role;
  return [
    { heading: 'Add a device' },
    ...ADDABLE.filter((d) => fitsOn(d, role)).map((d) => ({
      label: d.label,
      run: () => void putDevice(spot, d.type),
    })),
    { heading: 'Parallel paths' },
    {
      label: useDefaults().has('rack:new') ? 'New rack' : 'Empty rack',
      icon: Split,
      run: () => void putRack(spot),
    },
    ...(drop.pieces.length ? [{ heading: 'From the shelf, used last' }] : []),
    ...drop.pieces.map((p) => ({
      label: p.name,
      icon: Package,
      run: () => void drop.begin(p.id, ontoSpot(spot), true),
    })),
    ...(drop.piecesFailed ? [{ heading: 'The shelf does not answer: open this menu again.' }] : []),
  ];
}

/** Instruments belong on instrument lines, patterns on MIDI lines, everything else on lines with sound. */
export const fitsOn = (d: DeviceType, role: Role | undefined): boolean => {
  if (d.pattern) return role === 'midi';
  if (role === 'midi') return false;
  return !d.instrument || role === 'instrument';
};

/** Adds a device with the values that are its default on this shelf, and selects it. */
export async function putDevice(spot: Spot, type: string): Promise<void> {
  const session = useSession();
  const edit = session.editLater();
  const defaults = useDefaults();
  await defaults.load();
  const a = addDevice(spot, type, defaults.valuesOf(type));
  if (edit(`Add ${DEVICE_TYPES[type].label}`, a.edit)) session.select(spot.track, a.id);
}

/** What can be done with one device or rack, from its panel. */
export function slotMenu(track: Track, slot: Slot, save: () => void): MenuEntry[] {
  return [
    ...saveMenu(slot, save),
    { label: 'Duplicate', icon: Copy, run: () => duplicate(track, slot) },
    ...rackMenu(track, slot),
    ...(slot.kind === 'device' ? settingsMenu(track, slot) : newRackMenu(slot)),
    ...(slot.kind === 'device' ? revisionMenu(track, slot) : []),
    { heading: ' ' },
    { label: 'Remove', icon: Trash2, danger: true, keys: 'Delete', run: () => remove(track, slot) },
  ];
}

/** What a device of a type unknown here is made of can't be read, so it has no settings to keep. */
const isUnknown = (slot: Slot) => slot.kind === 'device' && !!DEVICE_TYPES[slot.type].foreign;

function saveMenu(slot: Slot, save: () => void): MenuEntry[] {
  if (isUnknown(slot)) return [];
  const label = slot.kind === 'rack' ? 'Save the rack to the shelf …' : 'Save the settings to the shelf …';
  return [{ label, icon: Package, run: save }];
}

function rackMenu(track: Track, slot: Slot): MenuEntry[] {
  const picked = [...useSession().picked];
  const place = placeOf(track, slot.id)!;
  const chain = chainAt(track, place.container)!;
  const next = chain[place.at + 1];
  const all = chain.map((other) => other.id);
  const entries: MenuEntry[] = [
    { heading: 'Rack' },
    {
      label: picked.length > 1 ? `Put the ${picked.length} chosen into a rack` : 'Put into a rack',
      icon: Group,
      keys: 'G',
      run: () => group(track, picked.length > 1 ? picked : [slot.id], slot),
    },
  ];
  if (next) {
    entries.push({
      label: `Put into a rack together with ${next.name}`,
      run: () => group(track, [slot.id, next.id], slot, `Put ${slot.name} and ${next.name} into a rack`),
    });
  }
  if (chain.length > 1) {
    entries.push({
      label: `Put all ${chain.length} of this chain into a rack`,
      run: () => group(track, all, slot, 'Put the chain into a rack'),
    });
  }
  entries.push({ label: 'Blend it with the dry sound', icon: Split, run: () => blend(track, slot) });
  if (slot.kind === 'rack') {
    entries.push({ label: 'Ungroup', icon: Ungroup, keys: 'Shift G', run: () => takeApart(track, slot) });
  }
  return entries;
}

function blend(track: Track, slot: Slot): void {
  const session = useSession();
  const beside = alongside(track.id, slot.id);
  if (session.edit(`Blend ${slot.name} with the dry sound`, beside.edit)) session.select(track.id, beside.id);
}

/** What every new rack begins with: a rack of the shelf. */
function newRackMenu(rack: Rack): MenuEntry[] {
  const defaults = useDefaults();
  const { origin } = rack;
  const begin = origin
    ? {
        label: `Begins with “${origin.name}”`,
        run: () => void defaults.set('rack:new', origin.preset, `“${origin.name}”`),
      }
    : { label: 'Begins like this one: save it to the shelf first', disabled: true };
  const entries: MenuEntry[] = [{ heading: 'Every new rack' }, begin];
  if (defaults.has('rack:new')) {
    entries.push({ label: 'Begins empty', run: () => void defaults.clear('rack:new') });
  }
  return entries;
}

/** Which revision of its sound a device plays, where there is more than one. */
function revisionMenu(track: Track, device: Device): MenuEntry[] {
  const type = DEVICE_TYPES[device.type];
  const kept = (type.earlier ?? []).flatMap((e, i) => (e.create ? [i + 1] : []));
  if (!kept.length) return [];
  const newest = newestRevision(device.type);
  const entry = (revision: number): MenuEntry => {
    const isPlaying = revision === Math.min(revisionOf(device), newest);
    const name =
      revision === newest ? `Revision ${revision}, the present one` : `Revision ${revision}, as it was`;
    return {
      label: isPlaying ? `${name} (plays)` : name,
      disabled: isPlaying,
      run: () => {
        const edit = onDevice(track.id, device.id, { revision });
        useSession().edit(`Revision ${revision} of ${device.name}`, edit);
      },
    };
  };
  return [{ heading: 'Its sound' }, ...[newest, ...kept.toReversed()].map(entry)];
}

/** What every new device of its type begins with. */
function settingsMenu(track: Track, device: Device): MenuEntry[] {
  if (isUnknown(device)) return [];
  const defaults = useDefaults();
  const type = DEVICE_TYPES[device.type];
  const key = `device:${device.type}`;
  const entries: MenuEntry[] = [
    { heading: `Every new ${type.label}` },
    { label: 'Begins with these settings', run: () => void defaults.setDevice(device) },
  ];
  if (defaults.has(key)) {
    entries.push({ label: 'Begins as it came (factory)', run: () => void defaults.clear(key) });
  }
  entries.push({
    label: 'Back to factory settings here',
    run: () => {
      useSession().edit(
        `Factory settings of ${device.name}`,
        onDevice(track.id, device.id, { params: { ...type.defaults } }),
      );
    },
  });
  return entries;
}
