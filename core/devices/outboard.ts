import { loop as loopPicture } from './pictures/loop.ts';
import { doubles } from './kernels/index.ts';
import { Cascade, cookbook } from './biquad.ts';
import { compressor } from './compressor.ts';
import { StereoDelay } from './align.ts';
import { Glide, dbToGain, smoothing } from './math.ts';
import { reverb } from './reverb.ts';
import {
  choice,
  decibels,
  defineDevice,
  percent,
  words,
  type DeviceContext,
  type Processor,
} from './spec.ts';
import type { Params } from '../model/types.ts';

/**
 * A loop through hardware: out of a port, back in at another. Where no hardware is, a simulated unit takes
 * its place, with the delay that such a loop has (converters and buffers), so that the round trip has to be
 * measured as with the real thing. The measured round trip is the device's latency; when it is wrong the loop
 * is early or late, as it would be.
 */
export const outboard = defineDevice({
  type: 'outboard',
  label: 'Outboard loop',
  summary:
    'Through a hardware unit and back: ports, levels, measured round trip; a simulated unit plays where no hardware is.',
  hasKey: false,
  picture: loopPicture,
  work: 8,
  reduces: true,
  makesSides: true,
  loop: {
    send: 'sendPort',
    back: 'returnPort',
    roundTrip: 'roundTrip',
    measure: (params, sampleRate) => measureRoundTrip(String(params.unit), sampleRate),
  },
  params: [
    words('sendPort', 'Send port', 'Ports', 'Out 7/8'),
    words('returnPort', 'Return port', 'Ports', 'In 7/8'),
    choice(
      'unit',
      'Unit',
      'Ports',
      [
        { id: 'wire', label: 'Cable (simulated)' },
        { id: 'compressor', label: 'Outboard compressor (simulated)' },
        { id: 'spring', label: 'Spring reverb (simulated)' },
      ],
      'compressor',
    ),
    decibels('send', 'Send level', 'Level', -36, 12, 0, { step: 0.1 }),
    decibels('return', 'Return level', 'Level', -36, 12, 0, { step: 0.1 }),
    {
      id: 'roundTrip',
      label: 'Round trip',
      group: 'Level',
      kind: 'number',
      unit: 'ms',
      min: 0,
      max: 100,
      default: 0,
      taper: 'square',
      step: 0.01,
      help: 'Press “Measure” to find it',
    },
    percent('mix', 'Mix', 'Level', 0, 100, 100, { step: 1 }),
  ],
  latency: (p, fs) => Math.round(((p.roundTrip as number) * fs) / 1000),
  create: (params, ctx) => new OutboardProcessor(params, ctx),
});

type Unit = 'wire' | 'compressor' | 'spring';
/**
 * Delay of the simulated loops in samples: two buffers of 128 and the converters of a usual interface (common
 * practice: 5 to 10 ms there and back).
 */
const LOOP: Record<Unit, number> = { wire: 311, compressor: 311, spring: 337 };
const UNITS: Record<Unit, (ctx: DeviceContext) => Processor | null> = {
  wire: () => null,
  compressor: (ctx) =>
    compressor.create(
      { ...compressor.defaults, threshold: -22, ratio: 4, knee: 10, attack: 8, release: 180, makeup: 4 },
      ctx,
    ),
  spring: (ctx) =>
    reverb.create(
      {
        ...reverb.defaults,
        type: 'plate',
        decay: 2.1,
        preDelay: 28,
        damping: 70,
        lowCut: 180,
        highCut: 4200,
      },
      ctx,
    ),
};

/** What the ports carry: the unit between a delay for the way out and back, and a narrow colour. */
class Loop {
  private readonly delay: StereoDelay;
  private readonly proc: Processor | null;
  private readonly tone: Cascade;
  constructor(
    readonly unit: Unit,
    ctx: DeviceContext,
  ) {
    this.delay = new StereoDelay(ctx.sampleRate, ctx.maxBlock);
    this.delay.set(LOOP[unit], true);
    this.proc = UNITS[unit](ctx);
    this.tone = new Cascade(2, ctx.sampleRate);
    if (this.proc) {
      this.tone.set(
        [
          cookbook('lowShelf', 90, 0.8, 0.71, ctx.sampleRate),
          cookbook('highShelf', 9000, -0.9, 0.71, ctx.sampleRate),
        ],
        true,
      );
    }
  }
  get reduction(): number {
    return this.proc?.reduction ?? 0;
  }
  process(l: Float64Array, r: Float64Array, n: number): void {
    this.delay.process(l, r, n);
    this.proc?.process(l, r, n, l, r);
    this.tone.process(l, r, n);
  }
  reset(): void {
    this.delay.reset();
    this.proc?.reset();
    this.tone.reset();
  }
}

