import type { Cable, Jack, Studio } from '../model/hardware.ts';
import { bayJack, isJoined, placesOf, type Place } from './jacks.ts';
import type { Pair } from '../model/hardware.ts';

/*
 * A studio seen as metal, in numbers: what the planning of a patch searches over. A *piece* is metal that is
 * always joined (a port, its wire, the point in front of it, a parallel pair); normals and cables join pieces.
 */

/** A place for one plug. */
export interface Front {
  jack: Jack;
  piece: number;
  /** the pair that it is a point of, where a plug may break a normal; −1: none */
  pair: number;
  row: 'upper' | 'lower';
}
interface Normalled {
  mode: Pair['mode'];
  upper: number;
  lower: number;
  /** pieces behind them */
  a: number;
  b: number;
}

/** A cable as two numbers of fronts; an old one that is in already keeps its place in the list. */
export interface Link {
  a: number;
  b: number;
  broken: boolean;
  cable: Cable | null;
}

export interface Board {
  fronts: Front[];
  frontOf: Map<Jack, number>;
  pieces: number;
  pieceOf: Map<Jack, number>;
  /** sources on each piece */
  sources: Jack[][];
  normals: Normalled[];
  /** fronts of each piece */
  frontsOn: number[][];
  /** normals that touch each piece */
  normalsOn: number[][];
  places: Map<Jack, Place>;
  /** scratch of the walks over joined pieces: a counter, and for each piece the walk that saw it last */
  marks: Int32Array;
}

/** A set of links by the fronts that they fill: `at[front]` is the link's other end, −1 where nothing is in. */
export interface Plugs {
  at: Int32Array;
  broken: Uint8Array;
}

export function boardOf(studio: Studio): Board {
  const places = placesOf(studio);
  const parent = new Map<Jack, Jack>([...places.keys()].map((j) => [j, j]));
  const root = (jack: Jack): Jack => {
    let top = jack;
    while (parent.get(top) !== undefined && parent.get(top) !== top) top = parent.get(top)!;
    return top;
  };
  const join = (a: Jack, b: Jack) => {
    if (parent.has(a) && parent.has(b)) parent.set(root(a), root(b));
  };
  for (const w of studio.wires) join(w.from, w.to);
  for (const b of studio.bays) {
    b.pairs.forEach((pair, i) => {
      if (pair.mode === 'parallel') join(bayJack(b.id, i + 1, 'upper'), bayJack(b.id, i + 1, 'lower'));
    });
  }
  const numbers = new Map<Jack, number>();
  const pieceOf = new Map<Jack, number>();
  for (const jack of places.keys()) {
    const top = root(jack);
    if (!numbers.has(top)) numbers.set(top, numbers.size);
    pieceOf.set(jack, numbers.get(top)!);
  }
  const pieces = numbers.size;
  const lists = <T>() => Array.from({ length: pieces }, (): T[] => []);
  const board: Board = {
    fronts: [],
    frontOf: new Map(),
    pieces,
    pieceOf,
    sources: lists<Jack>(),
    normals: [],
    frontsOn: lists<number>(),
    normalsOn: lists<number>(),
    places,
    marks: new Int32Array(pieces + 1),
  };
  addFronts(board, studio);
  addNormals(board, studio);
  return board;
}

/** Points of bays, and connectors that no wire fills. */
function addFronts(board: Board, studio: Studio): void {
  const wired = new Set(studio.wires.flatMap((w) => [w.from, w.to]));
  for (const [jack, place] of board.places) {
    const piece = board.pieceOf.get(jack)!;
    if (place.kind !== 'point') {
      if (place.is === 'source') board.sources[piece].push(jack);
      if (wired.has(jack)) continue;
    }
    const row = place.kind === 'point' ? place.row : 'upper';
    board.frontOf.set(jack, board.fronts.length);
    board.frontsOn[piece].push(board.fronts.length);
    board.fronts.push({ jack, piece, pair: -1, row });
  }
}

function addNormals(board: Board, studio: Studio): void {
  for (const b of studio.bays) {
    b.pairs.forEach(({ mode }, i) => {
      if (mode !== 'normal' && mode !== 'half-normal') return;
      const [upper, lower] = (['upper', 'lower'] as const).map((row) =>
        board.frontOf.get(bayJack(b.id, i + 1, row))!,
      );
      const n = board.normals.length;
      board.fronts[upper].pair = board.fronts[lower].pair = n;
      const [x, y] = [board.fronts[upper].piece, board.fronts[lower].piece];
      board.normals.push({ mode, upper, lower, a: x, b: y });
      board.normalsOn[x].push(n);
      if (y !== x) board.normalsOn[y].push(n);
    });
  }
}

/** Whether a normal joins its pieces with these plugs in. */
export const isNormal = (board: Board, n: number, plugs: Plugs): boolean => {
  const { mode, upper, lower } = board.normals[n];
  return isJoined(mode, plugs.at[upper] !== FREE, plugs.at[lower] !== FREE);
};

export const FREE = -1;

/** The plugs of cables, as far as both ends are on the board and nothing is in them yet; the rest is left out. */
export function plugsOf(board: Board, cables: readonly Cable[]): { plugs: Plugs; links: Link[] } {
  const plugs: Plugs = {
    at: new Int32Array(board.fronts.length).fill(FREE),
    broken: new Uint8Array(board.fronts.length),
  };
  const links: Link[] = [];
  for (const cable of cables) {
    const [a, b] = [board.frontOf.get(cable.from), board.frontOf.get(cable.to)];
    if (a === undefined || b === undefined || a === b) continue;
    if (plugs.at[a] !== FREE || plugs.at[b] !== FREE) continue;
    plugs.at[a] = b;
    plugs.at[b] = a;
    plugs.broken[a] = plugs.broken[b] = cable.fault === 'dead' ? 1 : 0;
    links.push({ a, b, broken: cable.fault === 'dead', cable });
  }
  return { plugs, links };
}

/**
 * Every piece that is joined with one now, by normals and cables.
 * @param may whether a join between two pieces counts; all do when left out
 */
export function joinedWith(
  board: Board,
  plugs: Plugs,
  piece: number,
  may?: (a: number, b: number) => boolean,
): number[] {
  const { marks } = board;
  const mark = ++marks[0];
  const list = [piece];
  marks[piece + 1] = mark;
  const add = (from: number, next: number) => {
    if (marks[next + 1] === mark || (may && !may(from, next))) return;
    marks[next + 1] = mark;
    list.push(next);
  };
  for (const p of list) {
    for (const f of board.frontsOn[p]) {
      const far = plugs.at[f];
      if (far !== FREE && !plugs.broken[f]) add(p, board.fronts[far].piece);
    }
    for (const n of board.normalsOn[p]) {
      if (!isNormal(board, n, plugs)) continue;
      const { a, b } = board.normals[n];
      add(p, a === p ? b : a);
    }
  }
  return list;
}
