import { ref, type Ref } from 'vue';
import type { Id } from '../../../core/index.ts';
import { dragWords, dragged, wordsOf, type DropSpot } from '../drop/index.ts';

/** Above and below this share of a line's height, a preset goes between the lines and not onto one. */
const EDGE = 0.24;

/**
 * What something dragged over a line would do there: `over` is the spot meant, `mark` the place of the stroke
 * between two devices, in px of the line.
 */
export function useDropSpot(
  line: () => Id,
  name: () => string,
  row: Ref<HTMLElement | null>,
  chainBox: Ref<HTMLElement | null>,
  drop: (spot: DropSpot) => void,
) {
  const over = ref<DropSpot | null>(null);
  const mark = ref({ x: 0, y: 0, h: 0 });

  function spotAt(e: DragEvent): DropSpot | null {
    const what = dragged.value;
    if (!what || !row.value || !chainBox.value) return null;
    const box = row.value.getBoundingClientRect();
    const y = (e.clientY - box.top) / box.height;
    const gap = (): DropSpot => ({ kind: 'gap', track: line(), after: y > 0.5 });
    if (what.kind === 'heading') return gap();
    if (what.kind === 'track') return what.track === line() ? null : gap();
    const own = chainBox.value.querySelector<HTMLElement>('[data-chain]')!;
    // inside an open rack the strand under the pointer is meant
    const under = e.target instanceof Element ? e.target.closest<HTMLElement>('[data-chain]') : null;
    const chain = under ?? own;
    const tiles = tilesOf(chain);
    if (what.kind === 'preset') {
      const nested = chain !== own;
      if (!nested && (y < EDGE || y > 1 - EDGE)) return gap();
      const beside = !isWithin(e.clientX, chainBox.value) || (!nested && tiles.length === 0);
      if (beside) return { kind: 'line', track: line() };
    }
    const at = tiles.findIndex((tile) => e.clientX < middleOf(tile));
    mark.value = markIn(chain, tiles, at, box);
    return { kind: 'chain', track: line(), container: chain.dataset.chain!, at: at < 0 ? tiles.length : at };
  }

  function dragOver(e: DragEvent) {
    over.value = spotAt(e);
    if (dragged.value) dragWords.value = wordsOf(dragged.value, over.value, name());
    if (over.value) e.preventDefault();
  }
  /** Leaving a part of the line for another part of it is not leaving the line. */
  function dragLeft(e: DragEvent) {
    if (row.value?.contains(e.relatedTarget as Node | null)) return;
    over.value = null;
    dragWords.value = null;
  }
  function dropped(e: DragEvent) {
    const spot = spotAt(e);
    over.value = null;
    if (!spot) return;
    e.preventDefault();
    drop(spot);
  }
  return { over, mark, dragOver, dragLeft, dropped };
}

const tilesOf = (chain: HTMLElement) =>
  [...chain.children].filter(
    (child): child is HTMLElement => child instanceof HTMLElement && child.dataset.slot !== undefined,
  );

function isWithin(x: number, element: HTMLElement): boolean {
  const box = element.getBoundingClientRect();
  return x >= box.left && x <= box.right;
}

function middleOf(tile: HTMLElement): number {
  const box = tile.getBoundingClientRect();
  return box.left + box.width / 2;
}

/** Before the tile `at`, or behind the last one. */
function markIn(chain: HTMLElement, tiles: HTMLElement[], at: number, line: DOMRect) {
  const box = chain.getBoundingClientRect();
  const xOf = () => {
    if (tiles.length === 0) return box.left + 2;
    if (at < 0) return tiles.at(-1)!.getBoundingClientRect().right + 2;
    return tiles[at].getBoundingClientRect().left - 5;
  };
  return { x: xOf() - line.left, y: box.top - line.top - 2, h: box.height + 4 };
}