/**
 * Measures a simulated loop's round trip: an impulse goes out, the place of the largest sample that comes
 * back is the delay.
 * @returns ms
 */
export function measureRoundTrip(unit: string, sampleRate: number): number {
  const ctx = { sampleRate, tempo: 120, maxBlock: 4096 };
  const loop = new Loop(unit === 'spring' ? 'wire' : (unit as Unit), ctx);
  const l = new Float64Array(4096);
  const r = new Float64Array(4096);
  l[0] = r[0] = 0.01;
  loop.process(l, r, 4096);
  let best = 0;
  for (let i = 0; i < 4096; i++) if (Math.abs(l[i]) > Math.abs(l[best])) best = i;
  // a spring has no clear first echo: it is measured with the unit patched out, and its own converters' delay
  // is added
  return ((best + (unit === 'spring' ? LOOP.spring - LOOP.wire : 0)) * 1000) / sampleRate;
}

class OutboardProcessor implements Processor {
  reduction = 0;
  level = -160;
  private loop: Loop;
  private old: Loop | null = null;
  private fade = 0;
  private readonly fadeLength: number;
  private readonly dry: StereoDelay;
  private readonly glide: Glide;
  private readonly wl: Float64Array;
  private readonly wr: Float64Array;
  private readonly ol: Float64Array;
  private readonly or: Float64Array;
  constructor(
    params: Params,
    private readonly ctx: DeviceContext,
  ) {
    this.loop = new Loop(params.unit as Unit, ctx);
    this.dry = new StereoDelay(ctx.sampleRate, ctx.maxBlock);
    this.glide = new Glide(3, smoothing(ctx.sampleRate));
    this.fadeLength = Math.round(ctx.sampleRate * 0.02);
    [this.wl, this.wr, this.ol, this.or] = [0, 1, 2, 3].map(() => doubles(ctx.maxBlock));
    this.set(params, true);
  }
  set(p: Params, immediate: boolean): void {
    if (p.unit !== this.loop.unit) {
      this.old = immediate ? null : this.loop;
      this.loop = new Loop(p.unit as Unit, this.ctx);
      // the old unit plays until the new one's loop is full
      this.fade = immediate ? 0 : this.fadeLength + LOOP[this.loop.unit] + 64;
    }
    this.dry.set(outboard.latency(p, this.ctx.sampleRate), immediate);
    this.glide.set(
      [dbToGain(p.send as number), dbToGain(p.return as number), (p.mix as number) / 100],
      immediate,
    );
  }
  process(l: Float64Array, r: Float64Array, n: number): void {
    const { wl, wr, ol, or } = this;
    const v = this.glide.now;
    const start = [v[0], v[1], v[2]];
    for (let at = 0; at < n;) {
      const m = this.glide.span(n - at);
      this.glide.advance(m);
      at += m;
    }
    const ds = (v[0] - start[0]) / n;
    const dr = (v[1] - start[1]) / n;
    const dm = (v[2] - start[2]) / n;
    for (let i = 0; i < n; i++) {
      const g = start[0] + ds * i;
      wl[i] = l[i] * g;
      wr[i] = r[i] * g;
    }
    if (this.old) {
      for (let i = 0; i < n; i++) {
        ol[i] = wl[i];
        or[i] = wr[i];
      }
      this.old.process(ol, or, n);
    }
    this.loop.process(wl, wr, n);
    if (this.old) {
      for (let i = 0; i < n; i++) {
        const g = Math.min(1, Math.max(0, this.fade - i) / this.fadeLength);
        wl[i] += g * (ol[i] - wl[i]);
        wr[i] += g * (or[i] - wr[i]);
      }
      this.fade -= n;
      if (this.fade <= 0) this.old = null;
    }
    this.dry.process(l, r, n);
    for (let i = 0; i < n; i++) {
      const g = start[1] + dr * i;
      const w = start[2] + dm * i;
      l[i] += w * (g * wl[i] - l[i]);
      r[i] += w * (g * wr[i] - r[i]);
    }
    this.reduction = this.loop.reduction;
  }
  reset(): void {
    this.loop.reset();
    this.dry.reset();
    this.old = null;
  }
}
