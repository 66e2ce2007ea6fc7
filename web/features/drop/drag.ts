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

window.addEventListener('dragend', () => {
  dragged.value = null;
});
