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
