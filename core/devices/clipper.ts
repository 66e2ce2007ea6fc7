import { Oversampler } from './oversample.ts';
import { Glide, dbToGain, gainToDb, smoothing } from './math.ts';
import { decibels, defineDevice, percent, type DeviceContext, type Processor } from './spec.ts';
import type { Params } from '../model/types.ts';

/** Oversampling; four times alone leaves the aliases of a hard clip at −50 dB, eight times with the antiderivative below is under −80 dB. */
const FACTOR = 8;

/**
 * Clipper with a knee. Eight times oversampled, and the curve is applied by its antiderivative (J. D. Parker, V. Zavalishin, E. Le Bivic, "Reducing the aliasing of nonlinear waveshaping using
 * continuous-time convolution", DAFx 2016, first order), because a hard corner's harmonics fall too slowly for oversampling alone.
 */
export const clipper = defineDevice({
  type: 'clipper', label: 'Clipper', summary: 'Cuts peaks at a ceiling, hard or soft; oversampled.', hasKey: false, picture: 'transfer',
  params: [
    decibels('drive', 'Drive', 'Clip', 0, 24, 0, { step: 0.1, help: 'Gain into the ceiling' }),
    decibels('ceiling', 'Ceiling', 'Clip', -24, 0, -1, { step: 0.1 }),
    percent('softness', 'Softness', 'Clip', 0, 100, 20, { step: 1, help: '0 % is a hard corner; at 100 % the bend begins at silence' }),
  ],
  latency: () => new Oversampler(FACTOR, 1, 1).latency,
  curve: (x, p) => {
    const c = dbToGain(p.ceiling as number);
    return gainToDb(c * clip(dbToGain(x + (p.drive as number)) / c, (p.softness as number) / 100));
  },
  create: (params, ctx) => new ClipperProcessor(params, ctx),
});

/** Linear to 1 − s, then a parabola that arrives level at 1 (reached at 1 + s). */
export function clip(x: number, s: number): number {
  const a = x < 0 ? -x : x;
  const lo = 1 - s;
  const y = a <= lo ? a : a >= 1 + s ? 1 : a - ((a - lo) * (a - lo)) / (4 * s);
  return x < 0 ? -y : y;
}

/** Antiderivative of `clip`, zero at 0, even. */
export function clipIntegral(x: number, s: number): number {
  const a = x < 0 ? -x : x;
  const lo = 1 - s, hi = 1 + s;
  if (a <= lo) return 0.5 * a * a;
  if (a >= hi) { const d = hi - lo; return 0.5 * hi * hi - (s > 0 ? (d * d * d) / (12 * s) : 0) + (a - hi); }
  const d = a - lo;
  return 0.5 * a * a - (d * d * d) / (12 * s);
}

class ClipperProcessor implements Processor {
  reduction = 0;
  level = -160;
  private readonly over: Oversampler[];
  private readonly glide: Glide;
  /** the last input and its integral, the last output: left and right */
  private readonly s = new Float64Array(6);
  constructor(params: Params, ctx: DeviceContext) {
    this.over = [0, 1].map(() => new Oversampler(FACTOR, ctx.maxBlock, 1));
    this.glide = new Glide(3, smoothing(ctx.sampleRate));
    this.set(params, true);
  }
  set(p: Params, immediate: boolean): void {
    // values glide in dB: a gain that moves evenly
    this.glide.set([p.drive as number, p.ceiling as number, (p.softness as number) / 100], immediate);
  }
  process(l: Float64Array, r: Float64Array, n: number): void {
    let top = 0, out = 0;
    for (let i = 0; i < n; i++) { const a = Math.abs(l[i]), b = Math.abs(r[i]); if (a > top) top = a; if (b > top) top = b; }
    const hl = this.over[0].raise(l, n), hr = this.over[1].raise(r, n);
    const drive = dbToGain(this.glide.now[0]);
    let at = 0;
    while (at < n) {
      const m = this.glide.span(n - at);
      const v = this.glide.now;
      const ceiling = dbToGain(v[1]), g = dbToGain(v[0]) / ceiling;
      shape(hl, at * FACTOR, (at + m) * FACTOR, g, ceiling, v[2], this.s, 0);
      shape(hr, at * FACTOR, (at + m) * FACTOR, g, ceiling, v[2], this.s, 3);
      this.glide.advance(m);
      at += m;
    }
    this.over[0].lower(l, n);
    this.over[1].lower(r, n);
    for (let i = 0; i < n; i++) { const a = Math.abs(l[i]), b = Math.abs(r[i]); if (a > out) out = a; if (b > out) out = b; }
    this.level = gainToDb(top);
    this.reduction = top > 1e-6 && out > 0 ? Math.min(0, gainToDb(out) - gainToDb(top * drive)) : 0;
  }
  reset(): void { this.s.fill(0); for (const o of this.over) o.reset(); }
}

function shape(x: Float64Array, from: number, to: number, gain: number, ceiling: number, soft: number, s: Float64Array, c: number): void {
  let last = s[c], integral = clipIntegral(last, soft), before = s[c + 2];
  for (let i = from; i < to; i++) {
    const u = x[i] * gain;
    const f = clipIntegral(u, soft);
    const d = u - last;
    const y = d > 1e-7 || d < -1e-7 ? (f - integral) / d : clip(0.5 * (u + last), soft);
    // the integral delays by half a sample; the mean of two outputs makes that a whole one
    x[i] = 0.5 * ceiling * (y + before);
    before = y;
    last = u;
    integral = f;
  }
  s[c] = last; s[c + 2] = before;
}
