import type { ElkNode } from 'elkjs/lib/elk-api.js';
import type { Flow, FlowNode, Id } from '../../../core/index.ts';

export const BOX = { w: 150, h: 40 };

export interface Box {
  id: Id;
  x: number;
  y: number;
  w: number;
  h: number;
}
export interface Frame extends Box {
  label: string;
}
export interface Wire {
  id: Id;
  points: [number, number][];
}
export interface Laid {
  boxes: Map<Id, Box>;
  frames: Frame[];
  wires: Map<Id, Wire>;
  width: number;
  height: number;
}

const COMMON = {
  'elk.direction': 'RIGHT',
  'elk.spacing.nodeNode': '14',
  'elk.layered.spacing.nodeNodeBetweenLayers': '56',
  'elk.layered.spacing.edgeNodeBetweenLayers': '16',
  'elk.spacing.edgeEdge': '7',
  'elk.spacing.edgeNode': '10',
};
const OPTIONS = {
  ...COMMON,
  'elk.algorithm': 'layered',
  'elk.hierarchyHandling': 'INCLUDE_CHILDREN',
  'elk.edgeRouting': 'ORTHOGONAL',
  'elk.padding': '[top=20,left=20,bottom=20,right=20]',
  // the order that the nodes come in leads, so that an edit moves only what it touches
  // and a line stands as far left as what feeds it allows, whatever lies behind it
  'elk.layered.layering.strategy': 'LONGEST_PATH_SOURCE',
  'elk.layered.considerModelOrder.strategy': 'NODES_AND_EDGES',
  'elk.layered.crossingMinimization.forceNodeModelOrder': 'true',
  'elk.layered.cycleBreaking.strategy': 'MODEL_ORDER',
  'elk.layered.nodePlacement.strategy': 'NETWORK_SIMPLEX',
};

/**
 * Ids in an order in which nothing stands behind what it feeds, as near to the one that they come in as that
 * allows: what is against the order would be turned round, and stand on the wrong side. Of a circle the first
 * goes first.
 */
export function inFlowOrder(ids: Id[], flows: readonly (readonly [Id, Id])[]): Id[] {
  const waits = new Map<Id, Set<Id>>(ids.map((id) => [id, new Set()]));
  for (const [from, to] of flows) if (from !== to && waits.has(from)) waits.get(to)?.add(from);
  const left = new Set(ids);
  const out: Id[] = [];
  while (left.size) {
    const all = [...left];
    const next = all.find((id) => waits.get(id)!.size === 0) ?? all[0];
    left.delete(next);
    out.push(next);
    for (const w of waits.values()) w.delete(next);
  }
  return out;
}

/**
 * What is laid out: nodes, open folders as frames around what lies in them, and flows.
 * @param frames folder id → its label
 */
export function graphOf(nodes: FlowNode[], flows: Flow[], frames: Map<Id, string>): ElkNode {
  const plain = (n: FlowNode): ElkNode => ({ id: n.id, width: BOX.w, height: BOX.h });
  const byId = new Map(nodes.map((n) => [n.id, n]));
  const parentOf = (n: FlowNode): Id | null => (n.folder && frames.has(n.folder) ? n.folder : null);
  /** the node or frame of a folder in which another node lies */
  const unitIn = (folder: Id | null, id: Id): Id | null => {
    const n = byId.get(id);
    if (!n) return null;
    const parent = parentOf(n);
    if (parent === folder || (id === folder && folder !== null)) return id;
    return parent === null ? null : unitIn(folder, parent);
  };
  const inside = (folder: Id | null): ElkNode[] => {
    const own = nodes.filter((n) => parentOf(n) === folder && n.id !== folder);
    const between = flows.flatMap(({ from, to }) => {
      const [a, b] = [unitIn(folder, from), unitIn(folder, to)];
      return a && b ? [[a, b] as const] : [];
    });
    return inFlowOrder(
      own.map((n) => n.id),
      between,
    ).map((id) => {
      const n = byId.get(id)!;
      if (!frames.has(id)) return plain(n);
      return {
        id: `frame:${id}`,
        layoutOptions: { ...COMMON, 'elk.padding': '[top=30,left=12,bottom=12,right=12]' },
        children: [...inside(id), plain(n)],
      };
    });
  };
  // many flows into one place share the last stretch; with few, each has its own
  return {
    id: 'root',
    layoutOptions: { ...OPTIONS, ...(flows.length > 50 ? { 'elk.layered.mergeEdges': 'true' } : {}) },
    children: inside(null),
    edges: flows.map((f) => ({ id: f.id, sources: [f.from], targets: [f.to] })),
  };
}
