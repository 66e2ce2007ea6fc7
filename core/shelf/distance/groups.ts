import { ADDABLE } from '../../devices/index.ts';
import type { Preset } from '../../model/types.ts';
import { filledBy, squared } from './apart.ts';
import type { ChainShape, RackShape } from './chain.ts';
import { countsAsHeard, FILL } from './device.ts';
import { presetShape, shapesApart, type PresetShape } from './index.ts';

/** Nearer than this, two presets count as nearly the same. */
export const NEAR = 0.2;

/** how far marks may be apart; a little more for what is rounded */
const REACH = 1 + 1e-9;

/** What is compared before two shapes are: it rules most pairs out. */
interface Place {
  /** presets of another one have a line or a device that counts whole more or less */
  key: string;
  /** numbers of which each lies at most so far apart as `reach` says, or the presets are further apart than asked */
  marks: readonly number[];
}

/** Those that count whole where they stand alone: near chains have the same of them, in the same order. */
const fixedIn = (chain: ChainShape) => chain.filter((s) => s.kind === 'rack' || !countsAsHeard(s.type));

/** Devices that count as much as they are heard are only ever paired within one of these classes. */
const WET = ADDABLE.filter((d) => d.wet).map((d) => d.type);
const classOf = (type: string): number => 1 + WET.indexOf(type);

/** Marks of one place, as they come. */
class Marks {
  readonly all: number[] = [];

  /** @param reach how far two numbers may be apart */
  put(v: number, reach: number): void {
    this.all.push(v / reach);
  }

  /** @param reach how far any two members of two chains may be apart */
  chain(chain: ChainShape, reach: number): void {
    this.content(chain, reach);
    const inside = sumWithin(reach);
    for (const s of chain) {
      if (s.kind === 'rack') this.rack(s, inside);
      else if (!countsAsHeard(s.type)) for (const v of s.numbers) this.put(v, inside / FILL);
    }
  }

  /** How much of each class there is in a chain: two chains are at least so far apart as these differ. */
  private content(chain: ChainShape, reach: number): void {
    const sums = new Array<number>(1 + WET.length).fill(0);
    for (const s of chain) {
      if (s.kind === 'device' && countsAsHeard(s.type)) sums[classOf(s.type)] += squared(s.alone);
    }
    for (const sum of sums) this.put(Math.sqrt(sum), reach);
  }

  private rack(r: RackShape, inside: number): void {
    for (const s of r.strands) {
      this.put(s.level, inside);
      this.put(s.pan, inside);
      this.chain(s.chain, inside);
    }
  }
}

/** What differences add up to at most inside of something that is at most so far apart. */
const sumWithin = (reach: number): number => (reach < 1 ? filledBy(reach) : Infinity);

const chainKey = (chain: ChainShape): string =>
  fixedIn(chain)
    .map((s) => (s.kind === 'rack' ? `[${s.strands.map((x) => chainKey(x.chain)).join(' | ')}]` : s.type))
    .join(', ');

/**
 * Where a shape stands among others. Marks are divided by how far they may be apart when the presets are no further apart
 * than `within`, so each reaches 1.
 */
function placeOf({ kind, lines }: PresetShape, within: number): Place {
  const reach = sumWithin(within);
  const marks = new Marks();
  for (const l of lines) {
    for (const v of l.numbers) marks.put(v, reach);
    marks.chain(l.chain, reach);
  }
  return {
    key: `${kind} ${lines.map((l) => `${l.place}: ${chainKey(l.chain)}`).join('; ')}`,
    marks: marks.all,
  };
}

/** The marks by how much they tell some places apart, the one that is spread the widest first. */
function widest(places: readonly Place[]): number[] {
  const spreads = places[0].marks.map((_, m) => {
    const mean = places.reduce((sum, p) => sum + p.marks[m], 0) / places.length;
    return places.reduce((sum, p) => sum + squared(p.marks[m] - mean), 0);
  });
  const known = spreads.map((_, m) => m).filter((m) => Number.isFinite(spreads[m]));
  return known.sort((a, b) => spreads[b] - spreads[a]);
}

/** Places of one key in the order of the mark that tells most, with their marks as rows of a table in that order. */
function ranked(places: readonly Place[], members: readonly number[]) {
  const order = widest(members.map((i) => places[i]));
  const first = (i: number) => places[i].marks[order[0]];
  const rows = members.toSorted((a, b) => first(a) - first(b));
  const table = new Float64Array(rows.length * order.length);
  rows.forEach((i, r) => order.forEach((m, c) => (table[r * order.length + c] = places[i].marks[m])));
  return { rows, table, columns: order.length };
}

