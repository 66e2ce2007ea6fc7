import { transfer } from './pictures/transfer.ts';
import { Cascade, cookbook } from './biquad.ts';
import { StereoDelay } from './align.ts';
import { DB_PER_OCTAVE, Ramp, exp2, log2, poleFor, smoothing } from './math.ts';
import {
  choice,
  decibels,
  defineDevice,
  hertz,
  millis,
  percent,
  toggle,
  type DeviceContext,
  type Processor,
} from './spec.ts';
import { CEILING, FLOOR, K1, K2, LK, MK, MX, S, T, W, doubles, envelope, linked } from './kernels/index.ts';
import { ENVELOPE_STATE } from './kernels/envelope.ts';
import type { Params } from '../model/types.ts';
import { square } from '../model/power.ts';

/**
 * Feed-forward compressor: soft-knee static curve and smoothed branching ballistics in the log domain, after
 * D. Giannoulis, M. Massberg, J. Reiss,
 * "Digital Dynamic Range Compressor Design", JAES 60(6), 2012, eq. 4 and 16; attack and release are time
 * constants (63 % of the way).
 */
export const compressor = defineDevice({
  type: 'compressor',
  label: 'Compressor',
  summary: 'Threshold, ratio to ∞, knee, lookahead, peak or RMS, stereo link, key with filters, mix.',
  hasKey: true,
  keepsMono: true,
  shares: 'gain',
  sharesWith: (p) => p.listen !== true,
  picture: transfer,
  work: 1.3,
  reduces: true,
  alike: { words: /comp|level(l)?er|squash|squeeze/i, rank: 4 },
  params: [
    decibels('threshold', 'Threshold', 'Curve', -60, 0, -18, { step: 0.1 }),
    {
      id: 'ratio',
      label: 'Ratio',
      group: 'Curve',
      kind: 'number',
      unit: ':1',
      min: 1,
      max: 100,
      default: 3,
      taper: 'log',
      step: 0.1,
      help: '100 and “inf” stand for ∞:1',
    },
    decibels('knee', 'Knee', 'Curve', 0, 24, 6, { step: 0.1 }),
    millis('attack', 'Attack', 'Time', 0.01, 250, 10),
    millis('release', 'Release', 'Time', 1, 4000, 120, { tempoBound: true }),
    {
      id: 'lookahead',
      label: 'Lookahead',
      group: 'Time',
      kind: 'number',
      unit: 'ms',
      min: 0,
      max: 20,
      default: 0,
      taper: 'linear',
      step: 0.1,
    },
    choice(
      'detector',
      'Detector',
      'Detector',
      [
        { id: 'peak', label: 'Peak' },
        { id: 'rms', label: 'RMS' },
      ],
      'peak',
      { help: 'RMS averages over 10 ms' },
    ),
    percent('link', 'Stereo link', 'Detector', 0, 100, 100, { step: 1 }),
    toggle('keyFilter', 'Key filter', 'Key', false),
    hertz('keyLow', 'Key high-pass', 'Key', 16, 10000, 80),
    hertz('keyHigh', 'Key low-pass', 'Key', 40, 24000, 12000),
    toggle('listen', 'Listen to key', 'Key', false),
    decibels('makeup', 'Makeup', 'Output', -12, 36, 0, { step: 0.1 }),
    percent('mix', 'Mix', 'Output', 0, 100, 100, { step: 1 }),
  ],
  listed: (p, id) => p.keyFilter === true || !['keyLow', 'keyHigh', 'listen'].includes(id),
  latency: (p, fs) => Math.round(((p.lookahead as number) * fs) / 1000),
  curve: (x, p) => staticCurve(x, p) + (p.makeup as number),
  create: (params, ctx) => new CompressorProcessor(params, ctx),
  earlier: [
    {
      since:
        'a fast attack follows the size of a tone in place of each of its swings, and leaves no tones beside it',
      create: (params, ctx) => new CompressorProcessor(params, ctx, 'swings'),
      differs: isFast,
    },
    {
      since: 'a fast attack with a release of a few milliseconds leaves no tones beside a high one, either',
      create: (params, ctx) => new CompressorProcessor(params, ctx, 'size'),
      differs: (p) => isFast(p) && isShort(p),
    },
  ],
});

/** ms: an attack under this would follow the swings of a tone themselves, and what they are at the samples by chance */
const FAST_MS = 5;
function isFast(p: Params): boolean {
  return p.detector === 'peak' && (p.attack as number) < FAST_MS;
}

