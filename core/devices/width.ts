import { field as fieldPicture } from './pictures/field.ts';
import { doubles } from './kernels/index.ts';
import { Cascade, cookbook } from './biquad.ts';
import { Glide, dbToGain, smoothing } from './math.ts';
import {
  decibels,
  defineDevice,
  hertz,
  percent,
  toggle,
  type DeviceContext,
  type Processor,
} from './spec.ts';
import type { Params } from '../model/types.ts';

/**
 * Mid/side width: 0 % is mono, 100 % leaves the sound as it is, 200 % doubles the sides. Below a frequency
 * the sides can be taken out, 12 dB/oct.
 */
export const width = defineDevice({
  type: 'width',
  label: 'Width',
  summary: 'Narrower or wider, lows kept in the middle, trim.',
  hasKey: false,
  shares: 'linear',
  needsSides: true,
  picture: fieldPicture,
  work: 3,
  alike: { words: /wid(e|th)|stereo|imag/i, rank: 15 },
  readings: ['correlation'],
  params: [
    percent('width', 'Width', 'Width', 0, 200, 100, { step: 1 }),
    toggle('lows', 'Lows in the middle', 'Lows', false),
    hertz('below', 'Mono below', 'Lows', 20, 500, 120),
    decibels('trim', 'Trim', 'Output', -12, 12, 0, { step: 0.1 }),
  ],
  used: (p, id) => id !== 'below' || p.lows === true,
  latency: () => 0,
  create: (params, ctx) => new WidthProcessor(params, ctx),
});

class WidthProcessor implements Processor {
  reduction = 0;
  level = -160;
  readonly readings = new Float64Array(1);
  private readonly glide: Glide;
  private readonly filter: Cascade;
  private readonly mid: Float64Array;
  private readonly side: Float64Array;
  private readonly fs: number;
  constructor(params: Params, ctx: DeviceContext) {
    this.fs = ctx.sampleRate;
    this.glide = new Glide(2, smoothing(this.fs));
    this.filter = new Cascade(1, this.fs);
    this.mid = doubles(ctx.maxBlock);
    this.side = doubles(ctx.maxBlock);
    this.set(params, true);
  }
  set(p: Params, immediate: boolean): void {
    this.glide.set([(p.width as number) / 100, dbToGain(p.trim as number)], immediate);
    this.filter.set(
      p.lows ? [cookbook('highPass', p.below as number, 0, Math.SQRT1_2, this.fs)] : [],
      immediate,
    );
  }
  process(l: Float64Array, r: Float64Array, n: number): void {
    const m = this.mid;
    const s = this.side;
    const v = this.glide.now;
    // the filter works on two channels: the side on both, so that the mid keeps its phase
    for (let i = 0; i < n; i++) {
      m[i] = 0.5 * (l[i] + r[i]);
      l[i] = s[i] = 0.5 * (l[i] - r[i]);
    }
    this.filter.process(s, l, n);
    let at = 0;
    let ll = 0;
    let rr = 0;
    let lr = 0;
    while (at < n) {
      const k = this.glide.span(n - at);
      const w = v[0];
      const g = v[1];
      for (let i = at; i < at + k; i++) {
        const x = g * (m[i] + w * s[i]);
        const y = g * (m[i] - w * s[i]);
        ll += x * x;
        rr += y * y;
        lr += x * y;
        l[i] = x;
        r[i] = y;
      }
      this.glide.advance(k);
      at += k;
    }
    const c = ll > 1e-20 && rr > 1e-20 ? lr / Math.sqrt(ll * rr) : 0;
    this.readings[0] += 0.05 * (c - this.readings[0]);
  }
  reset(): void {
    this.filter.reset();
    this.readings[0] = 0;
  }
}
