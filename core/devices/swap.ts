import { doubles } from './kernels/index.ts';
import { Ramp } from './math.ts';
import type { DeviceContext, Processor } from './spec.ts';
import type { Params } from '../model/types.ts';

/**
 * A processor whose make-up changes with some of its values (which filters there are, how many bands): the
 * new one runs unheard beside the old one until its memory is full, then it is faded in. Other values go
 * straight to the one that plays.
 */
export class Swap implements Processor {
  reduction = 0;
  level = -160;
  readings?: Float64Array;
  /** there where what it swaps has them */
  processOne?: NonNullable<Processor['processOne']>;
  twin?: () => void;
  private isOne = false;
  private now: Processor;
  private next: Processor | null = null;
  private made: string;
  private waiting: Params | null = null;
  private warm = 0;
  private readonly fade = new Ramp(0);
  private readonly l: Float64Array;
  private readonly r: Float64Array;

  /**
   * @param kind values for which a new processor has to be made, as a text; @param warmMs how long its memory
   * is
   */
  constructor(
    params: Params,
    private readonly ctx: DeviceContext,
    private readonly make: (p: Params) => Processor,
    private readonly kind: (p: Params) => string,
    private readonly warmMs: number,
  ) {
    this.now = make(params);
    this.made = kind(params);
    this.readings = this.now.readings;
    if (this.now.processOne) {
      this.processOne = (l, r, n) => this.one(l, r, n);
      this.twin = () => this.both();
    }
    this.l = doubles(ctx.maxBlock);
    this.r = doubles(ctx.maxBlock);
  }

  set(p: Params, immediate: boolean): void {
    const kind = this.kind(p);
    if (immediate) {
      if (kind !== this.made) this.now = this.make(p);
      else this.now.set(p, true);
      this.made = kind;
      this.next = this.waiting = null;
      this.readings = this.now.readings;
      return;
    }
    if (kind === this.made) {
      (this.next ?? this.now).set(p, false);
      this.waiting = null;
      return;
    }
    if (this.next) {
      this.waiting = p;
      return;
    }
    this.made = kind;
    this.next = this.make(p);
    this.warm = Math.round((this.warmMs * this.ctx.sampleRate) / 1000);
    this.fade.to(0, 0);
  }

  /** A sound whose sides are one: worked once, unless two processors are at it. */
  private one(l: Float64Array, r: Float64Array, n: number): void {
    if (this.next) {
      this.both();
      this.process(l, r, n, l, r);
      return;
    }
    this.isOne = true;
    this.now.processOne!(l, r, n);
    this.reduction = this.now.reduction;
    this.level = this.now.level;
  }
  private both(): void {
    if (this.isOne) this.now.twin!();
    this.isOne = false;
  }

  process(l: Float64Array, r: Float64Array, n: number, keyL: Float64Array, keyR: Float64Array): void {
    const next = this.next;
    if (!next) {
      this.now.process(l, r, n, keyL, keyR);
      this.reduction = this.now.reduction;
      this.level = this.now.level;
      return;
    }
    const a = this.l;
    const b = this.r;
    for (let i = 0; i < n; i++) {
      a[i] = l[i];
      b[i] = r[i];
    }
    next.process(a, b, n, keyL === l ? a : keyL, keyR === r ? b : keyR);
    this.now.process(l, r, n, keyL, keyR);
    this.reduction = next.reduction;
    this.level = next.level;
    if (this.warm > 0) {
      this.warm -= n;
      if (this.warm <= 0) this.fade.to(1, Math.round(this.ctx.sampleRate * 0.02));
      return;
    }
    const moving = Math.min(this.fade.left, n);
    const step = this.fade.step;
    let w = this.fade.value;
    for (let i = 0; i < n; i++) {
      if (i < moving) w += step;
      l[i] += w * (a[i] - l[i]);
      r[i] += w * (b[i] - r[i]);
    }
    this.fade.advance(n);
    if (this.fade.left > 0) return;
    this.now = next;
    this.next = null;
    this.readings = next.readings;
    if (this.waiting) {
      const p = this.waiting;
      this.waiting = null;
      this.set(p, false);
    }
  }

  reset(): void {
    this.isOne = false;
    this.now.reset();
    this.next?.reset();
  }
}
