import { swing } from './pictures/swing.ts';
import { Glide, smoothing } from './math.ts';
import { defineDevice, percent, type DeviceContext, type Processor } from './spec.ts';
import { FractionalLine, TOGETHER, lagrange, type Between } from './line.ts';
import { doubles } from './kernels/index.ts';
import type { Params } from '../model/types.ts';

const MAX_MS = 60;

/**
 * A delay that swings: under about 10 ms with feedback it is a flanger, above a chorus. The sides swing a
 * quarter turn apart.
 */
export const chorus = defineDevice({
  type: 'chorus',
  label: 'Chorus',
  summary: 'A swinging delay, from flanger to chorus: rate, depth, delay, feedback, mix.',
  hasKey: false,
  shares: 'linear',
  makesSides: true,
  picture: swing,
  work: 8,
  wet: 'mix',
  alike: { words: /chorus|flang|ensemble/i, rank: 11 },
  params: [
    {
      id: 'rate',
      label: 'Rate',
      group: 'Swing',
      kind: 'number',
      unit: 'Hz',
      min: 0.02,
      max: 10,
      default: 0.6,
      taper: 'log',
      step: 0.01,
    },
    {
      id: 'depth',
      label: 'Depth',
      group: 'Swing',
      kind: 'number',
      unit: 'ms',
      min: 0,
      max: 15,
      default: 3,
      taper: 'square',
      step: 0.1,
    },
    {
      id: 'delay',
      label: 'Delay',
      group: 'Swing',
      kind: 'number',
      unit: 'ms',
      min: 0.5,
      max: 40,
      default: 14,
      taper: 'log',
      step: 0.1,
    },
    percent('feedback', 'Feedback', 'Swing', -95, 95, 0, {
      step: 1,
      help: 'Negative turns it over: other overtones ring',
    }),
    percent('mix', 'Mix', 'Output', 0, 100, 50, { step: 1 }),
  ],
  latency: () => 0,
  create: (params, ctx) => new ChorusProcessor(params, ctx),
  earlier: [
    {
      since: 'its copies keep their highs above 10 kHz',
      create: (params, ctx) => new ChorusProcessor(params, ctx, lagrange),
      work: 8,
    },
  ],
});

class ChorusProcessor implements Processor {
  reduction = 0;
  level = -160;
  private readonly left: FractionalLine;
  private readonly right: FractionalLine;
  private readonly glide: Glide;
  private readonly fs: number;
  private phase = 0;
  private readonly tl = doubles(TOGETHER);
  private readonly tr = doubles(TOGETHER);
  constructor(params: Params, ctx: DeviceContext, between?: Between) {
    this.fs = ctx.sampleRate;
    const size = (MAX_MS / 1000) * ctx.sampleRate;
    this.left = new FractionalLine(size, between);
    this.right = new FractionalLine(size, between);
    // a swing that is longer than the usual 20 ms, because a delay that moves fast changes the pitch
    this.glide = new Glide(5, smoothing(ctx.sampleRate) * 5);
    this.set(params, true);
  }
  set(p: Params, immediate: boolean): void {
    const k = this.fs / 1000;
    const delay = Math.max(0.5, p.delay as number);
    this.glide.set(
      [
        (2 * Math.PI * (p.rate as number)) / this.fs,
        Math.min(p.depth as number, delay - 0.2) * k,
        delay * k,
        (p.feedback as number) / 100,
        (p.mix as number) / 100,
      ],
      immediate,
    );
  }
  process(l: Float64Array, r: Float64Array, n: number): void {
    const v = this.glide.now;
    let at = 0;
    while (at < n) {
      const shortest = Math.min(v[2] - v[1], v[2]);
      const m = this.glide.span(Math.min(n - at, this.left.ahead(shortest)));
      this.swing(m);
      this.left.read(this.tl, m);
      this.right.read(this.tr, m);
      this.answer(this.left, l, this.tl, at, m);
      this.answer(this.right, r, this.tr, at, m);
      this.phase += v[0] * m;
      if (this.phase > 6.283185307179586) this.phase -= 6.283185307179586;
      this.glide.advance(m);
      at += m;
    }
  }
  /** How long ago both sides read at the next m moments, a quarter turn apart. */
  private swing(m: number): void {
    const { tl, tr } = this;
    let [, depth, delay] = this.glide.now;
    const step = this.glide.now[0];
    // the swing turns by one small angle each sample (a rotation); it starts from the true angle in each
    // span, so errors do not add up
    const turnC = Math.cos(step);
    const turnS = Math.sin(step);
    let c = Math.cos(this.phase);
    let s = Math.sin(this.phase);
    for (let k = 0; k < m; k++) {
      tl[k] = delay + depth * s;
      tr[k] = delay + depth * c;
      const turned = c * turnC - s * turnS;
      s = s * turnC + c * turnS;
      c = turned;
      depth += this.glide.slope(1);
      delay += this.glide.slope(2);
    }
  }
  /** What was read is heard, and goes back into the line. */
  private answer(line: FractionalLine, x: Float64Array, y: Float64Array, at: number, m: number): void {
    const fb = this.glide.now[3];
    const wet = this.glide.now[4];
    for (let k = 0; k < m; k++) {
      const dry = x[at + k];
      line.write(dry + fb * y[k]);
      x[at + k] = (1 - wet) * dry + wet * y[k];
    }
  }
  reset(): void {
    this.left.reset();
    this.right.reset();
  }
}
