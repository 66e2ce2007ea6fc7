import {
  type Id,
  type Slot,
  type Track,
  duplicateSlot,
  groupSlots,
  removeSlot,
  ungroup,
} from '../../../core/index.ts';
import { copyWith } from '../../document/copying.ts';
import { useSession } from '../../document/doc.ts';

/**
 * What is done with a device or rack from its panel, its menu, the palette and the keyboard alike; each is
 * one step to undo.
 */
export function duplicate(t: Track, x: Slot): void {
  const session = useSession();
  const d = duplicateSlot(t.id, x.id);
  copyWith(`Duplicate ${x.name}`, d.edit, () => session.select(t.id, d.id));
}

export function remove(t: Track, x: Slot): void {
  const session = useSession();
  session.edit(`Remove ${x.name}`, removeSlot(t.id, x.id));
  session.select(t.id);
}

/** One device keeps its name for the rack around it; several get a plain one. */
export function group(
  t: Track,
  ids: Id[],
  x: Slot,
  label = ids.length > 1 ? `Put ${ids.length} devices into a rack` : `Put ${x.name} into a rack`,
): void {
  const session = useSession();
  const g = groupSlots(t.id, ids, ids.length > 1 || x.kind === 'rack' ? 'Rack' : x.name);
  if (session.edit(label, g.edit)) session.select(t.id, g.id);
}

export function takeApart(t: Track, x: Slot): void {
  const session = useSession();
  if (session.edit(`Ungroup ${x.name}`, ungroup(t.id, x.id))) session.select(t.id);
}
