import { DEVICE_TYPES, playedAs, revisionOf, runningParams } from '../devices/index.ts';
import { StereoDelay } from '../devices/align.ts';
import { Ramp } from '../devices/math.ts';
import { copy, doubles } from '../devices/kernels/index.ts';
import { isInstrument, type InstrumentProcessor } from '../devices/instrument.ts';
import type { DeviceContext, Processor } from '../devices/spec.ts';
import type { Params } from '../model/types.ts';
import type { KeyEdge, SlotPlan } from './compile.ts';
import { EdgeRun } from './edge.ts';
import type { Scope, StereoBlock } from './sound.ts';
import { RackProcessor } from './rack.ts';

/**
 * One device or rack at its place in a chain: processes, bypasses (keeping its latency) or fades between the
 * two.
 */
export class SlotRun {
  readonly id: string;
  readonly type: string;
  readonly proc: Processor;
  /** for a rack: the same processor, with its strands */
  readonly rack: RackProcessor | null = null;
  /** for an instrument: the same processor, with its outputs */
  readonly instrument: InstrumentProcessor | null;
  /** where the sound before and after is copied for a spectrum, if anywhere */
  probe: Scope | null = null;
  readonly wet: Ramp;
  private readonly dry: StereoDelay;
  private readonly wait: StereoDelay;
  private readonly sl: Float64Array;
  private readonly sr: Float64Array;
  private readonly kl: Float64Array;
  private readonly kr: Float64Array;
  private params: unknown;
  private moved = false;
  private tempo: number;
  private readonly fade: number;
  key: EdgeRun | null = null;
  keySource: StereoBlock | null = null;
  /** the node or strand whose chain it stands in */
  home = '';
  /** a copy of what comes in, when a share of it is worked elsewhere by the same gain */
  heard: StereoBlock | null = null;
  /** what comes out has sides that are one where what comes in has */
  readonly keepsMono: boolean;
  private isOne = false;
  private isClean = false;
  /** bypassed for a comparison: keeps running, so that switching back is instant */
  auditioned = false;

  constructor(
    plan: SlotPlan,
    readonly ctx: DeviceContext,
    wet: number,
  ) {
    this.id = plan.slot.id;
    this.type = typeOf(plan);
    this.tempo = ctx.tempo;
    if (plan.slot.kind === 'rack') this.proc = this.rack = new RackProcessor(ctx);
    else {
      this.params = runningParams(plan.slot);
      this.proc = playedAs(plan.slot).create(runningParams(plan.slot), ctx);
    }
    this.keepsMono = plan.slot.kind === 'device' && !!DEVICE_TYPES[plan.slot.type].keepsMono;
    this.instrument = isInstrument(this.proc) ? this.proc : null;
    this.wet = new Ramp(wet);
    this.fade = Math.round(ctx.sampleRate * 0.01);
    this.dry = new StereoDelay(ctx.sampleRate, ctx.maxBlock);
    this.wait = new StereoDelay(ctx.sampleRate, ctx.maxBlock);
    this.sl = doubles(ctx.maxBlock);
    this.sr = doubles(ctx.maxBlock);
    this.kl = doubles(ctx.maxBlock);
    this.kr = doubles(ctx.maxBlock);
    this.time(plan, true);
  }

  /** Values and delays from a new plan; unchanged values (the same object) cost nothing. */
  adopt(plan: SlotPlan, tempo: number, immediate: boolean): void {
    if (
      plan.slot.kind === 'device' &&
      (runningParams(plan.slot) !== this.params || tempo !== this.tempo || this.moved)
    ) {
      this.moved = false;
      this.params = runningParams(plan.slot);
      this.ctx.tempo = tempo;
      this.proc.set(runningParams(plan.slot), immediate);
    }
    this.tempo = tempo;
    this.time(plan, immediate);
  }

  /** Values as a lane moves them, until the next plan. */
  move(params: Params, immediate: boolean): void {
    this.moved = true;
    this.proc.set(params, immediate);
  }

  private time(plan: SlotPlan, immediate: boolean): void {
    this.dry.set(plan.latency, immediate);
    this.wait.set(plan.wait, immediate);
  }

  /** Forgets all sound that is still on its way through. */
  reset(): void {
    this.proc.reset();
    this.dry.reset();
    this.wait.reset();
    this.key?.reset();
  }

  setKey(
    edge: Pick<KeyEdge, 'gainL' | 'gainR' | 'delay'> | null,
    source: StereoBlock | null,
    immediate: boolean,
  ): void {
    this.keySource = source;
    if (!edge || !source) {
      this.key = null;
      return;
    }
    if (!this.key) this.key = new EdgeRun(this.ctx.sampleRate, this.ctx.maxBlock, immediate ? 1 : 0);
    this.key.set(edge.gainL, edge.gainR, edge.delay, immediate);
  }

  /** What it hears, for slots that work shares of the same sound. */
  hear(): StereoBlock {
    const { maxBlock } = this.ctx;
    return (this.heard ??= { l: doubles(maxBlock), r: doubles(maxBlock) });
  }

