import type { Jack } from '../model/hardware.ts';
import { FREE, isNormal, joinedWith, type Board, type Plugs } from './board.ts';

/** A wanted connection between two pieces of metal; nothing but `source` may drive the second. */
export interface Want {
  from: number;
  to: number;
  source: Jack;
  label: string;
  jacks: [Jack, Jack];
}

/** How a want stands on a board, and what it takes at least. */
interface Standing {
  is: 'right' | 'apart' | 'shared';
  /** the pieces that its source and its end are joined with */
  near: number[];
  far: number[];
  /** it needs a cable into the metal of its end, known by its lowest piece; −1: a pull may do */
  plug: number;
  /** cables (by their lower front) of which one must go, each a list */
  pulls: number[][];
}

interface State extends Plugs {
  cost: number;
  /** at least so many moves are left */
  rest: number;
  standings: Standing[];
}

/** States that are made before the search is cut short; a board of up to 16 jacks is always searched whole. */
const MOST = { small: 400000, large: 6000 };
const SMALL = 16;

/** How one wanted connection stands. */
export function rightness(board: Board, plugs: Plugs, w: Want): Standing['is'] {
  const far = joinedWith(board, plugs, w.to);
  if (!far.includes(w.from)) return 'apart';
  return far.some((p) => board.sources[p].some((s) => s !== w.source)) ? 'shared' : 'right';
}

/** A search over one board: what is wanted, and which source each piece must belong to in the end. */
export interface Goal {
  board: Board;
  wants: Want[];
  /** null: anybody's; BOTH: two sources are wired to it */
  owners: (Jack | null)[];
}
const BOTH = '';

export function goalOf(board: Board, wants: Want[]): Goal {
  const owners = board.sources.map((list) => {
    if (list.length > 1) return BOTH;
    return list[0] ?? null;
  });
  for (const w of wants) owners[w.to] = owners[w.to] === null || owners[w.to] === w.source ? w.source : BOTH;
  return { board, wants, owners };
}

/** Whether two pieces may be joined in the end. */
export const agree = ({ owners }: Goal, a: number, b: number): boolean =>
  owners[a] === null || owners[b] === null || (owners[a] === owners[b] && owners[a] !== BOTH);

/**
 * What a want takes at least, seen over the joins that may stay: in the end only pieces of one source are joined, so
 * a cable between two of different ones must go, and no normal between such will serve.
 */
function standingOf(goal: Goal, plugs: Plugs, w: Want): Standing {
  const { board } = goal;
  const is = rightness(board, plugs, w);
  const far = joinedWith(board, plugs, w.to);
  const near = is === 'apart' ? joinedWith(board, plugs, w.from) : far;
  if (is === 'right') return { is, near, far, plug: -1, pulls: [] };
  const may = (a: number, b: number) => agree(goal, a, b);
  const end = joinedWith(board, plugs, w.to, may);
  const pulls = [w.from, w.to].flatMap((p) => forced(goal, plugs, p));
  if (end.includes(w.from)) return { is, near, far, plug: -1, pulls };
  const start = joinedWith(board, plugs, w.from, may);
  const opens = (side: number[]) => side.some((p) => mayReturn(goal, plugs, p));
  const full = [start, end].filter((side) => !opens(side)).flatMap((side) => fullSide(board, plugs, side));
  return { is, near, far, plug: opens(end) ? -1 : Math.min(...end), pulls: [...pulls, ...full] };
}

/** The cables on a piece that lead to what belongs to another source: each of them must go. */
function forced(goal: Goal, plugs: Plugs, piece: number): number[][] {
  const { board } = goal;
  return board.frontsOn[piece].flatMap((f) => {
    const far = plugs.at[f];
    if (far === FREE || plugs.broken[f] || agree(goal, piece, board.fronts[far].piece)) return [];
    return [[Math.min(f, far)]];
  });
}

