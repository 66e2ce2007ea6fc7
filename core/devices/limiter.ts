import { copy, doubles } from './kernels/index.ts';
import { transfer } from './pictures/transfer.ts';
import { Glide, Ramp, dbToGain, gainToDb, smoothing, tallestOf } from './math.ts';
import { gridOf, type Grid } from './limiting/finder.ts';
import { Pass } from './limiting/pass.ts';
import { AdaptingRelease, PlainRelease, type Release } from './limiting/release.ts';
import { decibels, defineDevice, millis, toggle, type DeviceContext, type Processor } from './spec.ts';
import type { Params } from '../model/types.ts';

/**
 * Brick-wall limiter: the gain that each sample needs, its minimum over the lookahead, an exponential
 * release, then a moving average over the same lookahead, so that the gain arrives smoothly and
 * in time at every peak. In true-peak mode the detector sees the peaks between the samples too, and a second
 * pass of the same kind takes what the moving gain itself brings back.
 */
export const limiter = defineDevice({
  type: 'limiter',
  label: 'Limiter',
  summary:
    'Never lets a peak over its ceiling; threshold raises the level, true-peak mode sees between samples.',
  hasKey: false,
  shares: 'gain',
  keepsMono: true,
  picture: transfer,
  work: 18,
  reduces: true,
  ceiling: { level: (p) => (p.ceiling as number) + outputOf(p), truePeak: 'truePeak' },
  alike: { words: /limit|maxim/i, rank: 3 },
  params: [
    decibels('threshold', 'Threshold', 'Level', -36, 0, -0.5, {
      step: 0.1,
      help: 'This level comes out at the ceiling',
    }),
    decibels('ceiling', 'Ceiling', 'Level', -24, 0, -0.5, { step: 0.1 }),
    decibels('output', 'Output', 'Level', -24, 0, 0, {
      step: 0.1,
      isLater: true,
      help: 'Turns down what comes out, the ceiling with it: for a handle that drives and takes back',
    }),
    millis('release', 'Release', 'Time', 1, 2000, 80),
    {
      id: 'lookahead',
      label: 'Lookahead',
      group: 'Time',
      kind: 'number',
      unit: 'ms',
      min: 0.5,
      max: 10,
      default: 3,
      taper: 'linear',
      step: 0.1,
      help: 'Longer bends the peaks more gently',
    },
    toggle('truePeak', 'True peak', 'Level', true, 'Keeps the peaks between samples under the ceiling'),
  ],
  latency: (p, fs) => delayOf(p, fs, FINE),
  curve: (x, p) =>
    Math.min(x + (p.ceiling as number) - (p.threshold as number), p.ceiling as number) + outputOf(p),
  create: (params, ctx) => new LimiterProcessor(params, ctx, FINE),
  earlier: [
    {
      since:
        'peaks between samples are found wherever they lie, and its release adapts to sustained low notes',
      latency: (p, fs) => delayOf(p, fs, PLAIN),
      create: (params, ctx) => new LimiterProcessor(params, ctx, PLAIN),
      work: 18,
    },
  ],
});

/** How each pass finds peaks, and how the gain comes back. */
interface Way {
  first: Grid;
  second: Grid;
  /** how far under the ceiling the second pass stays, as a gain */
  margin: number;
  release(sampleRate: number): Release;
}
const COARSE = gridOf(4, 12);
/**
 * What the first pass leaves, the second finds up to half the rate: full-band noise stays within 0.2 dB of the ceiling
 * at sixteen times the rate.
 */
const FINE: Way = {
  first: COARSE,
  second: gridOf(8, 64, 2),
  margin: 0.9955,
  release: (fs) => new AdaptingRelease(fs),
};
/** Revision 1: up to 1 dB over it. */
const PLAIN: Way = {
  first: COARSE,
  second: COARSE,
  margin: 0.9985,
  release: (fs) => new PlainRelease(fs),
};

/** dB; documents from before this value was there turn nothing down */
const outputOf = (p: Params): number => (p.output as number | undefined) ?? 0;

const SAFE = 0.99995;
/** A millisecond for the second pass: what is left to take is a fraction of a dB. */
const SECOND_MS = 1;
const MAX_MS = 10;
const windowOf = (ms: number, fs: number) => Math.max(1, Math.round((ms * fs) / 1000));
const SECOND_RELEASE_MS = 30;
/** The same in both modes, so that switching true peak moves nothing in time; both passes wait for their filters. */
const delayOf = (p: Params, fs: number, { first, second }: Way) =>
  windowOf(p.lookahead as number, fs) + windowOf(SECOND_MS, fs) + first.half + second.half;