/** ms: a release under this would follow what is left of the swings in the size of a tone */
const SHORT_MS = 8;
const isShort = (p: Params): boolean => (p.release as number) < SHORT_MS;
/** What a fast attack follows: the swings of a tone, its size, or that of two samples where the release is short. */
type Follows = 'swings' | 'size' | 'mean';

/**
 * Static curve (eq. 4): the output level in dB for an input level in dB, without makeup.
 * @example staticCurve(-8, { threshold: -20, ratio: 4, knee: 0 }) === -17
 */
export function staticCurve(x: number, p: Params): number {
  const [t, w] = [p.threshold as number, p.knee as number];
  const slope = slopeOf(p.ratio as number);
  const over = x - t;
  if (2 * over < -w) return x;
  if (w > 0 && 2 * Math.abs(over) <= w) return x - (slope * square(over + w / 2)) / (2 * w);
  return x - slope * over;
}

/** 1 − 1/ratio; 100 and more stand for ∞. */
const slopeOf = (ratio: number) => (ratio >= 100 ? 1 : 1 - 1 / ratio);

// abs and sqrt are single instructions when taken from the global object once
const { abs, max, sqrt } = Math;
const RMS_MS = 10;

class CompressorProcessor implements Processor {
  reduction = 0;
  level = -160;
  private readonly now = doubles(8);
  private readonly goal = new Float64Array(8);
  private readonly delta = new Float64Array(8);
  private left = 0;
  /** smoothed reduction (log2 units, ≥ 0) left and right, mean squares left and right */
  private readonly state = doubles(4);
  private readonly report = doubles(2);
  private readonly detL: Float64Array;
  private readonly detR: Float64Array;
  private readonly work: Float64Array;
  private readonly size = doubles(ENVELOPE_STATE);
  private sizes = false;
  private means = false;
  /** the last sizes, left and right */
  private readonly last = new Float64Array(2);
  private readonly filter: Cascade;
  private readonly ahead: StereoDelay;
  private readonly listen = new Ramp(0);
  private readonly glide: number;
  private rms = false;
  private filtered = false;
  private readonly average: number;

  constructor(
    params: Params,
    private readonly ctx: DeviceContext,
    private readonly follows: Follows = 'mean',
  ) {
    this.detL = doubles(ctx.maxBlock);
    this.detR = doubles(ctx.maxBlock);
    this.work = doubles(ctx.maxBlock + 4);
    this.filter = new Cascade(2, ctx.sampleRate);
    this.ahead = new StereoDelay(ctx.sampleRate, ctx.maxBlock);
    this.glide = smoothing(ctx.sampleRate);
    this.average = poleFor(RMS_MS, ctx.sampleRate);
    this.set(params, true);
  }

  set(p: Params, immediate: boolean): void {
    const fs = this.ctx.sampleRate;
    const a = poleFor(p.attack as number, fs);
    const r = poleFor(p.release as number, fs);
    const g = this.goal;
    g[T] = (p.threshold as number) / DB_PER_OCTAVE;
    g[W] = (p.knee as number) / DB_PER_OCTAVE;
    g[S] = slopeOf(p.ratio as number);
    g[K1] = (a + r) / 2;
    g[K2] = (a - r) / 2;
    g[MK] = (p.makeup as number) / DB_PER_OCTAVE;
    g[MX] = (p.mix as number) / 100;
    g[LK] = (p.link as number) / 100;
    if (immediate) {
      this.now.set(g);
      this.left = 0;
    } else {
      this.left = this.glide;
      for (let k = 0; k < 8; k++) this.delta[k] = (g[k] - this.now[k]) / this.glide;
    }
    const sizes = this.follows !== 'swings' && isFast(p);
    if (sizes && !this.sizes) this.size.fill(0);
    this.sizes = sizes;
    this.means = sizes && this.follows === 'mean' && isShort(p);
    this.rms = p.detector === 'rms';
    this.filtered = p.keyFilter as boolean;
    this.filter.set(
      this.filtered
        ? [
            cookbook('highPass', p.keyLow as number, 0, Math.SQRT1_2, fs),
            cookbook('lowPass', p.keyHigh as number, 0, Math.SQRT1_2, fs),
          ]
        : [],
      immediate,
    );
    this.ahead.set(compressor.latency(p, fs), immediate);
    this.listen.to(p.listen ? 1 : 0, immediate ? 0 : this.glide);
  }

