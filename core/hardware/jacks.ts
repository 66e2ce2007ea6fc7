import type { Cable, Jack, Normal, Pair, Studio, Unit } from '../model/hardware.ts';
import type { Id } from '../model/types.ts';

export const portJack = (port: Id): Jack => `port/${port}`;
export const unitJack = (unit: Id, socket: string): Jack => `unit/${unit}/${socket}`;
/** @param pair counted from 1 */
export const bayJack = (bay: Id, pair: number, row: 'upper' | 'lower'): Jack => `bay/${bay}/${pair}/${row}`;

/** Channels that pass a unit beside each other. */
export const channelsOf = (unit: Pick<Unit, 'width'>): 1 | 2 => (unit.width === 'mono' ? 1 : 2);
export const inputsOf = (unit: Unit): Jack[] =>
  Array.from({ length: channelsOf(unit) }, (_, i) => unitJack(unit.id, `in${i + 1}`));
export const outputsOf = (unit: Unit): Jack[] =>
  Array.from({ length: channelsOf(unit) }, (_, i) => unitJack(unit.id, `out${i + 1}`));

/** A jack with what it is of. */
export type Place =
  | { kind: 'port'; id: Id; name: string; is: 'source' | 'sink' }
  | { kind: 'unit'; id: Id; name: string; socket: string; is: 'source' | 'sink' }
  | { kind: 'point'; id: Id; name: string; pair: number; row: 'upper' | 'lower'; mode: Normal };

/** Everything of a studio that a plug or wire can lead to, by its jack. */
export function placesOf(studio: Pick<Studio, 'ports' | 'units' | 'bays'>): Map<Jack, Place> {
  const places = new Map<Jack, Place>();
  for (const p of studio.ports) {
    const is = p.side === 'out' ? 'source' : 'sink';
    places.set(portJack(p.id), { kind: 'port', id: p.id, name: p.name, is });
  }
  for (const u of studio.units) {
    const sinks = [...inputsOf(u), ...(u.hasKey ? [unitJack(u.id, 'key')] : [])];
    const add = (jack: Jack, is: 'source' | 'sink') => {
      const socket = jack.split('/')[2];
      places.set(jack, { kind: 'unit', id: u.id, name: `${u.name} ${SOCKETS[socket]}`, socket, is });
    };
    sinks.forEach((j) => add(j, 'sink'));
    outputsOf(u).forEach((j) => add(j, 'source'));
  }
  for (const b of studio.bays) {
    b.pairs.forEach((pair, i) => {
      for (const row of ['upper', 'lower'] as const) {
        const label = pair[row] ? ` (${pair[row]})` : '';
        const name = `${b.name} ${i + 1} ${row}${label}`;
        const point = { kind: 'point' as const, id: b.id, name, pair: i + 1, row, mode: pair.mode };
        places.set(bayJack(b.id, i + 1, row), point);
      }
    });
  }
  return places;
}

const SOCKETS: Record<string, string> = {
  in1: 'in',
  in2: 'in 2',
  out1: 'out',
  out2: 'out 2',
  key: 'key',
};

/** Whether a pair's points are joined behind the bay, with plugs in them or not (common practice). */
export function isJoined(mode: Pair['mode'], upperPlugged: boolean, lowerPlugged: boolean): boolean {
  switch (mode) {
    case 'thru':
      return false;
    case 'normal':
      return !upperPlugged && !lowerPlugged;
    case 'half-normal':
      return !lowerPlugged;
    case 'parallel':
      return true;
  }
}

/** One join between two jacks, and what makes it. */
export interface Join {
  from: Jack;
  to: Jack;
  by: 'wire' | 'normal' | 'cable';
  /** of a cable */
  cable?: Cable;
}

/** Every join that holds with these cables; broken ones fill their jacks and join nothing. */
export function joinsOf(
  studio: Pick<Studio, 'bays' | 'wires'>,
  cables: readonly Cable[],
): { joins: Join[]; plugged: Map<Jack, Cable[]> } {
  const plugged = new Map<Jack, Cable[]>();
  for (const c of cables) {
    for (const jack of [c.from, c.to]) plugged.set(jack, [...(plugged.get(jack) ?? []), c]);
  }
  const joins: Join[] = studio.wires.map((w) => ({ from: w.from, to: w.to, by: 'wire' }));
  for (const b of studio.bays) {
    b.pairs.forEach((pair, i) => {
      const [upper, lower] = [bayJack(b.id, i + 1, 'upper'), bayJack(b.id, i + 1, 'lower')];
      if (isJoined(pair.mode, plugged.has(upper), plugged.has(lower))) {
        joins.push({ from: upper, to: lower, by: 'normal' });
      }
    });
  }
  for (const cable of cables) {
    if (cable.fault !== 'dead') joins.push({ from: cable.from, to: cable.to, by: 'cable', cable });
  }
  return { joins, plugged };
}

/** Which jacks are one piece of metal. */
export function netsOf(joins: readonly Join[]): (jack: Jack) => Jack {
  const parent = new Map<Jack, Jack>();
  const root = (jack: Jack): Jack => {
    let top = jack;
    for (let up = parent.get(top); up !== undefined && up !== top; up = parent.get(top)) top = up;
    parent.set(jack, top);
    return top;
  };
  for (const { from, to } of joins) parent.set(root(from), root(to));
  return root;
}
