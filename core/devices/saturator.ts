import { transfer } from './pictures/transfer.ts';
import { copy, doubles, saturate as saturateBlock, saturateMean } from './kernels/index.ts';
import { tanh } from './kernels/plain.ts';
import { Oversampler, oversamplingDelay } from './oversample.ts';
import { StereoDelay } from './align.ts';
import { Swap } from './swap.ts';
import { Glide, dbToGain, gainToDb, settled, smoothing, tallestOf } from './math.ts';
import { decibels, defineDevice, percent, type DeviceContext, type Processor } from './spec.ts';
import type { Params } from '../model/types.ts';

/** How the curve is applied: how many times oversampled, and what it does there. */
interface Way {
  factor: 8 | 16;
  /** samples at the high rate by which it delays */
  inner: number;
  /** base samples that it delays at least */
  least: number;
  block: typeof saturateMean;
}
/** Under −80 dBc below 20 kHz for any tone at +24 dB of drive; eight times by the antiderivative leave −64. */
const HARD: Way = { factor: 16, inner: 1, least: 0, block: saturateMean };
const LATENCY = oversamplingDelay(HARD.factor, HARD.inner);
/** The same up to MILD_DB for half the work: the harmonics have fallen far enough by then. */
const MILD: Way = { factor: 8, inner: 1, least: LATENCY, block: saturateMean };
const MILD_DB = 12;
/** Revision 1: −39 dBc at 13 kHz and +24 dB. */
const PLAIN: Way = { factor: 8, inner: 0, least: 0, block: saturateBlock };

const wayOf = (p: Params): Way => ((p.drive as number) > MILD_DB ? HARD : MILD);

/**
 * Saturation by a hyperbolic tangent, oversampled eight times or, driven hard, sixteen, and by its antiderivative.
 * Colour shifts the working point, which brings even harmonics; what that adds at 0 Hz is taken out again. The curve
 * has slope 1 at silence with any colour, so quiet sound keeps its level and “output” is only for taste.
 */
export const saturator = defineDevice({
  type: 'saturator',
  label: 'Saturator',
  summary: 'Drive into a soft curve, odd or even harmonics by colour, output, mix; oversampled.',
  hasKey: false,
  keepsMono: true,
  picture: transfer,
  work: 70,
  reduces: true,
  alike: { words: /satur|tape|tube|drive|warm|distort/i, rank: 10 },
  params: [
    decibels('drive', 'Drive', 'Curve', 0, 36, 6, { step: 0.1 }),
    percent('colour', 'Colour', 'Curve', 0, 100, 25, {
      step: 1,
      help: '0 %: odd harmonics only; more: even ones join',
    }),
    decibels('output', 'Output', 'Output', -36, 12, 0, { step: 0.1 }),
    percent('mix', 'Mix', 'Output', 0, 100, 100, { step: 1 }),
  ],
  latency: () => LATENCY,
  curve: (x, p) => {
    const g = dbToGain(x);
    const wet = (p.mix as number) / 100;
    const bias = ((p.colour as number) / 100) * BIAS;
    return gainToDb(
      (1 - wet) * g +
        wet * dbToGain(p.output as number) * Math.abs(saturate(g * dbToGain(p.drive as number), bias)),
    );
  },
  create: (params, ctx) =>
    new Swap(
      params,
      ctx,
      (p) => new SaturatorProcessor(p, ctx, wayOf(p)),
      (p) => String(wayOf(p).factor),
      20,
    ),
  earlier: [
    {
      since: 'high notes driven hard leave no tones between their harmonics',
      latency: () => oversamplingDelay(PLAIN.factor),
      create: (params, ctx) => new SaturatorProcessor(params, ctx, PLAIN),
      work: 70,
    },
  ],
});

const BIAS = 0.7;

/** tanh about a shifted working point, scaled to slope 1 at 0 and to 0 at 0. */
export function saturate(x: number, bias: number): number {
  const t = tanh(bias);
  return (tanh(x + bias) - t) / (1 - t * t);
}

