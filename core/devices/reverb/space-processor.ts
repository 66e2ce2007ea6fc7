import { copy, doubles } from '../kernels/index.ts';
import { Cascade, cookbook, firstOrder } from '../biquad.ts';
import { StereoDelay } from '../align.ts';
import { Ramp, smoothing } from '../math.ts';
import { hertz, type DeviceContext, type Processor } from '../spec.ts';
import type { ParamSpec } from '../../model/param.ts';
import type { Params } from '../../model/types.ts';
import type { Network } from './network.ts';

/** Which network makes the space, by a device's values. */
export interface Spaces {
  /** what of the values needs another network when it changes */
  key(p: Params): string;
  make(p: Params): Network;
}

/** Values that everything with a space has. */
export const preDelay = (def: number): ParamSpec => ({
  id: 'preDelay',
  label: 'Pre-delay',
  group: 'Space',
  kind: 'number',
  unit: 'ms',
  min: 0,
  max: 250,
  default: def,
  taper: 'square',
  step: 0.1,
});
export const cuts = (low: number, high: number): ParamSpec[] => [
  hertz('lowCut', 'Low cut', 'Tone', 16, 2000, low),
  hertz('highCut', 'High cut', 'Tone', 500, 24000, high),
];

/** Pre-delay and cuts before a space, its width and its mix behind it; from one space to another it fades. */
export class SpaceProcessor implements Processor {
  reduction = 0;
  level = -160;
  private net: Network;
  private old: Network | null = null;
  /** asked for, and not made yet */
  private waiting: Network | null = null;
  private fade = 0;
  private readonly fadeLength: number;
  private readonly pre: StereoDelay;
  private readonly tone: Cascade;
  private readonly mix = new Ramp(0);
  /** what enters a network that has just been put in */
  private readonly rise = new Ramp(1);
  private readonly width = new Ramp(0);
  private readonly wl: Float64Array;
  private readonly wr: Float64Array;
  private readonly ol: Float64Array;
  private readonly or: Float64Array;

  constructor(
    params: Params,
    private readonly ctx: DeviceContext,
    private readonly spaces: Spaces,
  ) {
    this.wl = doubles(ctx.maxBlock);
    this.wr = doubles(ctx.maxBlock);
    this.ol = doubles(ctx.maxBlock);
    this.or = doubles(ctx.maxBlock);
    this.pre = new StereoDelay(ctx.sampleRate, ctx.maxBlock);
    this.tone = new Cascade(2, ctx.sampleRate);
    this.fadeLength = Math.round(ctx.sampleRate * 0.1);
    this.net = spaces.make(params);
    if (!ctx.live) this.net.prepare?.();
    this.set(params, true);
  }

  set(p: Params, immediate: boolean): void {
    const fs = this.ctx.sampleRate;
    const glide = immediate ? 0 : smoothing(fs);
    this.enter(p, immediate);
    this.pre.set(Math.round(((p.preDelay as number) * fs) / 1000), immediate);
    this.tone.set(
      [
        cookbook('highPass', p.lowCut as number, 0, Math.SQRT1_2, fs),
        firstOrder('lowPass', p.highCut as number, fs),
      ],
      immediate,
    );
    this.mix.to((p.mix as number) / 100, glide);
    this.width.to((p.width as number) / 100, glide);
  }

  /** Another space is another network: the old one rings on while it fades. One that takes long to make is awaited. */
  private enter(p: Params, immediate: boolean): void {
    const key = this.spaces.key(p);
    if (key === this.net.key) {
      this.waiting = null;
      this.net.set(p, immediate);
      return;
    }
    if (this.waiting?.key === key) return;
    const next = this.spaces.make(p);
    next.set(p, true);
    if (immediate) next.prepare?.();
    // a change waits for the one before it to have faded over
    if (next.isReady === false || (this.old && !immediate)) this.waiting = next;
    else this.take(next, immediate);
  }
  private take(next: Network, immediate: boolean): void {
    this.waiting = null;
    this.old = immediate ? null : this.net;
    this.fade = immediate ? 0 : this.fadeLength;
    this.net = next;
    this.rise.to(0, 0);
    this.rise.to(1, immediate ? 0 : smoothing(this.ctx.sampleRate));
  }
  private await(n: number): void {
    this.waiting?.prepare?.(n);
    if (this.waiting && this.waiting.isReady !== false && !this.old) this.take(this.waiting, false);
  }

  process(l: Float64Array, r: Float64Array, n: number): void {
    this.await(n);
    const wl = this.wl;
    const wr = this.wr;
    copy(wl, 0, l, 0, n);
    copy(wr, 0, r, 0, n);
    this.pre.process(wl, wr, n);
    this.tone.process(wl, wr, n);
    if (this.old) {
      const ol = this.ol;
      const or = this.or;
      copy(ol, 0, wl, 0, n);
      copy(or, 0, wr, 0, n);
      this.old.process(ol, or, n);
      this.rise.scale(wl, wr, n);
      this.net.process(wl, wr, n);
      for (let i = 0; i < n; i++) {
        const g = Math.max(0, this.fade - i) / this.fadeLength;
        wl[i] += g * ol[i];
        wr[i] += g * or[i];
      }
      this.fade -= n;
      if (this.fade <= 0) this.old = null;
    } else this.net.process(wl, wr, n);
    let at = 0;
    while (at < n) {
      const m = this.mix.left || this.width.left ? Math.min(4, n - at) : n - at;
      const wet = this.mix.value;
      const dry = 1 - wet;
      const w = this.width.value;
      for (let i = at; i < at + m; i++) {
        const mid = (wl[i] + wr[i]) * 0.5;
        const side = (wl[i] - wr[i]) * 0.5 * w;
        l[i] = dry * l[i] + wet * (mid + side);
        r[i] = dry * r[i] + wet * (mid - side);
      }
      this.mix.advance(m);
      this.width.advance(m);
      at += m;
    }
  }

  reset(): void {
    this.net.reset();
    this.pre.reset();
    this.tone.reset();
    this.old = null;
    this.fade = 0;
  }
}
