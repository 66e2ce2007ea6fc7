import type { Cable, Jack, Studio, Wire } from '../model/hardware.ts';
import type { Id } from '../model/basic.ts';
import type { IdMaker } from '../model/ids.ts';
import { randomIds } from '../model/ids.ts';
import { boardOf, plugsOf, FREE, type Board, type Plugs } from './board.ts';
import { agree, goalOf, rightness, searchPatch, withoutForced, type Goal, type Want } from './search.ts';

/** A connection that is wanted: this output, and nothing else, at that input. */
export interface WantedPatch extends Wire {
  /** what it is for, in words: “Send of ‘Hold’ on Lead voice” */
  label?: string;
  /** the line and the device that it is wanted for */
  of?: { track: Id; device?: Id };
}

export type Move = { kind: 'pull'; cable: Cable } | { kind: 'plug'; cable: Cable };

export interface PatchConflict {
  message: string;
  jacks: Jack[];
}

export interface PatchPlan {
  /** in the order in which they can be made: what is in the way is pulled before its place is needed */
  moves: Move[];
  /** what is plugged when all of them are made */
  cables: Cable[];
  conflicts: PatchConflict[];
  /** no plan with fewer moves exists; false only where a bay is so tangled that the search was cut short */
  fewest: boolean;
}

/**
 * From what is plugged in a studio to what is wanted, in the fewest moves; a move pulls one cable or plugs one.
 * Normals serve where they can. What can't be had is named among the conflicts, and the rest is planned. Search by
 * cost with an admissible estimate (A*; Hart, Nilsson, Raphael 1968), apart for what does not touch each other.
 */
export function planPatch(
  studio: Studio,
  wanted: readonly WantedPatch[],
  options: { ids?: IdMaker } = {},
): PatchPlan {
  const board = boardOf(studio);
  const { wants, conflicts } = wantsOf(board, wanted);
  const { plugs } = plugsOf(board, studio.cables);
  let left = wants;
  for (;;) {
    const found = attempt(board, plugs, left);
    if ('plugs' in found) {
      const moves = movesBetween(board, studio, found.plugs, options.ids ?? randomIds);
      return { ...moves, conflicts, fewest: found.fewest };
    }
    // the one that can't be had with the others is named, and the others go on without it
    conflicts.push(conflictOf(board, found.refused));
    left = left.filter((w) => w !== found.refused);
  }
}

/** All wants together; or the one that can't be had. */
function attempt(
  board: Board,
  start: Plugs,
  wants: Want[],
): { plugs: Plugs; fewest: boolean } | { refused: Want } {
  const goal = goalOf(board, wants);
  // cables between what belongs to different sources go in any case; what is left falls into small groups
  let now = withoutForced(goal, start);
  let fewest = true;
  for (const group of groupsOf(goal, now)) {
    const found = searchPatch(board, now, group);
    fewest &&= found.fewest;
    if (!found.plugs) return { refused: refusedOf(board, now, group) };
    now = found.plugs;
  }
  return { plugs: now, fewest };
}

/** The wants that can be looked for, and what is wrong with the others. */
function wantsOf(
  board: Board,
  wanted: readonly WantedPatch[],
): { wants: Want[]; conflicts: PatchConflict[] } {
  const wants: Want[] = [];
  const conflicts: PatchConflict[] = [];
  const nameOf = (jack: Jack) => board.places.get(jack)?.name ?? jack;
  const fedBy = new Map<number, WantedPatch>();
  for (const w of wanted) {
    const what = w.label ?? `${nameOf(w.from)} to ${nameOf(w.to)}`;
    const refuse = (why: string) => conflicts.push({ message: `${what}: ${why}`, jacks: [w.from, w.to] });
    const [from, to] = [board.pieceOf.get(w.from), board.pieceOf.get(w.to)];
    if (from === undefined || to === undefined) {
      refuse(`there is no ${from === undefined ? w.from : w.to} in this studio.`);
      continue;
    }
    const other = board.sources[to].find((jack) => jack !== w.from);
    if (other) {
      refuse(`${nameOf(other)} is wired to ${nameOf(w.to)} for good.`);
      continue;
    }
    const first = fedBy.get(to);
    if (first && first.from !== w.from) {
      refuse(`${nameOf(w.to)} is wanted by ${first.label ?? nameOf(first.from)} already.`);
      continue;
    }
    const closed = [w.from, w.to].filter((jack) => !board.frontsOn[board.pieceOf.get(jack)!].length);
    if (closed.length && from !== to) {
      refuse(`no plug fits at ${closed.map(nameOf).join(' and ')}: it has no point on a bay.`);
      continue;
    }
    fedBy.set(to, w);
    wants.push({ from, to, source: w.from, label: what, jacks: [w.from, w.to] });
  }
  return { wants, conflicts };
}