class SaturatorProcessor implements Processor {
  reduction = 0;
  level = -160;
  private readonly over: Oversampler[];
  private readonly dry: StereoDelay;
  private readonly glide: Glide;
  private readonly wl: Float64Array;
  private readonly wr: Float64Array;
  /** where the curve is on its way, left and right */
  private readonly cl = doubles(3);
  private readonly cr = doubles(3);
  /** DC blocker: input and output */
  private readonly sl = new Float64Array(2);
  private readonly sr = new Float64Array(2);
  private readonly pole: number;
  constructor(
    params: Params,
    ctx: DeviceContext,
    private readonly way: Way,
  ) {
    this.over = [0, 1].map(() => new Oversampler(way.factor, ctx.maxBlock, way.inner, way.least));
    this.dry = new StereoDelay(ctx.sampleRate, ctx.maxBlock);
    this.dry.set(this.over[0].latency, true);
    this.glide = new Glide(4, smoothing(ctx.sampleRate));
    this.wl = doubles(ctx.maxBlock);
    this.wr = doubles(ctx.maxBlock);
    this.pole = Math.exp((-2 * Math.PI * 5) / ctx.sampleRate);
    this.set(params, true);
  }
  set(p: Params, immediate: boolean): void {
    this.glide.set(
      [
        p.drive as number,
        ((p.colour as number) / 100) * BIAS,
        dbToGain(p.output as number),
        (p.mix as number) / 100,
      ],
      immediate,
    );
  }
  process(l: Float64Array, r: Float64Array, n: number): void {
    this.work(l, r, n, 2);
  }
  processOne(l: Float64Array, r: Float64Array, n: number): void {
    this.work(l, r, n, 1);
  }
  twin(): void {
    this.over[1].follow(this.over[0]);
    this.sr.set(this.sl);
    this.cr.set(this.cl);
  }
  private work(l: Float64Array, r: Float64Array, n: number, sides: 1 | 2): void {
    const { wl, wr } = this;
    const v = this.glide.now;
    copy(wl, 0, l, 0, n);
    const hl = this.over[0].raise(wl, n);
    let top = tallestOf(l, n);
    let hr: Float64Array | null = null;
    if (sides === 2) {
      copy(wr, 0, r, 0, n);
      hr = this.over[1].raise(wr, n);
      top = Math.max(top, tallestOf(r, n));
    }
    this.level = gainToDb(top);
    this.reduction =
      top > 1e-6 ? Math.min(0, gainToDb(saturate(top * dbToGain(v[0]), v[1])) - gainToDb(top) - v[0]) : 0;
    const [out, mix] = [v[2], v[3]];
    let at = 0;
    while (at < n) {
      const m = this.glide.span(n - at);
      const { factor, block } = this.way;
      block(hl, at * factor, (at + m) * factor, dbToGain(v[0]), v[1], this.cl);
      if (hr) block(hr, at * factor, (at + m) * factor, dbToGain(v[0]), v[1], this.cr);
      this.glide.advance(m);
      at += m;
    }
    this.over[0].lower(wl, n);
    if (hr) this.over[1].lower(wr, n);
    this.dry.process(l, r, n);
    this.finish(l, wl, this.sl, n, out, mix);
    if (hr) this.finish(r, wr, this.sr, n, out, mix);
    else copy(r, 0, l, 0, n);
  }
  /** One side: no steady part, level, and the share of the dry sound; both values go straight to where they are now. */
  private finish(
    x: Float64Array,
    wet: Float64Array,
    s: Float64Array,
    n: number,
    out: number,
    mix: number,
  ): void {
    const [stepOut, stepMix] = [(this.glide.now[2] - out) / n, (this.glide.now[3] - mix) / n];
    const { pole } = this;
    let before = s[0];
    let steady = s[1];
    for (let i = 0; i < n; i++) {
      const a = wet[i] - before + pole * steady;
      before = wet[i];
      steady = settled(a);
      x[i] += mix * (out * a - x[i]);
      out += stepOut;
      mix += stepMix;
    }
    s[0] = before;
    s[1] = steady;
  }
  reset(): void {
    this.cl.fill(0);
    this.cr.fill(0);
    this.sl.fill(0);
    this.sr.fill(0);
    this.dry.reset();
    for (const o of this.over) o.reset();
  }
}