/** Whether no mark of two rows says that they are too far apart; they begin there in the table. */
function mayBeNear(table: Float64Array, a: number, b: number, columns: number): boolean {
  for (let c = 1; c < columns; c++) if (Math.abs(table[a + c] - table[b + c]) > REACH) return false;
  return true;
}

/** Tells pairs of shapes that are at most so far apart; not all pairs are looked at. */
function nearPairs(
  shapes: readonly PresetShape[],
  within: number,
  tell: (a: number, b: number, distance: number) => void,
): void {
  const places = shapes.map((s) => placeOf(s, within));
  const byKey = new Map<string, number[]>();
  places.forEach(({ key }, i) => {
    const members = byKey.get(key);
    if (members) members.push(i);
    else byKey.set(key, [i]);
  });
  for (const members of byKey.values()) {
    const { rows, table, columns } = ranked(places, members);
    for (let i = 0; i < rows.length; i++) {
      const last = table[i * columns] + REACH;
      for (let j = i + 1; j < rows.length && !(table[j * columns] > last); j++) {
        if (!mayBeNear(table, i * columns, j * columns, columns)) continue;
        const distance = shapesApart(shapes[rows[i]], shapes[rows[j]], within);
        if (distance <= within) tell(rows[i], rows[j], distance);
      }
    }
  }
}

/** The near ones of each of some shapes: two plain lists each, since there may be millions of pairs. */
class Neighbours {
  private readonly others: number[][];
  private readonly distances: number[][];

  constructor(shapes: readonly PresetShape[], within: number) {
    this.others = shapes.map(() => []);
    this.distances = shapes.map(() => []);
    nearPairs(shapes, within, (a, b, distance) => {
      this.others[a].push(b);
      this.others[b].push(a);
      this.distances[a].push(distance);
      this.distances[b].push(distance);
    });
  }

  count(of: number): number {
    return this.others[of].length;
  }

  /** Those of one that are not taken, the nearest first. */
  left(of: number, taken: ReadonlySet<number>): number[] {
    const [others, distances] = [this.others[of], this.distances[of]];
    const places = others.map((_, k) => k).filter((k) => !taken.has(others[k]));
    places.sort((x, y) => distances[x] - distances[y] || others[x] - others[y]);
    return places.map((k) => others[k]);
  }
}

/**
 * Groups of shapes around one that all others of the group are near to, by their places in the list: the one with the
 * most near ones leads the first group, and so on with what is left. Groups of one are left out.
 */
export function nearGroups(shapes: readonly PresetShape[], within = NEAR): number[][] {
  const near = new Neighbours(shapes, within);
  const order = shapes.map((_, i) => i).sort((a, b) => near.count(b) - near.count(a) || a - b);
  const taken = new Set<number>();
  const groups: number[][] = [];
  for (const leader of order) {
    if (taken.has(leader)) continue;
    const group = [leader, ...near.left(leader, taken)];
    group.forEach((i) => taken.add(i));
    if (group.length > 1) groups.push(group);
  }
  return groups.sort((a, b) => b.length - a.length);
}

/**
 * Presets of one kind that do nearly the same, in groups, the largest first; each begins with the one that the others are near to,
 * the nearest next. What has no near one is in none.
 * @param within the greatest distance to the first of the group (see `presetDistance`)
 */
export const nearDuplicates = (presets: readonly Preset[], within = NEAR): Preset[][] =>
  nearGroups(presets.map(presetShape), within).map((group) => group.map((i) => presets[i]));

/** The shapes that are nearest to one, by their places in the list, with their distances. */
export function nearest(
  to: PresetShape,
  shapes: readonly PresetShape[],
  count: number,
): { index: number; distance: number }[] {
  let found: { index: number; distance: number }[] = [];
  let within = 1;
  shapes.forEach((s, index) => {
    const distance = shapesApart(to, s, within);
    if (distance >= within) return;
    found.push({ index, distance });
    if (found.length < 2 * count) return;
    found = sortedByDistance(found).slice(0, count);
    within = found[found.length - 1].distance;
  });
  return sortedByDistance(found).slice(0, count);
}

const sortedByDistance = (list: { index: number; distance: number }[]) =>
  list.sort((a, b) => a.distance - b.distance || a.index - b.index);