/** The board without the cables that must go whatever else is done. */
export function withoutForced(goal: Goal, plugs: Plugs): Plugs {
  const next = copied(plugs);
  for (const w of goal.wants) {
    for (const [f] of [w.from, w.to].flatMap((p) => forced(goal, plugs, p))) {
      const far = plugs.at[f];
      next.at[f] = next.at[far] = FREE;
      next.broken[f] = next.broken[far] = 0;
    }
  }
  return next;
}

/** The cables of metal whose every jack is filled: one of them must go before a plug fits. */
function fullSide(board: Board, plugs: Plugs, side: number[]): number[][] {
  const fronts = side.flatMap((p) => board.frontsOn[p]);
  const full = fronts.length > 0 && fronts.every((f) => plugs.at[f] !== FREE);
  return full ? [fronts.map((f) => Math.min(f, plugs.at[f]))] : [];
}

/** Whether a normal on a piece is broken now that a pull could bring back and that would serve. */
const mayReturn = (goal: Goal, plugs: Plugs, piece: number): boolean =>
  goal.board.normalsOn[piece].some((n) => {
    const { a, b } = goal.board.normals[n];
    return agree(goal, a, b) && !isNormal(goal.board, n, plugs);
  });

/**
 * The plugs with which every want is right, after the fewest moves; null where there are none. Only direct cables
 * are tried at first: when they cost no more than the estimate from the start, nothing can cost less.
 */
export function searchPatch(
  board: Board,
  start: Plugs,
  wants: Want[],
): { plugs: Plugs | null; fewest: boolean } {
  const direct = search(board, start, wants, true);
  if (direct.found && direct.found.cost === direct.least) return { plugs: direct.found, fewest: true };
  const full = search(board, start, wants, false);
  if (full.found) return { plugs: full.found, fewest: true };
  return { plugs: full.cut ? direct.found : null, fewest: !full.cut };
}

function search(
  board: Board,
  start: Plugs,
  wants: Want[],
  direct: boolean,
): { found: State | null; least: number; cut: boolean } {
  const goal = goalOf(board, wants);
  const standings = wants.map((w) => standingOf(goal, start, w));
  const rest = leastMoves(wants, standings);
  const first: State = { ...copied(start), cost: 0, rest, standings };
  const queue = new Buckets();
  queue.put(first);
  const seen = new Map<string, number>([[keyOf(first), 0]]);
  const most = board.fronts.length <= SMALL ? MOST.small : MOST.large;
  while (seen.size < most) {
    const state = queue.take();
    if (!state) return { found: null, least: rest, cut: false };
    if (seen.get(keyOf(state))! < state.cost) continue;
    const wrong = state.standings.findIndex((x) => x.is !== 'right');
    if (wrong < 0) return { found: state, least: rest, cut: false };
    for (const move of movesFor(board, state, state.standings[wrong], direct)) {
      const next = moved(state, move);
      const key = keyOf(next);
      const known = seen.get(key);
      if (known !== undefined && known <= next.cost) continue;
      seen.set(key, next.cost);
      next.standings = standingsAfter(goal, state, next, move);
      next.rest = leastMoves(wants, next.standings);
      queue.put(next);
    }
  }
  return { found: null, least: rest, cut: true };
}

const copied = (p: Plugs): Plugs => ({ at: p.at.slice(), broken: p.broken.slice() });
/** A board in few characters. */
const keyOf = (p: Plugs): string =>
  String.fromCharCode(...p.at.map((far, f) => far + 1 + (p.broken[f] ? 0x4000 : 0)));

/** States by cost and estimate; of those that promise the same, the one that is nearest to its goal. */
class Buckets {
  private readonly lists: State[][][] = [];
  put(s: State): void {
    const total = (this.lists[s.cost + s.rest] ??= []);
    (total[s.rest] ??= []).push(s);
  }
  take(): State | null {
    for (const total of this.lists) {
      for (const list of total ?? []) {
        const s = list?.pop();
        if (s) return s;
      }
    }
    return null;
  }
}