/** Wants that may get into each other's way, together; a small bay is one group. */
function groupsOf(goal: Goal, plugs: Plugs): Want[][] {
  const { board, wants } = goal;
  if (board.fronts.length <= 16) return wants.length ? [wants] : [];
  const parent = Array.from({ length: board.pieces }, (_, i) => i);
  const root = (i: number): number => {
    while (parent[i] !== i) i = parent[i] = parent[parent[i]];
    return i;
  };
  const join = (a: number, b: number) => {
    parent[root(a)] = root(b);
  };
  for (const n of board.normals) if (agree(goal, n.a, n.b)) join(n.a, n.b);
  plugs.at.forEach((far, f) => {
    if (far !== FREE) join(board.fronts[f].piece, board.fronts[far].piece);
  });
  for (const w of wants) join(w.from, w.to);
  const groups = new Map<number, Want[]>();
  for (const w of wants) groups.set(root(w.from), [...(groups.get(root(w.from)) ?? []), w]);
  return [...groups.values()];
}

/** The first want that can't be had together with those before it. */
function refusedOf(board: Board, plugs: Plugs, wants: Want[]): Want {
  for (let n = 1; n < wants.length; n++) {
    if (!searchPatch(board, plugs, wants.slice(0, n)).plugs) return wants[n - 1];
  }
  return wants[wants.length - 1];
}

function conflictOf(board: Board, w: Want): PatchConflict {
  const [from, to] = w.jacks.map((jack) => board.places.get(jack)?.name ?? jack);
  const message = `${w.label}: there is no free point left that leads from ${from} to ${to}.`;
  return { message, jacks: w.jacks };
}

/** Pulls first, since a new plug may need the place of an old one. */
function movesBetween(
  board: Board,
  studio: Studio,
  goal: Plugs,
  ids: IdMaker,
): Pick<PatchPlan, 'moves' | 'cables'> {
  const { links } = plugsOf(board, studio.cables);
  const known = new Set(links.map((l) => l.cable));
  const stays = (l: (typeof links)[number]) => goal.at[l.a] === l.b && !!goal.broken[l.a] === l.broken;
  const pulled = links.filter((l) => !stays(l)).map((l) => l.cable!);
  const kept = links.filter(stays);
  const filled = new Set(kept.flatMap((l) => [l.a, l.b]));
  const fresh: Cable[] = [];
  goal.at.forEach((far, f) => {
    if (far === FREE || far < f || filled.has(f)) return;
    const [from, to] = inOrder(board, f, far);
    fresh.push({ id: ids('cab'), from: board.fronts[from].jack, to: board.fronts[to].jack });
  });
  // what the board does not know (a plug in a jack that is gone) stays as it is written
  const unknown = studio.cables.filter((c) => !known.has(c));
  return {
    moves: [
      ...pulled.map((cable): Move => ({ kind: 'pull', cable })),
      ...fresh.map((cable): Move => ({ kind: 'plug', cable })),
    ],
    cables: [...unknown, ...kept.map((l) => l.cable!), ...fresh],
  };
}

/** The end that drives comes first. */
function inOrder(board: Board, a: number, b: number): [number, number] {
  const drives = (f: number) => board.sources[board.fronts[f].piece].length > 0;
  if (drives(a) !== drives(b)) return drives(a) ? [a, b] : [b, a];
  return board.fronts[a].row === 'upper' ? [a, b] : [b, a];
}

/** Which of the wanted connections stand as a studio is plugged now. */
export function standing(studio: Studio, wanted: readonly WantedPatch[]): boolean[] {
  const board = boardOf(studio);
  const { plugs } = plugsOf(board, studio.cables);
  return wanted.map((w) => {
    const [from, to] = [board.pieceOf.get(w.from), board.pieceOf.get(w.to)];
    if (from === undefined || to === undefined) return false;
    return (
      rightness(board, plugs, { from, to, source: w.from, label: '', jacks: [w.from, w.to] }) === 'right'
    );
  });
}
