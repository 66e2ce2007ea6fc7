import type { Jack, Studio } from '../model/hardware.ts';
import { joinsOf, netsOf, placesOf, unitJack, type Join, type Place } from './jacks.ts';

export interface Reached {
  jack: Jack;
  name: string;
  /** the joins on the way, in order; between two of them the sound may pass a unit */
  via: Join[];
  /** the units that it passed, by id */
  through: string[];
}

export interface HardwareProblem {
  kind: 'output-into-output' | 'two-sources' | 'broken' | 'two-plugs' | 'round-and-round';
  /** what it is about, most telling first */
  jacks: Jack[];
  message: string;
}

export interface Followed {
  from: Jack;
  /** every end that it comes to: inputs of the interface and of units on the way forward, outputs on the way back */
  reaches: Reached[];
  problems: HardwareProblem[];
}

/** What one look at a studio's joins knows. */
interface Metal {
  places: Map<Jack, Place>;
  /** jack → joins that lead away from it */
  beside: Map<Jack, Join[]>;
  joins: Join[];
}

function metalOf(studio: Studio): Metal {
  const { joins } = joinsOf(studio, studio.cables);
  const beside = new Map<Jack, Join[]>();
  for (const join of joins) {
    for (const jack of [join.from, join.to]) beside.set(jack, [...(beside.get(jack) ?? []), join]);
  }
  return { places: placesOf(studio), beside, joins };
}

/** Every jack of the same piece of metal, each with the shortest way to it. */
function reachable(metal: Metal, from: Jack): Map<Jack, Join[]> {
  const ways = new Map<Jack, Join[]>([[from, []]]);
  const queue = [from];
  for (let at = queue.shift(); at !== undefined; at = queue.shift()) {
    for (const join of metal.beside.get(at) ?? []) {
      const next = join.from === at ? join.to : join.from;
      if (ways.has(next)) continue;
      ways.set(next, [...ways.get(at)!, join]);
      queue.push(next);
    }
  }
  return ways;
}

/** Where a unit lets out what comes in at a socket, or the other way round. */
function acrossUnit(place: Place, forward: boolean): Jack | null {
  if (place.kind !== 'unit' || place.socket === 'key') return null;
  const [enters, leaves] = forward ? ['in', 'out'] : ['out', 'in'];
  return place.socket.startsWith(enters) ? unitJack(place.id, place.socket.replace(enters, leaves)) : null;
}

/**
 * Follows a signal through wiring, normals, cables and units.
 * @param from a jack: of a port, a unit or a point of a bay
 * @param direction forward from where it comes out, or back from where it goes in
 * @returns every end that it comes to, and what is wrong on the way
 */
export function followSignal(
  studio: Studio,
  from: Jack,
  direction: 'forward' | 'back' = 'forward',
): Followed {
  const metal = metalOf(studio);
  if (!metal.places.has(from)) throw new Error(`There is no jack “${from}” in “${studio.name}”.`);
  const forward = direction === 'forward';
  const reaches = new Map<Jack, Reached>();
  const seen = new Set<Jack>();
  const problems: HardwareProblem[] = [];
  const walk = (jack: Jack, via: Join[], through: string[], past: Jack[]): void => {
    seen.add(jack);
    for (const [end, way] of reachable(metal, jack)) {
      const place = metal.places.get(end);
      if (!place || place.kind === 'point' || end === jack) continue;
      if (place.is !== (forward ? 'sink' : 'source')) continue;
      const whole = [...via, ...way];
      const next = acrossUnit(place, forward);
      if (!reaches.has(end)) reaches.set(end, { jack: end, name: place.name, via: whole, through });
      if (next === null) continue;
      if (!seen.has(next)) walk(next, whole, [...through, place.id], [...past, next]);
      else if (past.includes(next)) {
        problems.push({
          kind: 'round-and-round',
          jacks: [end, next],
          message: `“${unitName(studio, place.id)}” hears its own output: what comes out goes round and round.`,
        });
      }
    }
  };
  walk(from, [], [], [from]);
  const touched = new Set([...seen].flatMap((jack) => [...reachable(metal, jack).keys()]));
  return {
    from,
    reaches: [...reaches.values()],
    problems: [...problems, ...patchProblems(studio).filter((p) => p.jacks.some((j) => touched.has(j)))],
  };
}

const unitName = (studio: Studio, id: string) => studio.units.find((u) => u.id === id)?.name ?? id;

/** Everything that is plugged wrongly, wherever it is. */
export function patchProblems(studio: Studio): HardwareProblem[] {
  const places = placesOf(studio);
  const { joins, plugged } = joinsOf(studio, studio.cables);
  const name = (jack: Jack) => places.get(jack)?.name ?? jack;
  const out: HardwareProblem[] = [];
  for (const c of studio.cables.filter((cable) => cable.fault === 'dead')) {
    const message = `The cable from ${name(c.from)} to ${name(c.to)} carries nothing: it is broken.`;
    out.push({ kind: 'broken', jacks: [c.from, c.to], message });
  }
  for (const [jack, list] of plugged) {
    if (list.length < 2) continue;
    const message = `${list.length} plugs are said to be in ${name(jack)}; a jack takes one.`;
    out.push({ kind: 'two-plugs', jacks: [jack], message });
  }
  return [...out, ...shared(places, joins, name)];
}

/** Pieces of metal that more than one output drives. */
function shared(
  places: Map<Jack, Place>,
  joins: readonly Join[],
  name: (jack: Jack) => string,
): HardwareProblem[] {
  const root = netsOf(joins);
  const nets = new Map<Jack, Jack[]>();
  for (const jack of places.keys()) {
    const net = root(jack);
    nets.set(net, [...(nets.get(net) ?? []), jack]);
  }
  return [...nets.values()].flatMap((jacks) => {
    const ends = (is: 'source' | 'sink') =>
      jacks.filter((j) => {
        const place = places.get(j)!;
        return place.kind !== 'point' && place.is === is;
      });
    const sources = ends('source');
    if (sources.length < 2) return [];
    const list = sources.map(name).join(' and ');
    const hears = ends('sink').map((sink): HardwareProblem => {
      return { kind: 'two-sources', jacks: [sink, ...sources], message: `${name(sink)} hears ${list}.` };
    });
    const message = `${list} are plugged into each other: two outputs drive one line.`;
    return [{ kind: 'output-into-output', jacks: sources, message }, ...hears];
  });
}