class LimiterProcessor implements Processor {
  reduction = 0;
  level = -160;
  private readonly drive: Glide;
  private readonly out = new Ramp(1);
  private readonly first: Pass;
  private readonly second: Pass;
  private readonly margin: number;
  private readonly fs: number;
  /** where it works a share of a sum: the whole, whose gain the share gets */
  private readonly wl: Float64Array;
  private readonly wr: Float64Array;
  constructor(params: Params, ctx: DeviceContext, { first, second, margin, release }: Way) {
    this.margin = margin;
    this.wl = doubles(ctx.maxBlock);
    this.wr = doubles(ctx.maxBlock);
    this.fs = ctx.sampleRate;
    this.drive = new Glide(1, smoothing(ctx.sampleRate));
    const pass = (ms: number, grid: Grid) =>
      new Pass({
        maxWindow: windowOf(ms, ctx.sampleRate),
        fade: Math.round(ctx.sampleRate * 0.02),
        maxBlock: ctx.maxBlock,
        grid,
        release: release(ctx.sampleRate),
      });
    this.first = pass(MAX_MS, first);
    this.second = pass(SECOND_MS, second);
    this.set(params, true);
  }
  set(p: Params, immediate: boolean): void {
    // inside, the ceiling is 1: the threshold is a gain before, the ceiling one after, so that moving either
    // is only a gain
    this.drive.set([dbToGain(-(p.threshold as number))], immediate);
    this.out.to(dbToGain((p.ceiling as number) + outputOf(p)), immediate ? 0 : smoothing(this.fs));
    const peak = p.truePeak as boolean;
    this.first.set(windowOf(p.lookahead as number, this.fs), p.release as number, peak, immediate);
    this.second.set(windowOf(SECOND_MS, this.fs), SECOND_RELEASE_MS, peak, immediate);
  }
  process(l: Float64Array, r: Float64Array, n: number, keyL: Float64Array, keyR: Float64Array): void {
    if (keyL === l) this.limit(l, r, n, null, null);
    else {
      copy(this.wl, 0, keyL, 0, n);
      copy(this.wr, 0, keyR, 0, n);
      this.limit(this.wl, this.wr, n, l, r);
    }
  }
  processOne(l: Float64Array, r: Float64Array, n: number): void {
    this.limit(l, null, n, null, null);
    copy(r, 0, l, 0, n);
  }
  twin(): void {
    this.first.twin();
    this.second.twin();
  }
  /** Limits l and r (null: both sides are one); shareL and shareR, a part of them, get the same gain at every moment. */
  private limit(
    l: Float64Array,
    r: Float64Array | null,
    n: number,
    shareL: Float64Array | null,
    shareR: Float64Array | null,
  ): void {
    this.level = gainToDb(r ? Math.max(tallestOf(l, n), tallestOf(r, n)) : tallestOf(l, n));
    this.raise(l, r, shareL, shareR, n);
    // a touch under, so that rounding on the way to a file stays under it too
    const first = this.first.process(l, r, n, SAFE, shareL, shareR);
    const least = first * this.second.process(l, r, n, SAFE * this.margin, shareL, shareR);
    this.reduction = gainToDb(least);
    // the last word: no sample leaves over the ceiling, whatever happened before
    cap(l, n);
    if (r) cap(r, n);
    if (shareL && shareR) this.out.scale(shareL, shareR, n);
    else this.out.scale(l, r ?? this.wr, n);
  }
  /** What the threshold asks for. */
  private raise(
    l: Float64Array,
    r: Float64Array | null,
    shareL: Float64Array | null,
    shareR: Float64Array | null,
    n: number,
  ): void {
    let at = 0;
    const v = this.drive.now;
    while (at < n) {
      const m = this.drive.span(n - at);
      const step = this.drive.slope(0);
      climb(l, at, m, v[0], step);
      if (r) climb(r, at, m, v[0], step);
      if (shareL) climb(shareL, at, m, v[0], step);
      if (shareR) climb(shareR, at, m, v[0], step);
      this.drive.advance(m);
      at += m;
    }
  }
  reset(): void {
    this.first.reset();
    this.second.reset();
  }
}

/** x times a gain that grows by a step each sample. */
function climb(x: Float64Array, at: number, n: number, gain: number, step: number): void {
  for (let i = at; i < at + n; i++, gain += step) x[i] *= gain;
}

function cap(x: Float64Array, n: number): void {
  for (let i = 0; i < n; i++) {
    if (x[i] > SAFE) x[i] = SAFE;
    else if (x[i] < -SAFE) x[i] = -SAFE;
  }
}
