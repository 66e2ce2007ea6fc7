import type { Id } from '../model/types.ts';

export type { Sound, SoundWindow } from '../devices/sounds.ts';

export interface Meter {
  /** linear peaks since the last read: before the chain, and after the fader left and right */
  before: number;
  left: number;
  right: number;
  /** mean square after the fader, summed over frames, and the frames */
  square: number;
  frames: number;
  /** frames of the blocks into which something came that is no finite number */
  broken: number;
}

/** The sound before and after one device, as rings of the mono sum, for a spectrum. */
export interface Scope {
  slot: Id;
  before: Float32Array;
  after: Float32Array;
  at: number;
}

/** One block of stereo sound while it is processed. */
export interface StereoBlock {
  readonly l: Float64Array;
  readonly r: Float64Array;
}
