import { COLOURS } from '../model/colours.ts';
import { createStrand, mapSlots } from '../session/slots.ts';
import { dropDeadTies, type TieTarget } from '../session/handles.ts';
import { freeName } from '../session/create.ts';
import { randomIds } from '../model/ids.ts';
import type { Handle, Id } from '../model/types.ts';
import { type Edit, onRack, onTrack, turnHandle, onHandle } from './on.ts';

export const addStrand = (track: Id, rack: Id): Edit =>
  onRack(track, rack, (r) => ({
    strands: [
      ...r.strands,
      createStrand(
        freeName(
          'Strand 1',
          r.strands.map((x) => x.name),
        ),
      ),
    ],
  }));

export const removeStrand = (track: Id, rack: Id, strand: Id): Edit =>
  onTrack(track, (t) => ({
    chain: dropDeadTies(
      mapSlots(t.chain, (x) =>
        x.id === rack && x.kind === 'rack' && x.strands.length > 1
          ? { ...x, strands: x.strands.filter((y) => y.id !== strand) }
          : x,
      ),
    ),
  }));

/** A new handle that moves some values, each from where it stands now. */
export function addHandle(
  track: Id,
  rack: Id,
  targets: { slot: Id; param: string; from: number; to: number }[],
  name: string,
): { edit: Edit; id: Id } {
  const id = randomIds('hdl');
  return {
    id,
    edit: onRack(track, rack, (r) => ({
      handles: [
        ...r.handles,
        {
          id,
          name: freeName(
            name,
            r.handles.map((h) => h.name),
          ),
          colour: COLOURS[r.handles.length % COLOURS.length].id,
          value: 0,
          cc: null,
          ties: targets.map((x) => ({ id: randomIds('tie'), curve: 0, ...x })),
        },
      ],
    })),
  };
}

/** Ties one more value to a handle, from where it stands now to the top of its range. */
export const addTie =
  (track: Id, rack: Id, handle: Handle, target: TieTarget): Edit =>
  (s) =>
    turnHandle(
      track,
      rack,
      handle.id,
      handle.value,
    )(
      onHandle(track, rack, handle.id, {
        ties: [
          ...handle.ties,
          {
            id: randomIds('tie'),
            slot: target.slot,
            param: target.param,
            from: target.value,
            to: target.spec.max!,
            curve: 0,
          },
        ],
      })(s),
    );

export const removeHandle = (track: Id, rack: Id, handle: Id): Edit =>
  onRack(track, rack, (r) => ({ handles: r.handles.filter((h) => h.id !== handle) }));
