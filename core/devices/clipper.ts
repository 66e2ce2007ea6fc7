import { transfer } from './pictures/transfer.ts';
import { clipBlock, copy, doubles } from './kernels/index.ts';
import { clip } from './kernels/plain.ts';
import { Oversampler, oversamplingDelay } from './oversample.ts';
import { Glide, dbToGain, gainToDb, smoothing } from './math.ts';
import { decibels, defineDevice, percent, type DeviceContext, type Processor } from './spec.ts';
import type { Params } from '../model/types.ts';

/**
 * Oversampling; four times alone leaves the aliases of a hard clip at −50 dB. Sixteen times with the antiderivative
 * below is under −80 dBc for any tone; revision 1 had eight.
 */
const FACTOR = 16;
const EARLIER = 8;

/**
 * Clipper with a knee. Sixteen times oversampled, and the curve is applied by its antiderivative (J. D. Parker,
 * V. Zavalishin, E. Le Bivic, "Reducing the aliasing of nonlinear waveshaping using
 * continuous-time convolution", DAFx 2016, first order), because a hard corner's harmonics fall too slowly
 * for oversampling alone.
 */
export const clipper = defineDevice({
  type: 'clipper',
  label: 'Clipper',
  summary: 'Cuts peaks at a ceiling, hard or soft; oversampled.',
  hasKey: false,
  keepsMono: true,
  picture: transfer,
  work: 28,
  reduces: true,
  alike: { words: /clip/i, rank: 6 },
  params: [
    decibels('drive', 'Drive', 'Clip', 0, 24, 0, { step: 0.1, help: 'Gain into the ceiling' }),
    decibels('ceiling', 'Ceiling', 'Clip', -24, 0, -1, { step: 0.1 }),
    percent('softness', 'Softness', 'Clip', 0, 100, 20, {
      step: 1,
      help: '0 % is a hard corner; at 100 % the bend begins at silence',
    }),
  ],
  latency: () => latencyOf(FACTOR),
  curve: (x, p) => {
    const c = dbToGain(p.ceiling as number);
    return gainToDb(c * clip(dbToGain(x + (p.drive as number)) / c, (p.softness as number) / 100));
  },
  create: (params, ctx) => new ClipperProcessor(params, ctx, FACTOR),
  earlier: [
    {
      since: 'high notes driven hard leave no tones between their harmonics',
      latency: () => latencyOf(EARLIER),
      create: (params, ctx) => new ClipperProcessor(params, ctx, EARLIER),
      work: 28,
    },
  ],
});

const latencyOf = (factor: 8 | 16) => oversamplingDelay(factor, 1);

class ClipperProcessor implements Processor {
  reduction = 0;
  level = -160;
  private readonly over: Oversampler[];
  private readonly glide: Glide;
  /** the last input, a place that is not used, the last output */
  private readonly sl = doubles(3);
  private readonly sr = doubles(3);
  constructor(
    params: Params,
    ctx: DeviceContext,
    private readonly factor: 8 | 16,
  ) {
    this.over = [0, 1].map(() => new Oversampler(factor, ctx.maxBlock, 1));
    this.glide = new Glide(3, smoothing(ctx.sampleRate));
    this.set(params, true);
  }
  set(p: Params, immediate: boolean): void {
    // values glide in dB: a gain that moves evenly
    this.glide.set([p.drive as number, p.ceiling as number, (p.softness as number) / 100], immediate);
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
  }
  private work(l: Float64Array, r: Float64Array, n: number, sides: 1 | 2): void {
    let top = 0;
    let out = 0;
    for (let i = 0; i < n; i++) {
      const a = Math.abs(l[i]);
      const b = Math.abs(r[i]);
      if (a > top) top = a;
      if (b > top) top = b;
    }
    const hl = this.over[0].raise(l, n);
    const hr = sides === 2 ? this.over[1].raise(r, n) : null;
    const { factor } = this;
    const drive = dbToGain(this.glide.now[0]);
    let at = 0;
    while (at < n) {
      const m = this.glide.span(n - at);
      const v = this.glide.now;
      const ceiling = dbToGain(v[1]);
      const g = dbToGain(v[0]) / ceiling;
      clipBlock(hl, at * factor, (at + m) * factor, g, ceiling, v[2], this.sl);
      if (hr) clipBlock(hr, at * factor, (at + m) * factor, g, ceiling, v[2], this.sr);
      this.glide.advance(m);
      at += m;
    }
    this.over[0].lower(l, n);
    if (hr) this.over[1].lower(r, n);
    else copy(r, 0, l, 0, n);
    for (let i = 0; i < n; i++) {
      const a = Math.abs(l[i]);
      const b = Math.abs(r[i]);
      if (a > out) out = a;
      if (b > out) out = b;
    }
    this.level = gainToDb(top);
    this.reduction = top > 1e-6 && out > 0 ? Math.min(0, gainToDb(out) - gainToDb(top * drive)) : 0;
  }
  reset(): void {
    this.sl.fill(0);
    this.sr.fill(0);
    for (const o of this.over) o.reset();
  }
}
