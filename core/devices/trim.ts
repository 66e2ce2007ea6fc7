import { level as levelPicture } from './pictures/level.ts';
import { Ramp, dbToGain, smoothing } from './math.ts';
import { decibels, defineDevice, toggle, type DeviceContext, type Processor } from './spec.ts';
import type { Params } from '../model/types.ts';
import { trimMatrix } from './trim-matrix.ts';

/** Gain, polarity, mono sum, balance and side swap: a 2 × 2 matrix, each entry of it glides. */
export const trim = defineDevice({
  type: 'trim',
  label: 'Trim',
  summary: 'Gain, polarity, mono, balance and swapped sides.',
  hasKey: false,
  keepsMono: true,
  shares: 'linear',
  picture: levelPicture,
  work: 0.2,
  alike: { words: /gain|trim|util/i, rank: 16 },
  params: [
    decibels('gain', 'Gain', 'Trim', -36, 36, 0, { step: 0.1 }),
    {
      id: 'balance',
      label: 'Balance',
      group: 'Trim',
      kind: 'number',
      unit: 'pan',
      min: -100,
      max: 100,
      default: 0,
      taper: 'linear',
      step: 1,
    },
    toggle('polarityL', 'Polarity left', 'Sides', false, 'Turns the left side over'),
    toggle('polarityR', 'Polarity right', 'Sides', false, 'Turns the right side over'),
    toggle('mono', 'Mono', 'Sides', false, 'Half the sum of both sides on each'),
    toggle('swap', 'Swap sides', 'Sides', false),
  ],
  latency: () => 0,
  response: (p) => [dbToGain(p.gain as number) * (p.polarityL ? -1 : 1), 0],
  create: (params, ctx) => new TrimProcessor(params, ctx),
});

class TrimProcessor implements Processor {
  reduction = 0;
  level = -160;
  private readonly m: Ramp[];
  private readonly glide: number;
  constructor(params: Params, ctx: DeviceContext) {
    this.m = trimMatrix(params).map((v) => new Ramp(v));
    this.glide = smoothing(ctx.sampleRate);
  }
  set(params: Params, immediate: boolean): void {
    trimMatrix(params).forEach((v, i) => this.m[i].to(v, immediate ? 0 : this.glide));
  }
  process(l: Float64Array, r: Float64Array, n: number): void {
    const m = this.m;
    const A = m[0];
    const B = m[1];
    const C = m[2];
    const D = m[3];
    let at = 0;
    while (at < n) {
      let to = n;
      for (let k = 0; k < 4; k++) if (m[k].left > 0) to = Math.min(to, at + m[k].left);
      let a = A.value;
      let b = B.value;
      let c = C.value;
      let d = D.value;
      const da = A.left ? A.step : 0;
      const db = B.left ? B.step : 0;
      const dc = C.left ? C.step : 0;
      const dd = D.left ? D.step : 0;
      for (let i = at; i < to; i++) {
        const x = l[i];
        const y = r[i];
        l[i] = a * x + b * y;
        r[i] = c * x + d * y;
        a += da;
        b += db;
        c += dc;
        d += dd;
      }
      for (let k = 0; k < 4; k++) m[k].advance(to - at);
      at = to;
    }
  }
  reset(): void {
    /* no memory */
  }
}
