import { COLOURS } from '../model/colours.ts';
import { createStrand, mapSlots } from '../session/slots.ts';
import { dropDeadTies, tiePosition } from '../session/handles.ts';
import { toPosition } from '../model/units.ts';
import { tieTarget, usefulRange, type TieTarget } from '../session/tie-targets.ts';
import { freeName } from '../session/create.ts';
import { randomIds } from '../model/ids.ts';
import type { Handle, Id, Rack, Tie } from '../model/types.ts';
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

/** What a handle is tied to without a range of its own yet. */
export type Tied = Pick<Tie, 'slot' | 'param'> & Partial<Pick<Tie, 'from' | 'to'>>;

/** Where a handle stands so that the first of its values stays as it is. */
function placeOf(rack: Rack, [first]: Pick<Tie, 'slot' | 'param' | 'from' | 'to' | 'curve'>[]): number {
  const target = first && tieTarget(rack, first);
  return target ? tiePosition(target.spec, first, target.value) : 0;
}

/**
 * A handle for some values of a rack. It stands where they are as they were; one without a range gets a useful one
 * around its value, a share (%) all of its range.
 */
function handleFor(rack: Rack, tied: readonly Tied[], name: string, id: Id): Handle {
  const ties = tied.flatMap((x) => {
    const target = tieTarget(rack, x);
    if (!target) return [];
    const share = target.spec.unit === '%' ? toPosition(target.spec, target.value) : 0.5;
    return [
      {
        id: randomIds('tie'),
        curve: 0,
        ...usefulRange(target, target.spec.kind === 'switch' ? 0 : share),
        ...x,
      },
    ];
  });
  const isButton = ties.length > 0 && ties.every((tie) => tieTarget(rack, tie)!.spec.kind === 'switch');
  return {
    id,
    name: freeName(
      name,
      rack.handles.map((h) => h.name),
    ),
    colour: COLOURS[rack.handles.length % COLOURS.length].id,
    value: placeOf(rack, ties),
    cc: null,
    ...(isButton ? { button: 'toggle' as const } : {}),
    ties,
  };
}

/** A new handle that moves some values; nothing moves until it does. One that only flips switches is a button. */
export function addHandle(track: Id, rack: Id, tied: readonly Tied[], name: string): { edit: Edit; id: Id } {
  const id = randomIds('hdl');
  return {
    id,
    edit: onRack(track, rack, (r) => ({ handles: [...r.handles, handleFor(r, tied, name, id)] })),
  };
}

/** One handle for each of several values, named after them, in one step. */
export function addHandles(track: Id, rack: Id, targets: readonly TieTarget[]): { edit: Edit; ids: Id[] } {
  const ids = targets.map(() => randomIds('hdl'));
  const add = (r: Rack) =>
    targets.reduce((all, { label, slot, param }, k) => {
      const handle = handleFor({ ...r, handles: all }, [{ slot, param }], label, ids[k]);
      return [...all, handle];
    }, r.handles);
  return { ids, edit: onRack(track, rack, (r) => ({ handles: add(r) })) };
}

/**
 * Ties one more value to a handle, over a useful range around its present value. Where the handle stands the value
 * stays as it is, as far as its range allows.
 */
export const addTie =
  (track: Id, rack: Id, handle: Handle, target: TieTarget): Edit =>
  (s) => {
    const share = handle.ties.length || target.spec.kind === 'switch' ? handle.value / 100 : 0.5;
    const { slot, param } = target;
    const tie: Tie = { id: randomIds('tie'), slot, param, curve: 0, ...usefulRange(target, share) };
    const ties = [...handle.ties, tie];
    if (handle.ties.length) {
      return turnHandle(track, handle.id, handle.value)(onHandle(track, rack, handle.id, { ties })(s));
    }
    return onHandle(track, rack, handle.id, { ties, value: tiePosition(target.spec, tie, target.value) })(s);
  };

/** Another range or curve for one value of a handle: no value changes, the handle moves to where this one is. */
export const changeTie = (track: Id, rack: Id, handle: Id, tie: Id, over: Partial<Tie>): Edit =>
  onRack(track, rack, (r) => ({
    handles: r.handles.map((h) => {
      if (h.id !== handle) return h;
      const ties = h.ties.map((t) => (t.id === tie ? { ...t, ...over } : t));
      const changed = ties.filter((t) => t.id === tie);
      return { ...h, ties, value: placeOf(r, changed) };
    }),
  }));

export const removeHandle = (track: Id, rack: Id, handle: Id): Edit =>
  onRack(track, rack, (r) => ({ handles: r.handles.filter((h) => h.id !== handle) }));
