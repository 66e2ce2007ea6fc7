import type { ElkNode } from 'elkjs/lib/elk-api.js';
import ELK from 'elkjs/lib/elk-api.js';
// the layout program of the package, which runs as a worker by itself
import workerUrl from 'elkjs/lib/elk-worker.min.js?url';
import type { Flow, FlowNode, Id } from '../../../core/index.ts';
import { BOX, graphOf, type Box, type Frame, type Laid, type Wire } from './graph.ts';
import { layInRows } from './rows.ts';

export type { Box, Frame, Laid, Wire } from './graph.ts';

/** nodes from which on the layout program would take seconds, and soon minutes */
const MANY = 150;

let elk: InstanceType<typeof ELK> | null = null;
const engine = () => (elk ??= new ELK({ workerFactory: () => new Worker(workerUrl) }));

/**
 * Places nodes in layers from left to right and leads the flows around them, in a worker. Folders that are
 * open are frames around what lies in them. Very many without a frame stand in plain columns.
 * @param frames folder id → its label
 */
export async function layOut(nodes: FlowNode[], flows: Flow[], frames: Map<Id, string>): Promise<Laid> {
  if (!frames.size && nodes.length > MANY) return layInRows(nodes, flows);
  const out = await engine().layout(graphOf(nodes, flows, frames));
  const boxes = new Map<Id, Box>();
  const list: Frame[] = [];
  const offset = new Map<string, [number, number]>([['root', [0, 0]]]);
  const walk = (n: ElkNode, x: number, y: number) => {
    for (const c of n.children ?? []) {
      const box = {
        id: c.id,
        x: x + (c.x ?? 0),
        y: y + (c.y ?? 0),
        w: c.width ?? BOX.w,
        h: c.height ?? BOX.h,
      };
      offset.set(c.id, [box.x, box.y]);
      if (c.id.startsWith('frame:')) {
        list.push({ ...box, id: c.id.slice(6), label: frames.get(c.id.slice(6)) ?? '' });
      } else boxes.set(c.id, box);
      walk(c, box.x, box.y);
    }
  };
  walk(out, 0, 0);
  const wires = new Map<Id, Wire>();
  for (const e of out.edges ?? []) {
    const [ox, oy] = offset.get((e as { container?: string }).container ?? 'root') ?? [0, 0];
    const points = (e.sections ?? []).flatMap((s) =>
      [s.startPoint, ...(s.bendPoints ?? []), s.endPoint].map((p): [number, number] => [p.x + ox, p.y + oy]),
    );
    wires.set(e.id, { id: e.id, points });
  }
  return { boxes, frames: list, wires, width: out.width ?? 0, height: out.height ?? 0 };
}

/** A wire as a path with rounded corners. */
export function pathOf(points: [number, number][], radius = 6): string {
  if (points.length < 2) return '';
  let d = `M${points[0][0]} ${points[0][1]}`;
  for (let i = 1; i < points.length - 1; i++) {
    const [a, b, c] = [points[i - 1], points[i], points[i + 1]];
    const cut = (p: [number, number]) => {
      const l = Math.hypot(p[0] - b[0], p[1] - b[1]);
      const r = Math.min(radius, l / 2);
      return l ? [b[0] + ((p[0] - b[0]) / l) * r, b[1] + ((p[1] - b[1]) / l) * r] : b;
    };
    const [p, q] = [cut(a), cut(c)];
    d += `L${p[0]} ${p[1]}Q${b[0]} ${b[1]} ${q[0]} ${q[1]}`;
  }
  const end = points.at(-1)!;
  return `${d}L${end[0]} ${end[1]}`;
}
