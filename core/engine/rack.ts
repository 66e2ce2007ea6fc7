import { StereoDelay } from '../devices/align.ts';
import { Ramp } from '../devices/math.ts';
import { doubles } from '../devices/kernels/index.ts';
import type { DeviceContext, Processor } from '../devices/spec.ts';
import type { StrandPlan } from './compile.ts';
import { mixRamped } from './edge.ts';

/** What stands in a strand: a device or a rack at its place. */
export interface ChainStep {
  readonly proc: Processor;
  readonly keepsMono: boolean;
  /** @param one whether both sides are the same */
  process(l: Float64Array, r: Float64Array, n: number, one: boolean): void;
}

/** One parallel path while it runs. */
export class StrandRun {
  readonly gl = new Ramp(0);
  readonly gr = new Ramp(0);
  readonly delay: StereoDelay;
  readonly l: Float64Array;
  readonly r: Float64Array;
  slots: ChainStep[] = [];
  private readonly glide: number;
  constructor(
    readonly id: string,
    ctx: DeviceContext,
  ) {
    this.delay = new StereoDelay(ctx.sampleRate, ctx.maxBlock);
    this.l = doubles(ctx.maxBlock);
    this.r = doubles(ctx.maxBlock);
    this.glide = Math.round(ctx.sampleRate * 0.01);
  }
  adopt(plan: StrandPlan, immediate: boolean): void {
    this.gl.to(plan.gainL, immediate ? 0 : this.glide);
    this.gr.to(plan.gainR, immediate ? 0 : this.glide);
    this.delay.set(plan.delay, immediate);
  }
  silence(): void {
    this.gl.to(0, this.glide);
    this.gr.to(0, this.glide);
  }
}

/**
 * The inside of a rack: the sound goes through every strand, each is lined up with the longest, then they are
 * added.
 */
export class RackProcessor implements Processor {
  reduction = 0;
  level = -160;
  strands: StrandRun[] = [];
  /** whether both sides of what comes in are the same */
  isOne = false;
  constructor(private readonly ctx: DeviceContext) {}
  set(): void {
    /* everything comes by adopt */
  }

  /** Puts the strands of a plan in; running ones go on by id, new ones are faded in. */
  adopt(plans: StrandPlan[], slotOf: (id: string) => ChainStep, immediate: boolean): void {
    this.strands = plans.map((p) => {
      const run = this.strands.find((s) => s.id === p.id) ?? new StrandRun(p.id, this.ctx);
      run.adopt(p, immediate);
      run.slots = p.slots.map((s) => slotOf(s.slot.id));
      return run;
    });
  }

  process(l: Float64Array, r: Float64Array, n: number): void {
    const strands = this.strands;
    this.reduction = 0;
    for (let k = 0; k < strands.length; k++) {
      const s = strands[k];
      for (let i = 0; i < n; i++) {
        s.l[i] = l[i];
        s.r[i] = r[i];
      }
      let one = this.isOne;
      for (let j = 0; j < s.slots.length; j++) {
        s.slots[j].process(s.l, s.r, n, one);
        one &&= s.slots[j].keepsMono;
        if (s.slots[j].proc.reduction < this.reduction) this.reduction = s.slots[j].proc.reduction;
      }
      s.delay.process(s.l, s.r, n);
    }
    for (let i = 0; i < n; i++) l[i] = r[i] = 0;
    for (let k = 0; k < strands.length; k++) {
      mixRamped(strands[k].l, l, n, strands[k].gl);
      mixRamped(strands[k].r, r, n, strands[k].gr);
    }
  }

  reset(): void {
    for (const s of this.strands) {
      s.delay.reset();
      for (const x of s.slots) x.proc.reset();
    }
  }
}
