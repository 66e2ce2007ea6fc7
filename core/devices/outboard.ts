import { loop as loopPicture } from './pictures/loop.ts';
import { doubles } from './kernels/index.ts';
import { StereoDelay } from './align.ts';
import { Glide, Ramp, dbToGain, smoothing } from './math.ts';
import type { LiveWay } from './live.ts';
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
    'Through a hardware unit and back: ports, levels, measured round trip. Real ports where the browser has them; a simulated unit plays where it has none.',
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
    choice(
      'through',
      'Goes through',
      'Ports',
      [
        { id: 'ports', label: 'Real ports, else simulated' },
        { id: 'silence', label: 'Real ports, else silence' },
        { id: 'simulated', label: 'Always simulated' },
      ],
      'ports',
      { help: 'What sounds where the ports are connected, and where they are not' },
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
      // browsers keep long buffers on a busy machine: what comes back may be a third of a second late
      max: 500,
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
  private readonly simulated: SimulatedWay;
  private readonly real: RealWay;
  private readonly dry: StereoDelay;
  private readonly glide: Glide;
  private readonly wl: Float64Array;
  private readonly wr: Float64Array;
  constructor(
    params: Params,
    private readonly ctx: DeviceContext,
  ) {
    const spec = loopSpec(params);
    this.simulated = new SimulatedWay(spec, ctx);
    this.real = new RealWay(ctx);
    this.dry = new StereoDelay(ctx.sampleRate, ctx.maxBlock);
    this.glide = new Glide(3, smoothing(ctx.sampleRate));
    this.wl = doubles(ctx.maxBlock);
    this.wr = doubles(ctx.maxBlock);
    this.set(params, true);
  }
  set(p: Params, immediate: boolean): void {
    const spec = loopSpec(p);
    this.simulated.set(spec, immediate);
    this.real.set(p, spec);
    this.simulated.turn(this.real.connected || p.through === 'silence' ? 0 : 1, immediate);
    this.dry.set(outboard.latency(p, this.ctx.sampleRate), immediate);
    this.glide.set(
      [dbToGain(p.send as number), dbToGain(p.return as number), (p.mix as number) / 100],
      immediate,
    );
  }
  process(l: Float64Array, r: Float64Array, n: number): void {
    const { wl, wr } = this;
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
    const isThere = this.real.look();
    this.simulated.turn(isThere || this.real.elseSilent ? 0 : 1, false);
    this.real.send(wl, wr, n);
    this.simulated.process(wl, wr, n);
    this.real.add(wl, wr, n);
    this.dry.process(l, r, n);
    for (let i = 0; i < n; i++) {
      const g = start[1] + dr * i;
      const w = start[2] + dm * i;
      l[i] += w * (g * wl[i] - l[i]);
      r[i] += w * (g * wr[i] - r[i]);
    }
    this.reduction = this.simulated.reduction;
  }
  reset(): void {
    this.simulated.reset();
    this.dry.reset();
  }
}

/** seconds in which simulated and real ways give way to each other */
const TURN = 0.02;

