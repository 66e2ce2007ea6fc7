import { copies } from './pictures/copies.ts';
import { doubles } from './kernels/index.ts';
import { FractionalLine, TOGETHER, lagrange, type Between } from './line.ts';
import { Glide, smoothing } from './math.ts';
import { choice, defineDevice, percent, wholeNumber, type DeviceContext, type Processor } from './spec.ts';
import type { Params } from '../model/types.ts';
import { voiceOf } from './voice.ts';
import { twoTo } from '../model/power.ts';

const VOICES = 4;

/**
 * Length of the stretch that a voice reads before it goes back: long enough that detuning by a few cents
 * seldom has to.
 */
const SPAN_MS = 70;

const MAX_DELAY_MS = 60;

/**
 * Two to four copies, each late and out of tune by a little, spread over the sides. A voice reads the past at
 * its own speed and fades over to the start of its stretch before it runs out (two readers half
 * a stretch apart, raised-cosine weights that sum to one).
 */
export const doubler = defineDevice({
  type: 'doubler',
  label: 'Doubler',
  summary: 'Two to four late and slightly detuned copies, spread over the sides.',
  hasKey: false,
  shares: 'linear',
  makesSides: true,
  picture: copies,
  work: 27,
  wet: 'mix',
  alike: { words: /doubl/i, rank: 12 },
  params: [
    choice(
      'voices',
      'Voices',
      'Copies',
      [
        { id: '2', label: '2' },
        { id: '3', label: '3' },
        { id: '4', label: '4' },
      ],
      '2',
    ),
    wholeNumber('detune', 'Detune', 'Copies', 0, 50, 9, 'ct', {
      help: 'Cents; the copies go up and down in turn',
    }),
    {
      id: 'delay',
      label: 'Delay',
      group: 'Copies',
      kind: 'number',
      unit: 'ms',
      min: 1,
      max: 50,
      default: 18,
      taper: 'log',
      step: 0.1,
    },
    percent('spread', 'Spread', 'Copies', 0, 100, 80, { step: 1 }),
    percent('mix', 'Mix', 'Output', 0, 100, 40, { step: 1 }),
  ],
  latency: () => 0,
  create: (params, ctx) => new DoublerProcessor(params, ctx),
  earlier: [
    {
      since: 'its copies keep their highs above 10 kHz',
      create: (params, ctx) => new DoublerProcessor(params, ctx, lagrange),
      work: 27,
    },
  ],
});

class DoublerProcessor implements Processor {
  reduction = 0;
  level = -160;
  private readonly line: FractionalLine;
  private readonly glide: Glide;
  /** where each voice is in its stretch, 0…1 */
  private readonly at = new Float64Array(VOICES);
  private readonly span: number;
  /** what a copy's readers read at the next moments, and where in its stretch it is */
  private readonly first = doubles(TOGETHER);
  private readonly second = doubles(TOGETHER);
  private readonly weight = new Float64Array(TOGETHER);
  /** all copies */
  private readonly sl = new Float64Array(TOGETHER);
  private readonly sr = new Float64Array(TOGETHER);
  private readonly fs: number;
  constructor(params: Params, ctx: DeviceContext, between?: Between) {
    this.fs = ctx.sampleRate;
    this.span = (SPAN_MS / 1000) * this.fs;
    this.line = new FractionalLine(((SPAN_MS + MAX_DELAY_MS * 2.2) / 1000) * this.fs + 8, between);
    this.glide = new Glide(VOICES * 4 + 1, smoothing(this.fs) * 2);
    for (let k = 0; k < VOICES; k++) this.at[k] = (k * 0.271) % 1;
    this.set(params, true);
  }
  set(p: Params, immediate: boolean): void {
    const n = Number(p.voices);
    const goal: number[] = [];
    for (let k = 0; k < VOICES; k++) {
      const v = voiceOf(p, k);
      const a = ((v.place + 1) * Math.PI) / 4;
      const g = k < n ? Math.SQRT2 / Math.sqrt(n) : 0;
      // share of a stretch by which the reader moves each sample
      goal.push(
        (1 - twoTo(v.cents / 1200)) / this.span,
        (v.ms / 1000) * this.fs,
        g * Math.cos(a),
        g * Math.sin(a),
      );
    }
    goal.push((p.mix as number) / 100);
    this.glide.set(goal, immediate);
  }
  process(l: Float64Array, r: Float64Array, n: number): void {
    const v = this.glide.now;
    let done = 0;
    while (done < n) {
      const m = this.glide.span(Math.min(n - done, TOGETHER));
      for (let i = done; i < done + m; i++) this.line.write(0.5 * (l[i] + r[i]));
      this.sl.fill(0);
      this.sr.fill(0);
      for (let k = 0; k < VOICES; k++) this.say(k, m);
      const wet = v[VOICES * 4];
      for (let i = 0; i < m; i++) {
        l[done + i] = (1 - wet) * l[done + i] + wet * this.sl[i];
        r[done + i] = (1 - wet) * r[done + i] + wet * this.sr[i];
      }
      this.glide.advance(m);
      done += m;
    }
  }
  /** Adds m samples of one copy: two readers half a stretch apart, each silent while it jumps back. */
  private say(k: number, m: number): void {
    const { span, line, first, second, weight, sl, sr } = this;
    const v = this.glide.now;
    const gl = v[k * 4 + 2];
    const gr = v[k * 4 + 3];
    const slope = this.glide.slope(k * 4 + 1);
    let u = this.at[k];
    for (let i = 0; i < m; i++) {
      u += v[k * 4];
      u -= Math.floor(u);
      const base = v[k * 4 + 1] + slope * i + 2;
      first[i] = base + u * span;
      second[i] = base + (u < 0.5 ? u + 0.5 : u - 0.5) * span;
      weight[i] = u;
    }
    this.at[k] = u;
    if (gl === 0 && gr === 0) return;
    // a moment reads what was written at it, too
    line.read(first, m, m - 1);
    line.read(second, m, m - 1);
    for (let i = 0; i < m; i++) {
      const w = 0.5 - 0.5 * Math.cos(6.283185307179586 * weight[i]);
      const y = w * first[i] + (1 - w) * second[i];
      sl[i] += gl * y;
      sr[i] += gr * y;
    }
  }
  reset(): void {
    this.line.reset();
  }
}
