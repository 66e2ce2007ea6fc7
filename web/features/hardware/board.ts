import type { Bay, Cable, Jack, Studio } from '../../../core/index.ts';
import { bayJack } from '../../../core/index.ts';

/** Where the points of the bays are drawn, in pixels. */
export const COLUMN = 46;
/** room above and below the points for their labels */
export const LABEL = 112;
export const LEFT = 24;
export const GAP = 34;
export const BAY_HEIGHT = 2 * LABEL + GAP + 44;

export interface Spot {
  jack: Jack;
  x: number;
  y: number;
  row: 'upper' | 'lower';
  label: string;
  name: string;
}

export const topOf = (index: number): number => index * BAY_HEIGHT + 24;

/** The points of one bay. */
export function spotsOf(bay: Bay, index: number): Spot[] {
  const top = topOf(index) + LABEL;
  return bay.pairs.flatMap((pair, i): Spot[] =>
    (['upper', 'lower'] as const).map((row) => ({
      jack: bayJack(bay.id, i + 1, row),
      x: LEFT + i * COLUMN,
      y: row === 'upper' ? top : top + GAP,
      row,
      label: pair[row],
      name: `${bay.name} ${i + 1} ${row}${pair[row] ? `, ${pair[row]}` : ''}`,
    })),
  );
}

export const widthOf = (studio: Studio): number =>
  Math.max(600, ...studio.bays.map((b) => 2 * LEFT + (b.pairs.length - 1) * COLUMN));

/** A cable hangs between two points like a thread. */
export function thread(a: { x: number; y: number }, b: { x: number; y: number }): string {
  const sag = 26 + 0.12 * Math.abs(a.x - b.x);
  return `M${a.x} ${a.y}C${a.x} ${a.y + sag} ${b.x} ${b.y + sag} ${b.x} ${b.y}`;
}

/** Colours of the threads, in turn; none of them is the colour of a state. */
const THREADS = ['var(--rope)', '#3c6e91', '#7a5aa6', '#2f7d73', '#a65a7c'];
export const threadColour = (cables: readonly Cable[], id: string): string =>
  THREADS[cables.findIndex((c) => c.id === id) % THREADS.length];