/** The units of the loop as they are simulated; others fade in where the old ones were. */
class SimulatedWay {
  private loop: Loop;
  private old: Loop | null = null;
  private fade = 0;
  private readonly fadeLength: number;
  /** how much of it is heard: nothing while real ports sound */
  private readonly heard = new Ramp(1);
  /** samples until the loop is full after a rest */
  private warm = 0;
  private readonly ol: Float64Array;
  private readonly or: Float64Array;
  constructor(
    private spec: LoopSpec,
    private readonly ctx: DeviceContext,
  ) {
    this.loop = new Loop(spec, ctx);
    this.fadeLength = Math.round(ctx.sampleRate * TURN);
    this.ol = doubles(ctx.maxBlock);
    this.or = doubles(ctx.maxBlock);
  }
  set(spec: LoopSpec, immediate: boolean): void {
    if (spec.units !== this.spec.units || spec.line.delay !== this.spec.line.delay) {
      this.old = immediate ? null : this.loop;
      this.loop = new Loop(spec, this.ctx);
      // the old units play until the new ones' loop is full
      this.fade = immediate ? 0 : this.fadeLength + spec.line.delay + 64;
    } else this.loop.set(spec, immediate);
    this.spec = spec;
  }
  /** Lets it be heard (1) or not (0); after a rest it comes in as soon as its loop is full again. */
  turn(to: 0 | 1, immediate: boolean): void {
    if (immediate) {
      this.heard.to(to, 0);
      this.warm = 0;
    } else if (to === 0) {
      this.heard.to(0, this.fadeLength);
      this.warm = 0;
    } else if (this.isStill) {
      this.reset();
      this.warm = this.spec.line.delay + 64;
    } else if (this.warm === 0) this.heard.to(1, this.fadeLength);
  }
  private get isStill(): boolean {
    return this.heard.value === 0 && this.heard.left === 0 && this.warm === 0;
  }
  get reduction(): number {
    return this.isStill ? 0 : this.loop.reduction;
  }
  process(l: Float64Array, r: Float64Array, n: number): void {
    if (this.isStill) {
      l.fill(0, 0, n);
      r.fill(0, 0, n);
      return;
    }
    const { ol, or } = this;
    if (this.old) {
      for (let i = 0; i < n; i++) {
        ol[i] = l[i];
        or[i] = r[i];
      }
      this.old.process(ol, or, n);
    }
    this.loop.process(l, r, n);
    if (this.old) {
      for (let i = 0; i < n; i++) {
        const g = Math.min(1, Math.max(0, this.fade - i) / this.fadeLength);
        l[i] += g * (ol[i] - l[i]);
        r[i] += g * (or[i] - r[i]);
      }
      this.fade -= n;
      if (this.fade <= 0) this.old = null;
    }
    this.heard.scale(l, r, n);
    if (this.warm === 0) return;
    this.warm = Math.max(0, this.warm - n);
    if (this.warm === 0) this.heard.to(1, this.fadeLength);
  }
  reset(): void {
    this.loop.reset();
    this.old = null;
  }
}

/** The real ports of the loop, where the engine plays on an interface that has them. */
class RealWay {
  private way: LiveWay | null = null;
  private names = { send: '', back: '' };
  private correct: LoopSpec['correct'] = {};
  private wanted = true;
  elseSilent = false;
  private readonly heard = new Ramp(0);
  private readonly fadeLength: number;
  private readonly bl: Float64Array;
  private readonly br: Float64Array;
  constructor(private readonly ctx: DeviceContext) {
    this.fadeLength = Math.round(ctx.sampleRate * TURN);
    this.bl = doubles(ctx.maxBlock);
    this.br = doubles(ctx.maxBlock);
  }
  set(p: Params, spec: LoopSpec): void {
    this.names = { send: String(p.sendPort), back: String(p.returnPort) };
    this.wanted = p.through !== 'simulated';
    this.elseSilent = p.through === 'silence';
    this.correct = spec.correct;
  }
  get connected(): boolean {
    const { send, back } = this.names;
    return this.wanted && !!this.ctx.live?.way(send, back);
  }
  /** Looks for the ports: they come and go while the engine plays. */
  look(): boolean {
    if (!this.ctx.live) return false;
    this.way = this.wanted ? this.ctx.live.way(this.names.send, this.names.back) : null;
    this.heard.to(this.way ? 1 : 0, this.fadeLength);
    return this.way !== null;
  }
  send(l: Float64Array, r: Float64Array, n: number): void {
    if (!this.way) return;
    const { out } = this.way;
    if (out.length === 1) for (let i = 0; i < n; i++) out[0][i] += 0.5 * (l[i] + r[i]);
    else {
      for (let i = 0; i < n; i++) {
        out[0][i] += l[i];
        out[1][i] += r[i];
      }
    }
  }
  /** Adds what came back: one channel on both sides. */
  add(l: Float64Array, r: Float64Array, n: number): void {
    if (!this.way) {
      this.heard.advance(n);
      return;
    }
    const { bl, br } = this;
    const { turned, swapped } = this.correct;
    const [left, right] = [this.way.back[0], this.way.back[1] ?? this.way.back[0]];
    const sign = turned ? -1 : 1;
    for (let i = 0; i < n; i++) {
      bl[i] = sign * (swapped ? right : left)[i];
      br[i] = sign * (swapped ? left : right)[i];
    }
    this.heard.scale(bl, br, n);
    for (let i = 0; i < n; i++) {
      l[i] += bl[i];
      r[i] += br[i];
    }
  }
}
