import { clone } from '../../model/json.ts';
import { randomIds } from '../../model/ids.ts';
import type { Slot, Track } from '../../model/types.ts';
import { dropDeadTies } from '../../session/handles.ts';
import { chainAt, mapDevices, mapSlots, placeOf, renewSlot, withChainAt } from '../../session/slots.ts';
import { differChains } from './chain-differ.ts';
import { mergeChain } from './chain-merge.ts';
import { reportChainOf } from './chain-report.ts';
import type { Part, Putting, PuttingOnto, Taking } from './part.ts';

/** A slot of a session with local ids, without its origin; what lives inside its devices is taken by its part. */
export function takeSlot(slot: Slot, c: Taking): Slot {
  return mapSlots([renewSlot(clone(slot), c.named)], (s) => {
    const out = { ...s };
    delete out.origin;
    if (out.kind !== 'device') return out;
    return c.inChain.reduce((d, p) => p.device!.take(d, c.has(p.id), c), out);
  })[0];
}

/** A slot of the preset as it arrives: adapted, tied, remembering where it came from, with ids of the session. */
function putSlot(slot: Slot, home: Track, c: Putting): Slot {
  // local ids are needed for the origins, so keys and origins come before the ids
  const local = mapSlots([c.adapted.slot(slot, home)], (s) => {
    const origin = c.origin(s.id);
    const out: Slot = origin ? { ...s, origin } : { ...s };
    if (out.kind !== 'device') return out;
    return c.inChain.reduce((d, p) => p.device!.put(d, c.has(p.id), c), out);
  })[0];
  return renewSlot(local, c.fresh);
}

/** The chain of the line with what arrives at its place. */
function placedOnto(from: Track, c: PuttingOnto): Track {
  const { place, before } = c;
  const arrived = from.chain.map((s) => putSlot(s, from, c));
  const pieces = arrived.map((s, i) => {
    const origin = place.chain === 'replace' ? null : c.pieceOrigin(from, from.chain[i]);
    return origin ? { ...s, origin } : s;
  });
  const swapped = place.chain === 'swap' && place.slot ? placeOf(before, place.slot) : null;
  if (place.chain === 'swap' && !swapped) {
    throw new Error('The device or rack that was to be replaced is not on this line any more.');
  }
  const asked = place.chain === 'at' ? (place.container ?? before.id) : before.id;
  const container = swapped?.container ?? asked;
  if (!chainAt(before, container)) {
    throw new Error('The strand that the preset was to be dropped into is not on this line any more.');
  }
  return withChainAt(before, container, (was) => {
    switch (place.chain) {
      case 'replace':
        return pieces;
      case 'swap':
        return was.flatMap((x) => (x.id === place.slot ? pieces : [x]));
      case 'before':
        return [...pieces, ...was];
      case 'append':
        return [...was, ...pieces];
      case 'at': {
        const at = Math.min(place.at ?? 0, was.length);
        return [...was.slice(0, at), ...pieces, ...was.slice(at)];
      }
    }
  });
}

/** Devices and racks in order, with every value and state. */
export const chain: Part = {
  id: 'chain',
  label: 'Chain',
  help: 'devices in order with every value and state',
  section: 'devices',
  duplicated: true,

  take(from, into, c) {
    into.chain = from.chain.map((s) => takeSlot(s, c));
  },

  put(from, into, c) {
    into.chain = c.has('chain') ? from.chain.map((s) => putSlot(s, from, c)) : [];
  },

  putOnto(from, into, c) {
    into.chain = dropDeadTies(placedOnto(from, c).chain);
  },

  report: reportChainOf,
  differ: (a, b, c) => differChains(b.name, '', a.chain, b.chain, c),
  merge: mergeChain,

  duplicate(copy, into, has) {
    into.chain = has('keys') ? copy.chain : mapDevices(copy.chain, (d) => ({ ...d, key: { kind: 'own' } }));
  },

  copyTo: (from, to, c) => ({
    chain: [
      ...(c.append ? to.chain : []),
      ...from.chain.map((s) => renewSlot(clone(s), (_old, prefix) => randomIds(prefix))),
    ],
  }),
};