/** Two fronts that a cable goes into, or is taken out of. */
interface Step {
  a: number;
  b: number;
  plug: boolean;
}

/**
 * Moves of which at least one is part of every way to make a want right. Apart: the way must leave the metal around
 * its source by a new cable, or by a normal that a pull brings back. Shared: a cable between must go, or a normal
 * must be broken by a plug. `direct`: only cables from the one to the other.
 */
function movesFor(board: Board, state: State, x: Standing, direct: boolean): Step[] {
  const fronts = (list: number[]) => list.flatMap((p) => board.frontsOn[p]);
  const [near, far] = [fronts(x.near), fronts(x.far)];
  const touched = direct ? besides(board, new Set([...near, ...far])) : board.fronts.keys();
  const filled = [...touched].filter((f) => state.at[f] !== FREE);
  const cables = new Set(filled.map((f) => Math.min(f, state.at[f])));
  const out: Step[] = [...cables].map((a) => ({ a, b: state.at[a], plug: false }));
  const free = (f: number) => state.at[f] === FREE;
  const [from, to] = [near.filter(free), far.filter(free)];
  const plug = (a: number, b: number) => {
    if (a !== b) out.push({ a, b, plug: true });
  };
  if (direct) {
    if (x.is === 'apart') for (const a of from) for (const b of to) plug(a, b);
    return out;
  }
  const all = board.fronts.map((_, f) => f).filter(free);
  for (const a of new Set([...from, ...to])) for (const b of all) plug(a, b);
  return out;
}

/** Fronts with their partners across a normal: a plug in one of them may keep the other from its way. */
function besides(board: Board, fronts: Set<number>): Set<number> {
  const out = new Set(fronts);
  for (const f of fronts) {
    const { pair } = board.fronts[f];
    if (pair < 0) continue;
    out.add(board.normals[pair].upper);
    out.add(board.normals[pair].lower);
  }
  return out;
}

function moved(s: State, { a, b, plug }: Step): State {
  const next: State = { ...copied(s), cost: s.cost + 1, rest: 0, standings: s.standings };
  next.at[a] = plug ? b : FREE;
  next.at[b] = plug ? a : FREE;
  next.broken[a] = next.broken[b] = 0;
  return next;
}

/** The standings after a move: those that its metal does not touch stay as they are. */
function standingsAfter(goal: Goal, before: State, now: State, step: Step): Standing[] {
  const { board, wants } = goal;
  const touched = new Set<number>();
  for (const f of [step.a, step.b]) {
    touched.add(board.fronts[f].piece);
    const { pair } = board.fronts[f];
    if (pair < 0) continue;
    touched.add(board.normals[pair].a);
    touched.add(board.normals[pair].b);
  }
  const meets = (list: number[]) => list.some((p) => touched.has(p));
  return before.standings.map((x, i) =>
    meets(x.near) || meets(x.far) ? standingOf(goal, now, wants[i]) : x,
  );
}

/**
 * Moves that are left at least: for each source as many plugs as there are separate pieces that it must still
 * reach and that no normal leads to; and pulls, one for each set of cables of which one must go and which share
 * none. Never more than the true number, as A* asks.
 */
function leastMoves(wants: Want[], standings: Standing[]): number {
  let count = 0;
  const reached = new Set<string>();
  for (const [i, { plug }] of standings.entries()) {
    const key = `${wants[i].from} ${plug}`;
    if (plug < 0 || reached.has(key)) continue;
    reached.add(key);
    count++;
  }
  const used = new Set<number>();
  // those that must go by themselves first: they may be the one of a larger set
  const pulls = standings.flatMap((x) => x.pulls);
  for (const set of [...pulls.filter((x) => x.length === 1), ...pulls.filter((x) => x.length > 1)]) {
    if (set.some((c) => used.has(c))) continue;
    set.forEach((c) => used.add(c));
    count++;
  }
  return count;
}
