/** The map against the layout program itself: everything stands left of what it feeds, whatever the order. */
import ELK, { type ElkNode } from 'elkjs/lib/elk.bundled.js';
import fc from 'fast-check';
import type { Flow, FlowNode } from '../../../core/index.ts';
import { graphOf, inFlowOrder } from './graph.ts';
import { layInRows } from './rows.ts';

const elk = new ELK();
const node = (id: string, folder: string | null = null): FlowNode => ({
  id,
  kind: 'track',
  label: id,
  folder,
});
const flow = (from: string, to: string): Flow => ({
  id: `${from}>${to}`,
  from,
  to,
  kind: 'output',
  on: true,
  live: true,
});
const leftOf = async (nodes: FlowNode[], flows: Flow[], frames = new Map<string, string>()) => {
  const out = await elk.layout(graphOf(nodes, flows, frames));
  const x = new Map<string, number>();
  const walk = (n: ElkNode, at: number) => {
    for (const c of n.children ?? []) {
      x.set(c.id, at + (c.x ?? 0));
      walk(c, at + (c.x ?? 0));
    }
  };
  walk(out, 0);
  return flows.filter((f) => x.get(f.from)! >= x.get(f.to)!).map((f) => f.id);
};

test('returns stand left of the bus that they feed, though the session has them behind it', async () => {
  const nodes = ['voice', 'bus', 'plate', 'master'].map((id) => node(id));
  const flows = [flow('voice', 'bus'), flow('voice', 'plate'), flow('plate', 'bus'), flow('bus', 'master')];
  expect(await leftOf(nodes, flows)).toEqual([]);
});

test('any graph without a circle, nodes in any order, some in a folder', async () => {
  await fc.assert(
    fc.asyncProperty(
      fc.integer({ min: 2, max: 12 }),
      fc.array(fc.tuple(fc.nat(11), fc.nat(11)), { maxLength: 25 }),
      fc.infiniteStream(fc.nat(1000)),
      fc.boolean(),
      async (n, pairs, chance, folder) => {
        const ids = Array.from({ length: n }, (_, i) => `n${i}`);
        const flows = [
          ...new Map(
            pairs
              .filter(([a, b]) => a < b && b < n && (a || b > 1))
              .map(([a, b]) => [`${a}-${b}`, flow(ids[a], ids[b])]),
          ).values(),
        ];
        const order = [...ids]
          .map((id) => ({ id, key: chance.next().value as number }))
          .sort((a, b) => a.key - b.key);
        // a folder with a line in it, which goes to the folder
        if (folder) flows.push(flow('n0', 'n1'));
        const nodes = order.map(({ id }) => node(id, folder && id === 'n0' ? 'n1' : null));
        const frames = new Map(folder ? [['n1', 'Folder']] : []);
        expect(await leftOf(nodes, flows, frames)).toEqual([]);
      },
    ),
    { numRuns: 60 },
  );
});

test('a circle is laid out as well, and what is in order keeps its order', () => {
  const ids = ['a', 'b', 'c'];
  expect(
    inFlowOrder(ids, [
      ['a', 'b'],
      ['b', 'a'],
    ]),
  ).toEqual(['c', 'a', 'b']);
  expect(
    inFlowOrder(ids, [
      ['a', 'c'],
      ['b', 'c'],
    ]),
  ).toEqual(ids);
});

test('in plain columns: whatever goes where, all stands left of what it feeds, nothing over each other, wires at right angles', () => {
  fc.assert(
    fc.property(
      fc.integer({ min: 1, max: 300 }),
      fc.array(fc.tuple(fc.nat(299), fc.nat(299)), { maxLength: 900 }),
      fc.boolean(),
      (n, pairs, isOrdered) => {
        const nodes = Array.from({ length: n }, (_, i) => node(`n${i}`));
        const flows = [
          ...new Map(
            pairs
              .filter(([a, b]) => a < n && b < n && (!isOrdered || a < b))
              .map(([a, b]) => [`${a}-${b}`, flow(`n${a}`, `n${b}`)]),
          ).values(),
        ];
        const { boxes, wires, width, height } = layInRows(nodes, flows);
        expect(boxes.size).toBe(n);
        const columns = new Map<number, number[]>();
        for (const { x, y, w, h } of boxes.values()) {
          columns.set(x, [...(columns.get(x) ?? []), y]);
          expect(x >= 0 && y >= 0 && x + w <= width && y + h <= height).toBe(true);
        }
        for (const ys of columns.values()) {
          ys.sort((a, b) => a - b).forEach((y, i) => i && expect(y - ys[i - 1]).toBeGreaterThanOrEqual(40));
        }
        for (const f of flows) {
          const [from, to] = [boxes.get(f.from)!, boxes.get(f.to)!];
          const { points } = wires.get(f.id)!;
          expect(points[0]).toEqual([from.x + from.w, from.y + from.h / 2]);
          expect(points.at(-1)).toEqual([to.x, to.y + to.h / 2]);
          points.forEach(
            ([x, y], i) => i && expect(x === points[i - 1][0] || y === points[i - 1][1]).toBe(true),
          );
        }
        if (isOrdered) for (const f of flows) expect(boxes.get(f.from)!.x).toBeLessThan(boxes.get(f.to)!.x);
      },
    ),
    { numRuns: 60 },
  );
  // without a circle, in the order that they come in
  const nodes = ['a', 'b', 'c', 'd'].map((id) => node(id));
  const { boxes } = layInRows(nodes, [flow('d', 'b'), flow('a', 'd'), flow('b', 'c')]);
  expect(['a', 'd', 'b', 'c'].map((id) => boxes.get(id)!.x)).toEqual(
    [...boxes.values()].map((box) => box.x).sort((x, y) => x - y),
  );
});
