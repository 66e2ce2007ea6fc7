import { shallowRef } from 'vue';
import type { Id } from '../../../core/index.ts';

/**
 * `piece`: a device or rack, which goes into a chain. What is being dragged: the browser hides a drag's data
 * until it is dropped, so it is kept here.
 */
export type Dragged =
  | { kind: 'track'; track: Id }
  | { kind: 'heading'; heading: Id }
  | { kind: 'device'; track: Id; device: Id }
  | { kind: 'new-device'; type: string }
  | { kind: 'preset'; preset: string; name: string; piece: boolean; lines: number };
export type DropSpot =
  | { kind: 'gap'; track: Id; after: boolean }
  | { kind: 'line'; track: Id }
  | { kind: 'chain'; track: Id; container: Id; at: number };

export const dragged = shallowRef<Dragged | null>(null);

export function startDrag(e: DragEvent, what: Dragged): void {
  dragged.value = what;
  e.stopPropagation();
  e.dataTransfer?.setData('text/plain', what.kind === 'preset' ? what.name : what.kind);
  if (e.dataTransfer) e.dataTransfer.effectAllowed = 'copyMove';
}

/** What would happen where the pointer is, in words; null where nothing is dragged over anything. */
export const dragWords = shallowRef<string | null>(null);

window.addEventListener('dragend', () => {
  dragged.value = null;
  dragWords.value = null;
});
window.addEventListener('drop', () => {
  dragWords.value = null;
});

/**
 * What letting go at a spot would do.
 * @param spot null: it can't be let go there
 * @param line the name of the line that the pointer is over
 */
export function wordsOf(what: Dragged, spot: DropSpot | null, line: string): string {
  if (!spot) return whyNot(what, line);
  switch (what.kind) {
    case 'track':
    case 'heading':
      return 'moves here';
    case 'preset':
      return wordsOfPreset(what, spot, line);
    default:
      return `into the chain of “${line}”, here`;
  }
}
function wordsOfPreset(what: Dragged & { kind: 'preset' }, spot: DropSpot, line: string): string {
  if (what.lines > 1) return `${what.lines} new lines here`;
  if (spot.kind === 'gap') return 'a new line here';
  if (spot.kind === 'chain') return `into the chain of “${line}”, here`;
  return what.piece ? `at the end of “${line}”` : `replaces the chain of “${line}”`;
}
function whyNot(what: Dragged, line: string): string {
  if (what.kind === 'track') return 'not here: it is this very line';
  return `not here: “${line}” has no chain that it could go into`;
}
