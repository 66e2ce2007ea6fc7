import { signalGraph, type Flow, type FlowNode } from '../session/graph.ts';
import type { Session } from '../model/types.ts';

/**
 * The signal map for paper: what feeds stands left of what it feeds, in the order of the session, black on white. A
 * layout of its own, since the one on the screen is made by a package in a worker; this one is the same wherever it is
 * drawn.
 */

/** Points of a box, and from one to the next. */
const BOX = { w: 104, h: 16 };
const GAP = { x: 44, y: 7 };
const LETTERS = 8;
/** letters that a box holds */
const MOST_LETTERS = 21;
/** How kinds of connections are drawn: outputs in full, sends in dashes, keys in dots. */
const DASHES: Partial<Record<Flow['kind'], string>> = { send: '4 2', key: '1 2.5', midi: '7 2 1 2' };

export interface MapPicture {
  /** an SVG element, points */
  svg: string;
  width: number;
  height: number;
}

/**
 * @param font the family that its letters are set in
 * @returns null where there is nothing to draw
 */
export function mapPicture(session: Session, font = 'sans-serif'): MapPicture | null {
  const { nodes, flows } = signalGraph(session);
  if (nodes.length === 0) return null;
  const columns = columnsOf(nodes, flows);
  const width = columns.length * (BOX.w + GAP.x) - GAP.x + 2;
  const tall = (boxes: number) => boxes * (BOX.h + GAP.y) - GAP.y + 2;
  const height = Math.max(...columns.map((c) => tall(c.length)));
  const places = new Map<string, { x: number; y: number }>();
  columns.forEach((column, i) => {
    const top = 1 + (height - tall(column.length)) / 2;
    column.forEach((n, j) => places.set(n.id, { x: 1 + i * (BOX.w + GAP.x), y: top + j * (BOX.h + GAP.y) }));
  });
  const lines = flows.map((f) => lineOf(f, places)).join('');
  const boxes = nodes.map((n) => boxOf(n, places.get(n.id)!)).join('');
  const size = `width="${width}" height="${height}" viewBox="0 0 ${width} ${height}"`;
  return {
    svg: `<svg xmlns="http://www.w3.org/2000/svg" ${size} font-family="${font}" role="img" aria-label="Signal map">${lines}${boxes}</svg>`,
    width,
    height,
  };
}

/** Each node one column behind the last of those that feed it; in a column, the order of the session. */
function columnsOf(nodes: readonly FlowNode[], flows: readonly Flow[]): FlowNode[][] {
  const feeds = new Map<string, string[]>();
  for (const f of flows) {
    if (f.from !== f.to) feeds.set(f.to, [...(feeds.get(f.to) ?? []), f.from]);
  }
  const depths = new Map<string, number>();
  const onWay = new Set<string>();
  const depthOf = (id: string): number => {
    const known = depths.get(id);
    // a loop ends where it began
    if (known !== undefined || onWay.has(id)) return known ?? 0;
    onWay.add(id);
    const depth = Math.max(-1, ...(feeds.get(id) ?? []).map(depthOf)) + 1;
    onWay.delete(id);
    depths.set(id, depth);
    return depth;
  };
  const columns: FlowNode[][] = [];
  for (const n of nodes) (columns[depthOf(n.id)] ??= []).push(n);
  return columns.filter((column) => column.length > 0);
}

function lineOf(f: Flow, places: ReadonlyMap<string, { x: number; y: number }>): string {
  const [from, to] = [places.get(f.from), places.get(f.to)];
  if (!from || !to) return '';
  const [x, y] = [from.x + BOX.w, from.y + BOX.h / 2];
  const [u, v] = [to.x, to.y + BOX.h / 2];
  const bend = Math.max(GAP.x / 2, Math.abs(u - x) / 2);
  const dash = DASHES[f.kind] ? ` stroke-dasharray="${DASHES[f.kind]}"` : '';
  const grey = f.live ? '#000' : '#aaa';
  return `<path d="M${x} ${y}C${x + bend} ${y} ${u - bend} ${v} ${u} ${v}" fill="none" stroke="${grey}" stroke-width="0.7"${dash}/>`;
}

const safe = (text: string): string =>
  text.replace(/&/g, '&amp;').replace(/</g, '&lt;').replace(/>/g, '&gt;').replace(/"/g, '&quot;');

function boxOf(n: FlowNode, { x, y }: { x: number; y: number }): string {
  const label = n.label.length > MOST_LETTERS ? `${n.label.slice(0, MOST_LETTERS - 1)}…` : n.label;
  const box = `<rect x="${x}" y="${y}" width="${BOX.w}" height="${BOX.h}" rx="2" fill="#fff" stroke="#000" stroke-width="0.8"/>`;
  return `${box}<text x="${x + 5}" y="${y + BOX.h - 5}" font-size="${LETTERS}" fill="#000">${safe(label)}</text>`;
}
