import { loop as loopPicture } from './pictures/loop.ts';
import { doubles } from './kernels/index.ts';
import { StereoDelay } from './align.ts';
import { Glide, dbToGain, smoothing } from './math.ts';
import {
  choice,
  decibels,
  defineDevice,
  percent,
  words,
  type DeviceContext,
  type Processor,
} from './spec.ts';
import { Loop, loopOf, loopSpec, type LoopSpec } from './units/loop.ts';
import type { Params } from '../model/types.ts';

/**
 * A loop through hardware: out of a port, through the units of a studio as their panels stand, back in at another
 * port. Where no hardware is, simulated units take their place, with the delay that such a loop has (converters and
 * buffers), so that the round trip has to be measured as with the real thing. The measured round trip is the device's
 * latency; when it is wrong the loop is early or late, as it would be.
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
  },
  params: [
    words('sendPort', 'Send port', 'Ports', 'Out 7/8'),
    words('returnPort', 'Return port', 'Ports', 'In 7/8'),
    choice(
      'unit',
      'Without a unit',
      'Ports',
      [
        { id: 'wire', label: 'Cable (simulated)' },
        { id: 'compressor', label: 'Outboard compressor (simulated)' },
        { id: 'spring', label: 'Spring reverb (simulated)' },
      ],
      'compressor',
      { help: 'What sounds as long as no unit of a studio is chosen' },
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
  running: (d) => (d.hardware ? loopOf(d.params, d.hardware) : d.params),
  create: (params, ctx) => new OutboardProcessor(params, ctx),
});

class OutboardProcessor implements Processor {
  reduction = 0;
  level = -160;
  private spec: LoopSpec;
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
    this.spec = loopSpec(params);
    this.loop = new Loop(this.spec, ctx);
    this.dry = new StereoDelay(ctx.sampleRate, ctx.maxBlock);
    this.glide = new Glide(3, smoothing(ctx.sampleRate));
    this.fadeLength = Math.round(ctx.sampleRate * 0.02);
    [this.wl, this.wr, this.ol, this.or] = [0, 1, 2, 3].map(() => doubles(ctx.maxBlock));
    this.set(params, true);
  }
  set(p: Params, immediate: boolean): void {
    const spec = loopSpec(p);
    if (spec.units !== this.spec.units || spec.line.delay !== this.spec.line.delay) {
      this.old = immediate ? null : this.loop;
      this.loop = new Loop(spec, this.ctx);
      // the old units play until the new ones' loop is full
      this.fade = immediate ? 0 : this.fadeLength + spec.line.delay + 64;
    } else this.loop.set(spec, immediate);
    this.spec = spec;
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
