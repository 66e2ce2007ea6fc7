import { decay as decayPicture } from './pictures/decay.ts';
import { doubles } from './kernels/index.ts';
import { Cascade, cookbook, firstOrder } from './biquad.ts';
import { StereoDelay } from './align.ts';
import { Ramp, smoothing } from './math.ts';
import { choice, defineDevice, hertz, percent, type DeviceContext, type Processor } from './spec.ts';
import type { Params } from '../model/types.ts';
import { EightLines } from './reverb/eight-lines.ts';
import type { Network, RoomType } from './reverb/network.ts';
import { Scattering } from './reverb/scattering.ts';

/** Pre-delay, cuts and a network that makes the space (see reverb/scattering.ts), with its width and its mix. */
export const reverb = defineDevice({
  type: 'reverb',
  label: 'Reverb',
  summary: 'Room, hall, plate or chamber; decay at 1 kHz, damping, pre-delay, cuts, width, mix.',
  hasKey: false,
  shares: 'linear',
  makesSides: true,
  picture: decayPicture,
  work: 33,
  wet: 'mix',
  character: (d) => `${String(d.params.type)} reverb`,
  alike: { words: /verb|plate|hall|room|chamber/i, rank: 8 },
  params: [
    choice(
      'type',
      'Type',
      'Space',
      [
        { id: 'room', label: 'Room' },
        { id: 'hall', label: 'Hall' },
        { id: 'plate', label: 'Plate' },
        { id: 'chamber', label: 'Chamber' },
      ],
      'plate',
    ),
    {
      id: 'preDelay',
      label: 'Pre-delay',
      group: 'Space',
      kind: 'number',
      unit: 'ms',
      min: 0,
      max: 250,
      default: 10,
      taper: 'square',
      step: 0.1,
    },
    {
      id: 'decay',
      label: 'Decay',
      group: 'Space',
      kind: 'number',
      unit: 's',
      min: 0.1,
      max: 12,
      default: 1.6,
      taper: 'log',
      step: 0.01,
      help: 'RT60 at 1 kHz',
    },
    percent('damping', 'Damping', 'Tone', 0, 100, 40, {
      step: 1,
      help: '0 %: 8 kHz decays as slowly as 1 kHz; 100 %: ten times faster, as far as the space’s echoes allow',
    }),
    hertz('lowCut', 'Low cut', 'Tone', 16, 2000, 120),
    hertz('highCut', 'High cut', 'Tone', 500, 24000, 12000),
    percent('width', 'Width', 'Output', 0, 100, 100, { step: 1 }),
    percent('mix', 'Mix', 'Output', 0, 100, 100, { step: 1 }),
  ],
  latency: () => 0,
  create: (params, ctx) => new ReverbProcessor(params, ctx, (type, fs) => new Scattering(type, fs)),
  earlier: [
    {
      since:
        'early reflections, a tail that is dense at once and does not ring, highs that decay as stated, and a level that stays when the decay is changed',
      create: (params, ctx) => new ReverbProcessor(params, ctx, (type, fs) => new EightLines(type, fs)),
      work: 33,
    },
  ],
});

class ReverbProcessor implements Processor {
  reduction = 0;
  level = -160;
  private net: Network;
  private old: Network | null = null;
  private fade = 0;
  private readonly fadeLength: number;
  private readonly pre: StereoDelay;
  private readonly tone: Cascade;
  private readonly mix = new Ramp(0);
  /** what enters a network that has just been put in */
  private readonly rise = new Ramp(1);
  private readonly width = new Ramp(0);
  private readonly wl: Float64Array;
  private readonly wr: Float64Array;
  private readonly ol: Float64Array;
  private readonly or: Float64Array;

  constructor(
    params: Params,
    private readonly ctx: DeviceContext,
    private readonly make: (type: RoomType, sampleRate: number) => Network,
  ) {
    this.wl = doubles(ctx.maxBlock);
    this.wr = doubles(ctx.maxBlock);
    this.ol = doubles(ctx.maxBlock);
    this.or = doubles(ctx.maxBlock);
    this.pre = new StereoDelay(ctx.sampleRate, ctx.maxBlock);
    this.tone = new Cascade(2, ctx.sampleRate);
    this.fadeLength = Math.round(ctx.sampleRate * 0.1);
    this.net = make(params.type as RoomType, ctx.sampleRate);
    this.set(params, true);
  }

  set(p: Params, immediate: boolean): void {
    const fs = this.ctx.sampleRate;
    const glide = immediate ? 0 : smoothing(fs);
    if (p.type !== this.net.type) {
      // another space is another network: the old one rings on while it fades
      this.old = immediate ? null : this.net;
      this.fade = immediate ? 0 : this.fadeLength;
      this.net = this.make(p.type as RoomType, fs);
      this.net.set(p, true);
      this.rise.to(0, 0);
      this.rise.to(1, immediate ? 0 : smoothing(fs));
    } else this.net.set(p, immediate);
    this.pre.set(Math.round(((p.preDelay as number) * fs) / 1000), immediate);
    this.tone.set(
      [
        cookbook('highPass', p.lowCut as number, 0, Math.SQRT1_2, fs),
        firstOrder('lowPass', p.highCut as number, fs),
      ],
      immediate,
    );
    this.mix.to((p.mix as number) / 100, glide);
    this.width.to((p.width as number) / 100, glide);
  }

  process(l: Float64Array, r: Float64Array, n: number): void {
    const wl = this.wl;
    const wr = this.wr;
    for (let i = 0; i < n; i++) {
      wl[i] = l[i];
      wr[i] = r[i];
    }
    this.pre.process(wl, wr, n);
    this.tone.process(wl, wr, n);
    if (this.old) {
      const ol = this.ol;
      const or = this.or;
      for (let i = 0; i < n; i++) {
        ol[i] = wl[i];
        or[i] = wr[i];
      }
      this.old.process(ol, or, n);
      this.rise.scale(wl, wr, n);
      this.net.process(wl, wr, n);
      for (let i = 0; i < n; i++) {
        const g = Math.max(0, this.fade - i) / this.fadeLength;
        wl[i] += g * ol[i];
        wr[i] += g * or[i];
      }
      this.fade -= n;
      if (this.fade <= 0) this.old = null;
    } else this.net.process(wl, wr, n);
    let at = 0;
    while (at < n) {
      const m = this.mix.left || this.width.left ? Math.min(4, n - at) : n - at;
      const wet = this.mix.value;
      const dry = 1 - wet;
      const w = this.width.value;
      for (let i = at; i < at + m; i++) {
        const mid = (wl[i] + wr[i]) * 0.5;
        const side = (wl[i] - wr[i]) * 0.5 * w;
        l[i] = dry * l[i] + wet * (mid + side);
        r[i] = dry * r[i] + wet * (mid - side);
      }
      this.mix.advance(m);
      this.width.advance(m);
      at += m;
    }
  }

  reset(): void {
    this.net.reset();
    this.pre.reset();
    this.tone.reset();
    this.old = null;
    this.fade = 0;
  }
}