  /** Fades to the device (true) or past it (false). */
  engage(on: boolean, immediate: boolean): void {
    if (on && this.wet.value === 0 && this.wet.target === 0 && !this.auditioned) this.proc.reset();
    this.wet.to(on ? 1 : 0, immediate ? 0 : this.fade);
  }

  /** @param one whether both sides are the same; @param isClean whether all of it are finite numbers */
  process(l: Float64Array, r: Float64Array, n: number, one = false, isClean = false): void {
    if (this.isOne && !one) this.proc.twin?.();
    this.isOne = one;
    this.isClean = isClean;
    if (this.rack) this.rack.isOne = one;
    const probe = this.probe;
    if (!probe) {
      this.run(l, r, n);
      return;
    }
    copyMono(l, r, probe.before, probe.at, n);
    this.run(l, r, n);
    copyMono(l, r, probe.after, probe.at, n);
    probe.at = (probe.at + n) % probe.before.length;
  }

  private run(l: Float64Array, r: Float64Array, n: number): void {
    this.wait.process(l, r, n);
    if (this.instrument) {
      this.play(this.instrument, l, r, n);
      return;
    }
    if (this.heard) {
      copy(this.heard.l, 0, l, 0, n);
      copy(this.heard.r, 0, r, 0, n);
    }
    const still = this.wet.left === 0;
    let kl = l;
    let kr = r;
    if (this.key && this.keySource) {
      kl = this.kl;
      kr = this.kr;
      for (let i = 0; i < n; i++) kl[i] = kr[i] = 0;
      this.key.add(this.keySource.l, this.keySource.r, kl, kr, n);
    }
    if (still && this.wet.value === 1 && this.dry.isSteady) {
      // what goes past it is not heard; it is kept for the moment of a bypass
      this.dry.hear(l, r, n);
      this.work(l, r, n, kl, kr);
      return;
    }
    if (still && this.wet.value === 0 && !this.auditioned) {
      this.proc.reduction = 0;
      this.dry.process(l, r, n);
      return;
    }
    const sl = this.sl;
    const sr = this.sr;
    copy(sl, 0, l, 0, n);
    copy(sr, 0, r, 0, n);
    this.work(sl, sr, n, kl === l ? sl : kl, kr === r ? sr : kr);
    this.dry.process(l, r, n);
    const moving = Math.min(this.wet.left, n);
    let w = this.wet.value;
    const dw = this.wet.step;
    for (let i = 0; i < moving; i++) {
      w += dw;
      l[i] += w * (sl[i] - l[i]);
      r[i] += w * (sr[i] - r[i]);
    }
    this.wet.advance(n);
    w = this.wet.value;
    if (w === 1) {
      for (let i = moving; i < n; i++) {
        l[i] = sl[i];
        r[i] = sr[i];
      }
    } else if (w !== 0) {
      for (let i = moving; i < n; i++) {
        l[i] += w * (sl[i] - l[i]);
        r[i] += w * (sr[i] - r[i]);
      }
    }
  }

  private work(l: Float64Array, r: Float64Array, n: number, kl: Float64Array, kr: Float64Array): void {
    if (this.isOne && kl === l && this.proc.processOne) this.proc.processOne(l, r, n);
    else if (this.isClean && kl === l && this.proc.processClean) this.proc.processClean(l, r, n);
    else this.proc.process(l, r, n, kl, kr);
  }

  /** An instrument adds to what passes; on its way in or out all its outputs fade. */
  private play(p: InstrumentProcessor, l: Float64Array, r: Float64Array, n: number): void {
    const w0 = this.wet.value;
    this.wet.advance(n);
    const w1 = this.wet.value;
    if (w0 === 1 && w1 === 1) {
      p.process(l, r, n, l, r);
      return;
    }
    if (w0 === 0 && w1 === 0 && !this.auditioned) {
      for (let k = 0; k < p.outputs.length; k++) {
        p.outputs[k].l.fill(0, 0, n);
        p.outputs[k].r.fill(0, 0, n);
      }
      return;
    }
    const sl = this.sl;
    const sr = this.sr;
    const dw = (w1 - w0) / n;
    sl.fill(0, 0, n);
    sr.fill(0, 0, n);
    p.process(sl, sr, n, sl, sr);
    for (let i = 0; i < n; i++) {
      const w = w0 + dw * (i + 1);
      l[i] += w * sl[i];
      r[i] += w * sr[i];
    }
    for (let k = 0; k < p.outputs.length; k++) {
      const o = p.outputs[k];
      for (let i = 0; i < n; i++) {
        const w = w0 + dw * (i + 1);
        o.l[i] *= w;
        o.r[i] *= w;
      }
    }
  }
}

/** What a running slot was made for: another type needs another one. */
export const typeOf = ({ slot }: SlotPlan): string =>
  slot.kind === 'rack' ? 'rack' : `${slot.type} ${revisionOf(slot)}`;

function copyMono(l: Float64Array, r: Float64Array, ring: Float32Array, at: number, n: number): void {
  for (let i = 0; i < n; i++) ring[(at + i) % ring.length] = 0.5 * (l[i] + r[i]);
}
