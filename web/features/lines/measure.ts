import type { Slot, Track } from '../../../core/index.ts';

/** Sizes of a chain on its line in px; the line and the list of lines must agree on them. */
export const TILE = 42;
export const SMALL_TILE = 34;
export const GAP = 6;
/** px of a tile at most, and where the chain has more room than `WIDE` */
const LARGE = 76;
const LARGEST = 120;
const WIDE = 1100;
export const STRAND_LABEL = 58;
export const RACK_EDGES = 52;
export const LINE = 52;
type IsOpen = (rack: string) => boolean;

const opened = (s: Slot, isOpen: IsOpen) => s.kind === 'rack' && isOpen(s.id);

/** Height of a slot: an open rack is as high as its strands together. */
export function slotHeight(s: Slot, isOpen: IsOpen, inside = false): number {
  if (s.kind !== 'rack' || !isOpen(s.id)) return inside ? SMALL_TILE : TILE;
  return (
    s.strands.reduce((sum, st) => sum + strandHeight(st.chain, isOpen), 0) + (s.strands.length - 1) * 3 + 4
  );
}
export const strandHeight = (chain: Slot[], isOpen: IsOpen): number =>
  Math.max(SMALL_TILE, ...chain.map((s) => slotHeight(s, isOpen, true)));

/** Height of a whole line. */
export const lineHeight = (t: Track, isOpen: IsOpen): number =>
  Math.max(LINE, ...t.chain.map((s) => slotHeight(s, isOpen) + 10));

/** Width of a chain when every tile is `tile` wide. */
export const chainWidth = (chain: Slot[], tile: number, isOpen: IsOpen): number =>
  chain.reduce(
    (sum, s) =>
      sum +
      GAP +
      (opened(s, isOpen) && s.kind === 'rack'
        ? RACK_EDGES +
          STRAND_LABEL +
          Math.max(24, ...s.strands.map((st) => chainWidth(st.chain, tile, isOpen) + 24))
        : tile),
    0,
  );

/** The widest tile (26–76) with which a chain fits into `room`; null when not even the narrowest does. */
export function tileFor(chain: Slot[], room: number, isOpen: IsOpen): number | null {
  if (chainWidth(chain, 26, isOpen) > room) return null;
  let low = 26;
  // on a wide screen there is room for larger pictures
  let high = room > WIDE ? LARGEST : LARGE;
  while (high - low > 1) {
    const mid = (low + high) >> 1;
    if (chainWidth(chain, mid, isOpen) <= room) low = mid;
    else high = mid;
  }
  return chainWidth(chain, high, isOpen) <= room ? high : low;
}

/** Columns of a line around its chain. */
export const NAME = 148;
export const INPUT = 40;
export const LEVELS = 192;
export const OUT = 94;
export const PAD = 76;
export const sendsRoom = (t: Track): number => (t.sends.length ? Math.min(2, t.sends.length) * 72 + 4 : 8);
const shut: IsOpen = () => false;

/**
 * How a line is laid out in a width: the width of its tiles, which racks are open (none where they would not
 * fit), how many slots are shown and the height of it all. The line and the list of lines both ask here.
 */
export function lineLayout(
  t: Track,
  width: number,
  depth: number,
  isOpen: IsOpen,
): { tile: number; isOpen: IsOpen; shown: number; height: number } {
  const room = Math.max(60, width - NAME - INPUT - LEVELS - OUT - PAD - sendsRoom(t) - depth * 14);
  const fits = tileFor(t.chain, room - 28, isOpen);
  if (fits !== null) return { tile: fits, isOpen, shown: t.chain.length, height: lineHeight(t, isOpen) };
  const folded = tileFor(t.chain, room - 28, shut);
  // the count of what is hidden needs room itself
  return {
    tile: folded ?? 26,
    isOpen: shut,
    shown: folded !== null ? t.chain.length : Math.max(1, Math.floor((room - 76) / 32)),
    height: lineHeight(t, shut),
  };
}
