import type { Cable, Control, UnitUse } from '../model/hardware.ts';
import type { Id } from '../model/types.ts';
import { positionsOf } from './positions.ts';

/**
 * What is done of a patch list is kept by keys: of a position with the value that it had, so that another value has to
 * be set, and ticked, anew.
 * @param place the device that goes through the unit, or the track whose input does
 */
export const tickOf = (place: Id, use: UnitUse, control: Control): string =>
  `set ${place} ${use.id} ${use.unit.id} ${control.id} ${positionsOf(use)[control.id]}`;

/** The key of a cable that is pulled or plugged. */
export const tickOfMove = (kind: 'pull' | 'plug', cable: Cable): string =>
  `${kind} ${cable.from} ${cable.to}`;
