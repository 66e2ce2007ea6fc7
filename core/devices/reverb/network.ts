import type { Params } from '../../model/types.ts';

export type RoomType = 'room' | 'hall' | 'plate' | 'chamber';

/** What makes the space between a reverb's cuts and its mix: in place, fully wet. */
export interface Network {
  readonly type: RoomType;
  set(params: Params, immediate: boolean): void;
  process(l: Float64Array, r: Float64Array, n: number): void;
  reset(): void;
}
