import { DEVICE_TYPES } from '../devices/index.ts';
import { clone } from '../model/json.ts';
import { nameWith } from '../model/text.ts';
import { createDevice } from '../session/create.ts';
import {
  createRack,
  createStrand,
  findSlot,
  mapSlots,
  placeOf,
  racksIn,
  renewSlot,
  withChainAt,
} from '../session/slots.ts';
import { dropDeadTies } from '../session/handles.ts';
import { randomIds } from '../model/ids.ts';
import type { Device, Id, Params, Rack, Slot } from '../model/types.ts';
import { type Edit, onTrack } from './on.ts';

/**
 * Where something goes in: a place in a line's own chain or in one of its strands; at the end when `at` is
 * left out.
 */
export interface Spot {
  track: Id;
  container?: Id;
  at?: number;
}

/** Puts slots in at a spot. */
export const insertSlots =
  (to: Spot, slots: Slot[]): Edit =>
  (s) => ({
    ...s,
    tracks: s.tracks.map((t) =>
      t.id === to.track
        ? withChainAt(t, to.container ?? t.id, (c) => {
            const out = [...c];
            out.splice(to.at ?? c.length, 0, ...slots);
            return out;
          })
        : t,
    ),
  });

/** @param start values to begin with, from a default of the shelf */
export function addDevice(to: Spot, type: string, start: Params = {}): { edit: Edit; id: Id } {
  const id = randomIds('dev');
  return { id, edit: insertSlots(to, [createDevice(type, start, { id, name: DEVICE_TYPES[type].label })]) };
}

export const removeSlot = (track: Id, slot: Id): Edit =>
  onTrack(track, (t) => ({ chain: dropDeadTies(mapSlots(t.chain, (x) => (x.id === slot ? null : x))) }));

/**
 * Moves a slot to a spot, in its own chain, a strand or another line's; a rack never goes into itself. Ties
 * that no longer reach come off.
 */
export const moveSlot =
  (from: Id, slot: Id, to: Spot): Edit =>
  (s) => {
    const source = s.tracks.find((t) => t.id === from);
    const x = source && findSlot(source.chain, slot);
    const was = source && placeOf(source, slot);
    if (!x || !was) return s;
    const container = to.container ?? to.track;
    if (x.kind === 'rack' && racksIn([x]).some((r) => r.strands.some((st) => st.id === container))) return s;
    const at = to.at ?? Infinity;
    const place = container === was.container && at > was.at ? at - 1 : at;
    const taken = {
      ...s,
      tracks: s.tracks.map((t) =>
        t.id === from ? { ...t, chain: mapSlots(t.chain, (y) => (y.id === slot ? null : y)) } : t,
      ),
    };
    const put = insertSlots({ ...to, at: Number.isFinite(place) ? place : undefined }, [x])(taken);
    return {
      ...put,
      tracks: put.tracks.map((t) =>
        t.id === from || t.id === to.track ? { ...t, chain: dropDeadTies(t.chain) } : t,
      ),
    };
  };

export function duplicateSlot(track: Id, slot: Id): { edit: Edit; id: Id } {
  const fresh = randomIds('dev');
  // the copy itself gets the id that is given back; what is inside it gets its own
  const renew = (x: Slot) => renewSlot(clone(x), (old, prefix) => (old === slot ? fresh : randomIds(prefix)));
  return {
    id: fresh,
    edit: (s) => {
      const t = s.tracks.find((y) => y.id === track);
      const p = t && placeOf(t, slot);
      const x = t && findSlot(t.chain, slot);
      return p && x ? insertSlots({ track, container: p.container, at: p.at + 1 }, [renew(x)])(s) : s;
    },
  };
}

/** Puts slots of one chain, in their order, into a new rack where the first of them stood. */
export function groupSlots(track: Id, slots: Id[], name = 'Rack'): { edit: Edit; id: Id } {
  const id = randomIds('rak');
  return {
    id,
    edit: onTrack(track, (t) => {
      const place = placeOf(t, slots[0]);
      if (!place) return {};
      return withChainAt(t, place.container, (c) => {
        const inside = c.filter((x) => slots.includes(x.id));
        return c.flatMap((x) => {
          if (x.id === inside[0]?.id) return [createRack(name, inside, { id })];
          if (inside.includes(x)) return [];
          return [x];
        });
      });
    }),
  };
}

/** Whether a slot mixes its own dry sound in, by a value called “mix”, in %. */
const mixes = (slot: Slot): slot is Device =>
  slot.kind === 'device' && DEVICE_TYPES[slot.type].byId.mix?.unit === '%';
const withMix = (d: Device, mix: number): Device => ({ ...d, params: { ...d.params, mix } });

/** What is in a rack, strand after strand; a device that was blended with the dry sound mixes it itself again. */
function contentOf(rack: Rack): Slot[] {
  const [dry, wet, ...more] = rack.strands;
  const only = wet?.chain.length === 1 ? wet.chain[0] : null;
  const isBlend = !more.length && dry.chain.length === 0 && rack.blend.mode !== 'off';
  if (isBlend && only && mixes(only) && only.params.mix === 100) {
    return [withMix(only, Math.round(rack.blend.position))];
  }
  return rack.strands.flatMap((strand) => strand.chain);
}

/** Puts a rack's devices back into the chain around it, strand after strand; handles go. */
export const ungroup = (track: Id, rack: Id): Edit =>
  onTrack(track, (t) => {
    const place = placeOf(t, rack);
    if (!place) return {};
    const out = withChainAt(t, place.container, (c) =>
      c.flatMap((x) => (x.id === rack && x.kind === 'rack' ? contentOf(x) : [x])),
    );
    return { chain: dropDeadTies(out.chain) };
  });

/**
 * A parallel path beside a device or rack: the slot goes into the second strand of a new rack, the first is
 * left clean. A device that mixes its own dry sound in gives that to the rack: it is fully wet inside, and the
 * rack stands where the device's mix stood, so that nothing sounds different yet.
 */
export function alongside(track: Id, slot: Id): { edit: Edit; id: Id } {
  const id = randomIds('rak');
  const blended = (x: Slot): Rack => {
    const mix = mixes(x) ? (x.params.mix as number) : 100;
    const isMixed = mixes(x) && mix < 100;
    return createRack(nameWith(x.name, ', blended'), [], {
      id,
      strands: [createStrand('Dry'), createStrand('Wet', [isMixed ? withMix(x, 100) : x])],
      blend: isMixed ? { mode: 'linear', position: mix } : { mode: 'power', position: 50 },
    });
  };
  return {
    id,
    edit: onTrack(track, (t) => {
      const place = placeOf(t, slot);
      if (!place) return {};
      return withChainAt(t, place.container, (c) => c.map((x) => (x.id === slot ? blended(x) : x)));
    }),
  };
}
