import { transfer } from './pictures/transfer.ts';
import { doubles, saturate as saturateBlock } from './kernels/index.ts';
import { tanh } from './kernels/plain.ts';
import { Oversampler } from './oversample.ts';
import { StereoDelay } from './align.ts';
import { Glide, dbToGain, gainToDb, settled, smoothing } from './math.ts';
import { decibels, defineDevice, percent, type DeviceContext, type Processor } from './spec.ts';
import type { Params } from '../model/types.ts';

const FACTOR = 8;

/**
 * Saturation by a hyperbolic tangent, eight times oversampled. Colour shifts the working point, which brings
 * even harmonics; what that adds at 0 Hz is taken out again. The curve has slope 1
 * at silence with any colour, so quiet sound keeps its level and “output” is only for taste.
 */
export const saturator = defineDevice({
  type: 'saturator',
  label: 'Saturator',
  summary: 'Drive into a soft curve, odd or even harmonics by colour, output, mix; oversampled.',
  hasKey: false,
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
  latency: () => new Oversampler(FACTOR, 1).latency,
  curve: (x, p) => {
    const g = dbToGain(x);
    const wet = (p.mix as number) / 100;
    const bias = ((p.colour as number) / 100) * BIAS;
    return gainToDb(
      (1 - wet) * g +
        wet * dbToGain(p.output as number) * Math.abs(saturate(g * dbToGain(p.drive as number), bias)),
    );
  },
  create: (params, ctx) => new SaturatorProcessor(params, ctx),
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
  /** DC blocker: input and output, left and right */
  private readonly s = new Float64Array(4);
  private readonly pole: number;
  constructor(params: Params, ctx: DeviceContext) {
    this.over = [0, 1].map(() => new Oversampler(FACTOR, ctx.maxBlock));
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
    const wl = this.wl;
    const wr = this.wr;
    const s = this.s;
    const pole = this.pole;
    const v = this.glide.now;
    let top = 0;
    for (let i = 0; i < n; i++) {
      wl[i] = l[i];
      wr[i] = r[i];
      const a = Math.max(Math.abs(l[i]), Math.abs(r[i]));
      if (a > top) top = a;
    }
    const hl = this.over[0].raise(wl, n);
    const hr = this.over[1].raise(wr, n);
    this.level = gainToDb(top);
    this.reduction =
      top > 1e-6 ? Math.min(0, gainToDb(saturate(top * dbToGain(v[0]), v[1])) - gainToDb(top) - v[0]) : 0;
    const start = [v[2], v[3]];
    let at = 0;
    while (at < n) {
      const m = this.glide.span(n - at);
      saturateBlock(hl, at * FACTOR, (at + m) * FACTOR, dbToGain(v[0]), v[1]);
      saturateBlock(hr, at * FACTOR, (at + m) * FACTOR, dbToGain(v[0]), v[1]);
      this.glide.advance(m);
      at += m;
    }
    this.over[0].lower(wl, n);
    this.over[1].lower(wr, n);
    this.dry.process(l, r, n);
    const go = (v[2] - start[0]) / n;
    const gm = (v[3] - start[1]) / n;
    let out = start[0];
    let mix = start[1];
    for (let i = 0; i < n; i++) {
      const a = wl[i] - s[0] + pole * s[1];
      const b = wr[i] - s[2] + pole * s[3];
      s[0] = wl[i];
      s[1] = settled(a);
      s[2] = wr[i];
      s[3] = settled(b);
      l[i] += mix * (out * a - l[i]);
      r[i] += mix * (out * b - r[i]);
      out += go;
      mix += gm;
    }
  }
  reset(): void {
    this.s.fill(0);
    this.dry.reset();
    for (const o of this.over) o.reset();
  }
}
