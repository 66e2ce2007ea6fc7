import type { Params } from '../../model/types.ts';

export type RoomType = 'room' | 'hall' | 'plate' | 'chamber';

/** What makes the space between a reverb's cuts and its mix: in place, fully wet. */
export interface Network {
  /** which of its values it was made for: others need another one */
  readonly key: string;
  set(params: Params, immediate: boolean): void;
  process(l: Float64Array, r: Float64Array, n: number): void;
  reset(): void;
  /** of one that has much to make before it can play */
  readonly isReady?: boolean;
  /** makes as much as n samples have time for; all of it when left out */
  prepare?(n?: number): void;
}
