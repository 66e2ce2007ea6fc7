import type { Id } from '../model/types.ts';

/** Sound at the engine's rate; mono sound has the same array twice. */
export interface Sound {
  l: Float32Array;
  r: Float32Array;
  /** of sound that is too long to be held: whatever plays it gets a window of its own */
  open?: () => SoundWindow;
}

/** A stretch of a long sound, in `l` and `r`, which goes along with what is asked for. */
export interface SoundWindow extends Sound {
  /** frames of all of it */
  readonly frames: number;
  /** the frame of the sound that `l` and `r` begin with */
  readonly at: number;
  /** brings frames `from` to `from + n` into `l` and `r` */
  reach(from: number, n: number): void;
}

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
