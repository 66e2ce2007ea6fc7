import type { Params } from '../../model/types.ts';
import type { Sound, SoundWindow } from '../sounds.ts';

/** Seconds of an impulse response that are used at most. */
export const MOST_SECONDS = 12;
/** Level of what comes out against what goes in, for a steady sound of even power on both sides: that of the reverb. */
const LEVEL = 1.35;
/** share of the length over which the end fades where it is cut */
const FADE = 0.15;
const LEAST = 32;
/** frames of a long sound that are read at once */
const PIECE = 4096;

/** What of a device's values makes another response. */
export const responseKey = (p: Params): string =>
  [p.impulse, p.start, p.length, p.even].map(String).join(' ');

/**
 * A stretch of a sound as an impulse response: faded at its end where it is cut, as loud as asked for. It is read a part
 * at a time and copied nowhere, so that a long one can be taken up while everything plays.
 */
export class Response {
  /** samples */
  readonly length: number;
  readonly isMono: boolean;
  private readonly from: number;
  private readonly fade: number;
  private readonly window: SoundWindow | null;
  /** until it is measured, where that is asked for */
  private gain = 1;
  private energy = 0;
  private measured: number;

  constructor(
    private readonly sound: Sound,
    p: Params,
    sampleRate: number,
  ) {
    this.window = sound.open?.() ?? null;
    const whole = Math.min(this.window?.frames ?? sound.l.length, MOST_SECONDS * sampleRate);
    this.from = Math.min(Math.round(((p.start as number) * sampleRate) / 1000), Math.max(0, whole - LEAST));
    const share = (p.length as number) / 100;
    this.length = Math.max(1, Math.min(whole - this.from, Math.round((whole - this.from) * share)));
    this.fade = share < 1 ? Math.round(this.length * FADE) : 0;
    this.isMono = (this.window ?? sound).l === (this.window ?? sound).r;
    this.measured = p.even ? 0 : this.length;
  }

  /** Measures the next n samples; true when its level is known. */
  measure(n: number): boolean {
    if (this.measured >= this.length) return true;
    const end = Math.min(this.length, this.measured + n);
    for (let at = this.measured; at < end; at += PIECE) {
      this.energy += this.energyOf(at, Math.min(PIECE, end - at));
    }
    this.measured = end;
    if (end < this.length) return false;
    this.gain = this.energy > 0 ? LEVEL / Math.sqrt(this.energy / 2) : 0;
    return true;
  }

  /** n samples from a place on, left and right in turn; silence behind the end. At most PIECE of a long sound. */
  fill(into: Float64Array, at: number, n: number): void {
    into.fill(0, 0, 2 * n);
    const count = Math.min(n, this.length - at);
    for (let done = 0; done < count; done += PIECE) {
      const m = Math.min(PIECE, count - done);
      const { l, r, first } = this.bring(at + done, m);
      for (let i = 0; i < m; i++) {
        const g = this.gain * this.fading(at + done + i);
        into[2 * (done + i)] = g * l[first + i];
        into[2 * (done + i) + 1] = g * r[first + i];
      }
    }
  }

  private fading(at: number): number {
    const into = at - (this.length - this.fade);
    if (into < 0) return 1;
    const c = Math.cos((0.5 * Math.PI * (into + 1)) / this.fade);
    return c * c;
  }
  private energyOf(at: number, n: number): number {
    const { l, r, first } = this.bring(at, n);
    let sum = 0;
    for (let i = 0; i < n; i++) {
      const g = this.fading(at + i);
      sum += g * g * (l[first + i] * l[first + i] + r[first + i] * r[first + i]);
    }
    return sum;
  }
  /** Arrays in which samples from `at` on lie, and where. */
  private bring(at: number, n: number): { l: Float32Array; r: Float32Array; first: number } {
    const { window, sound, from } = this;
    if (!window) return { l: sound.l, r: sound.r, first: from + at };
    window.reach(from + at, n);
    return { l: window.l, r: window.r, first: from + at - window.at };
  }
}
