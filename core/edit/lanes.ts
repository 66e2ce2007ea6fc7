import { randomIds } from '../model/ids.ts';
import type { Id } from '../model/types.ts';
import type { LaneTarget } from '../session/automation.ts';
import { type Edit, onTrack } from './on.ts';

/** A lane for a value; it begins with the value as it stands, so that nothing changes yet. */
export function addLane(
  track: Id,
  target: Pick<LaneTarget, 'of' | 'param' | 'value'>,
): { edit: Edit; id: Id } {
  const id = randomIds('lan');
  return {
    id,
    edit: onTrack(track, (t) => ({
      automation: [
        ...(t.automation ?? []),
        { id, of: target.of, param: target.param, on: true, points: [{ at: 0, value: target.value }] },
      ],
    })),
  };
}

export const removeLane = (track: Id, lane: Id): Edit =>
  onTrack(track, (t) => ({ automation: (t.automation ?? []).filter((l) => l.id !== lane) }));