  process(l: Float64Array, r: Float64Array, n: number, keyL: Float64Array, keyR: Float64Array): void {
    let dl = keyL;
    let dr = keyR;
    const listening = this.listen.value > 0 || this.listen.left > 0;
    if (this.filtered || this.filter.moving || listening || this.sizes || !this.ahead.idle) {
      // the detector keeps its own copy only where something below would change the key first
      dl = this.detL;
      dr = this.detR;
      for (let i = 0; i < n; i++) {
        dl[i] = keyL[i];
        dr[i] = keyR[i];
      }
      this.filter.process(dl, dr, n);
    }
    // the key itself is listened to, not its size
    if (this.sizes && !listening) {
      envelope(dl, dr, n, this.size);
      if (this.means) this.mean(dl, 0, n);
      if (this.means) this.mean(dr, 1, n);
    }
    this.ahead.process(l, r, n);
    this.report[0] = 0;
    this.report[1] = FLOOR;
    let at = 0;
    while (at < n) {
      const m = this.left > 0 ? Math.min(8, this.left, n - at) : n - at;
      if (this.left > 0) {
        for (let k = 0; k < 8; k++) this.now[k] += this.delta[k] * m;
        this.left -= m;
        if (this.left === 0) this.now.set(this.goal);
      }
      if (this.now[LK] === 1) {
        linked(
          l,
          r,
          dl,
          dr,
          at,
          at + m,
          this.now,
          this.state,
          this.report,
          this.rms ? this.average : 0,
          this.work,
        );
      } else {
        unlinked(l, r, dl, dr, at, at + m, this.now, this.state, this.report, this.rms ? this.average : 0);
      }
      at += m;
    }
    if (listening) this.listenTo(l, r, dl, dr, 0, n);
    for (let k = 0; k < 4; k++) if (this.state[k] < 1e-30) this.state[k] = 0;
    this.reduction = -this.report[0] * DB_PER_OCTAVE;
    this.level = Math.log2(this.report[1]) * DB_PER_OCTAVE;
  }

  /** Sizes become those of two samples: what is left of the swings of a high tone alternates from one to the next. */
  private mean(x: Float64Array, side: 0 | 1, n: number): void {
    let before = this.last[side];
    for (let i = 0; i < n; i++) {
      const now = x[i];
      x[i] = 0.5 * (now + before);
      before = now;
    }
    this.last[side] = before;
  }

  private listenTo(
    l: Float64Array,
    r: Float64Array,
    dl: Float64Array,
    dr: Float64Array,
    from: number,
    to: number,
  ): void {
    for (let i = from; i < to; i++) {
      const g = this.listen.value;
      l[i] += g * (dl[i] - l[i]);
      r[i] += g * (dr[i] - r[i]);
      this.listen.advance(1);
    }
  }

  reset(): void {
    this.state.fill(0);
    this.size.fill(0);
    this.last.fill(0);
    this.filter.reset();
    this.ahead.reset();
  }
}

/** Each channel has its own gain; `link` moves each detector towards the louder of the two. */
function unlinked(
  l: Float64Array,
  r: Float64Array,
  dl: Float64Array,
  dr: Float64Array,
  from: number,
  to: number,
  v: Float64Array,
  s: Float64Array,
  report: Float64Array,
  kr: number,
): void {
  const t = v[T];
  const half = v[W] / 2;
  const slope = v[S];
  const k1 = v[K1];
  const k2 = v[K2];
  const mk = v[MK];
  const mix = v[MX];
  const dry = 1 - v[MX];
  const link = v[LK];
  const bend = half > 1e-6 ? slope / (4 * half) : 0;
  const curve = (over: number) => {
    if (over <= -half) return 0;
    if (over >= half) return slope * over;
    return bend * (over + half) * (over + half);
  };
  for (let i = from; i < to; i++) {
    let a = Math.min(CEILING, abs(dl[i]));
    let b = Math.min(CEILING, abs(dr[i]));
    if (kr > 0) {
      s[2] += kr * (a * a - s[2]);
      s[3] += kr * (b * b - s[3]);
      a = sqrt(s[2]);
      b = sqrt(s[3]);
    }
    const top = max(a, b, FLOOR);
    if (top > report[1]) report[1] = top;
    const da = curve(log2(max(FLOOR, a + link * (top - a))) - t) - s[0];
    const db = curve(log2(max(FLOOR, b + link * (top - b))) - t) - s[1];
    s[0] += k1 * da + k2 * abs(da);
    s[1] += k1 * db + k2 * abs(db);
    report[0] = max(report[0], s[0], s[1]);
    l[i] *= dry + mix * exp2(mk - s[0]);
    r[i] *= dry + mix * exp2(mk - s[1]);
  }
}
