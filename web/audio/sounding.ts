import type { ToEngine } from './messages.ts';

type Measure = Extract<ToEngine, { type: 'measure' }>;

/** One measurement in the audio thread: a signal straight out of the interface's channels, and what comes in. */
export class Sounding {
  readonly sides: Float32Array[];
  private at = 0;

  constructor(private readonly asked: Measure) {
    this.sides = asked.back.map(() => new Float32Array(asked.frames));
  }
  get isOver(): boolean {
    return this.at >= this.asked.frames;
  }
  /** The next n frames; channels that it does not use are silent. */
  step(ins: readonly Float32Array[], outs: readonly Float32Array[], n: number): void {
    const { out, back, sides, frames } = this.asked;
    for (let k = 0; k < outs.length; k++) outs[k].fill(0);
    for (let side = 0; side < sides.length; side++) {
      const to = outs[out[side]];
      if (to) for (let i = 0; i < n; i++) to[i] += sides[side][this.at + i] ?? 0;
    }
    const left = Math.min(n, frames - this.at);
    for (let side = 0; side < back.length; side++) {
      const from = ins[back[side]];
      if (from) this.sides[side].set(from.subarray(0, left), this.at);
    }
    this.at += n;
  }
}

/** Frames that are sent to the page at once. */
const STRETCH = 16384;

/** One line after its chain while the session plays, in stretches. */
export class Recording {
  private l = new Float32Array(STRETCH);
  private r = new Float32Array(STRETCH);
  private filled = 0;
  private sent = 0;

  /** @param frames how many are wanted, from the song's start */
  constructor(
    readonly node: string,
    readonly frames: number,
    private readonly say: (at: number, l: Float32Array, r: Float32Array, isLast: boolean) => void,
  ) {}

  /**
   * Takes n frames of the line.
   * @param at the song's frame that they belong to; what lies before the start is left out
   * @returns whether that was all
   */
  take(l: Float64Array, r: Float64Array, at: number, n: number): boolean {
    for (let i = Math.max(0, -at); i < n && this.sent + this.filled < this.frames; i++) {
      this.l[this.filled] = l[i];
      this.r[this.filled] = r[i];
      if (++this.filled === STRETCH) this.send(false);
    }
    const isOver = this.sent + this.filled >= this.frames;
    if (isOver) this.send(true);
    return isOver;
  }
  private send(isLast: boolean): void {
    this.say(this.sent, this.l.slice(0, this.filled), this.r.slice(0, this.filled), isLast);
    this.sent += this.filled;
    this.filled = 0;
  }
}
