import type { Flow, FlowNode, Id } from '../../../core/index.ts';
import { BOX, inFlowOrder, type Box, type Laid } from './graph.ts';

/** px between boxes of a column, between a trunk and what stands beside it, and between trunks */
const BETWEEN = 14;
const BESIDE = 28;
const TRUNK = 7;
const TRUNKS = 240;
const EDGE = 20;
const PITCH = BOX.h + BETWEEN;

/**
 * Lays out what is too large for the layout program, which takes minutes over hundreds of lines: columns by the longest
 * way that leads to a node, so that everything stands left of what it feeds; in a column, each as near as there is room to
 * the middle of what feeds it. Flows into one place share a trunk before it. Of a circle, what closes it goes round
 * below. Costs about as much as there are nodes and flows.
 */
export function layInRows(nodes: readonly FlowNode[], flows: readonly Flow[]): Laid {
  const ids = nodes.map((n) => n.id);
  const known = new Set(ids);
  const between = flows.filter((f) => known.has(f.from) && known.has(f.to) && f.from !== f.to);
  const order = inFlowOrder(
    ids,
    between.map((f) => [f.from, f.to]),
  );
  const rank = new Map(order.map((id, i) => [id, i]));
  const forward = between.filter((f) => rank.get(f.from)! < rank.get(f.to)!);
  const columns = columnsOf(order, forward);
  const boxes = boxesOf(columns, forward);
  const all = [...boxes.values()];
  const bottom = Math.max(0, ...all.map((b) => b.y + b.h));
  const trunk = trunksOf(columns, boxes);
  const wires = new Map(
    flows
      .filter((f) => known.has(f.from) && known.has(f.to))
      .map((f) => {
        const isForward = f.from !== f.to && rank.get(f.from)! < rank.get(f.to)!;
        const points = wireOf(
          boxes.get(f.from)!,
          boxes.get(f.to)!,
          trunk.get(f.to)!,
          isForward ? null : bottom + 16,
        );
        return [f.id, { id: f.id, points }];
      }),
  );
  const width = Math.max(0, ...all.map((b) => b.x + b.w)) + EDGE;
  return { boxes, frames: [], wires, width, height: bottom + EDGE + 16 };
}

/** px between the trunks before a column; very many stand closer */
const trunkStep = (column: readonly Id[]): number => Math.min(TRUNK, TRUNKS / column.length);

/** The nodes of each column: one behind the last of what feeds it. */
function columnsOf(order: readonly Id[], forward: readonly Flow[]): Id[][] {
  const feeds = grouped(forward, (f) => f.to);
  const column = new Map<Id, number>();
  const columns: Id[][] = [];
  for (const id of order) {
    const behind = (feeds.get(id) ?? []).map((f) => column.get(f.from)! + 1);
    const at = Math.max(0, ...behind);
    column.set(id, at);
    (columns[at] ??= []).push(id);
  }
  return columns;
}

function boxesOf(columns: Id[][], forward: readonly Flow[]): Map<Id, Box> {
  const feeds = grouped(forward, (f) => f.to);
  const boxes = new Map<Id, Box>();
  let x = EDGE;
  for (const [i, column] of columns.entries()) {
    if (i > 0) x += BOX.w + 2 * BESIDE + trunkStep(column) * column.length;
    const wanted = column.map((id, k) => {
      const from = (feeds.get(id) ?? []).map((f) => boxes.get(f.from)!.y);
      return { id, y: from.length ? from.reduce((a, b) => a + b) / from.length : EDGE + k * PITCH };
    });
    for (const { id, y } of spread(wanted)) boxes.set(id, { id, x, y, w: BOX.w, h: BOX.h });
  }
  return boxes;
}

/** Moves what would lie over each other apart, from the middle of where it wanted to be. */
function spread(wanted: { id: Id; y: number }[]): { id: Id; y: number }[] {
  const sorted = [...wanted].sort((a, b) => a.y - b.y);
  let last = -Infinity;
  const down = sorted.map(({ id, y }) => {
    last = Math.max(y, last + PITCH);
    return { id, y: last };
  });
  const moved = down.reduce((sum, d, i) => sum + d.y - sorted[i].y, 0) / down.length;
  const up = Math.min(moved, down[0].y - EDGE);
  return down.map(({ id, y }) => ({ id, y: y - Math.max(0, up) }));
}

/** Where the flows into each node come together: px from the left, each node of a column its own. */
function trunksOf(columns: Id[][], boxes: Map<Id, Box>): Map<Id, number> {
  return new Map(
    columns.flatMap((column) => {
      const byHeight = [...column].sort((a, b) => boxes.get(a)!.y - boxes.get(b)!.y);
      return byHeight.map((id, k): [Id, number] => [id, boxes.get(id)!.x - BESIDE - k * trunkStep(column)]);
    }),
  );
}

/** @param around px from the top of the way round, for what leads back */
function wireOf(from: Box, to: Box, trunk: number, around: number | null): [number, number][] {
  const [x0, y0] = [from.x + from.w, from.y + from.h / 2];
  const [x1, y1] = [to.x, to.y + to.h / 2];
  if (around === null) {
    return [
      [x0, y0],
      [trunk, y0],
      [trunk, y1],
      [x1, y1],
    ];
  }
  const out = x0 + BESIDE / 2;
  return [
    [x0, y0],
    [out, y0],
    [out, around],
    [x1 - BESIDE / 2, around],
    [x1 - BESIDE / 2, y1],
    [x1, y1],
  ];
}

function grouped<T>(list: readonly T[], keyOf: (item: T) => Id): Map<Id, T[]> {
  const groups = new Map<Id, T[]>();
  for (const item of list) {
    const key = keyOf(item);
    const group = groups.get(key);
    if (group) group.push(item);
    else groups.set(key, [item]);
  }
  return groups;
}
