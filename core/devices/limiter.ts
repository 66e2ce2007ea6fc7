import { copy, doubles } from './kernels/index.ts';
import { transfer } from './pictures/transfer.ts';
import { Glide, Ramp, dbToGain, gainToDb, poleFor, smoothing } from './math.ts';
import { ANNEX_FILTER, ANNEX_TAPS, PEAK_FILTER, PEAK_HALF, PEAK_NORM } from './interpolate.ts';
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
  latency: (p, fs) => delayOf(p, fs),
  curve: (x, p) =>
    Math.min(x + (p.ceiling as number) - (p.threshold as number), p.ceiling as number) + outputOf(p),
  create: (params, ctx) => new LimiterProcessor(params, ctx),
});

/** dB; documents from before this value was there turn nothing down */
const outputOf = (p: Params): number => (p.output as number | undefined) ?? 0;

const SAFE = 0.99995;
/** A millisecond for the second pass: what is left to take is a fraction of a dB. */
const SECOND_MS = 1;
const MAX_MS = 10;
const windowOf = (ms: number, fs: number) => Math.max(1, Math.round((ms * fs) / 1000));
/** Delay of the peak filter in samples. */
const PEAK_DELAY = PEAK_HALF;
/** The same in both modes, so that switching true peak moves nothing in time. */
const delayOf = (p: Params, fs: number) =>
  windowOf(p.lookahead as number, fs) + windowOf(SECOND_MS, fs) + 2 * PEAK_DELAY;

class LimiterProcessor implements Processor {
  reduction = 0;
  level = -160;
  private readonly drive: Glide;
  private readonly out = new Ramp(1);
  private readonly first: Stage;
  private readonly second: Stage;
  private readonly fs: number;
  /** where it works a share of a sum: the whole, whose gain the share gets */
  private readonly wl: Float64Array;
  private readonly wr: Float64Array;
  constructor(params: Params, ctx: DeviceContext) {
    this.wl = doubles(ctx.maxBlock);
    this.wr = doubles(ctx.maxBlock);
    this.fs = ctx.sampleRate;
    this.drive = new Glide(1, smoothing(ctx.sampleRate));
    const fade = Math.round(ctx.sampleRate * 0.02);
    this.first = new Stage(windowOf(MAX_MS, ctx.sampleRate), fade);
    this.second = new Stage(windowOf(SECOND_MS, ctx.sampleRate), fade);
    this.set(params, true);
  }
  set(p: Params, immediate: boolean): void {
    // inside, the ceiling is 1: the threshold is a gain before, the ceiling one after, so that moving either
    // is only a gain
    this.drive.set([dbToGain(-(p.threshold as number))], immediate);
    this.out.to(dbToGain((p.ceiling as number) + outputOf(p)), immediate ? 0 : smoothing(this.fs));
    const peak = p.truePeak as boolean;
    this.first.set(
      windowOf(p.lookahead as number, this.fs),
      poleFor(p.release as number, this.fs),
      peak,
      immediate,
    );
    this.second.set(windowOf(SECOND_MS, this.fs), poleFor(30, this.fs), peak, immediate);
  }
  process(l: Float64Array, r: Float64Array, n: number, keyL: Float64Array, keyR: Float64Array): void {
    if (keyL === l) this.limit(l, r, n, null, null);
    else {
      copy(this.wl, 0, keyL, 0, n);
      copy(this.wr, 0, keyR, 0, n);
      this.limit(this.wl, this.wr, n, l, r);
    }
  }
  /** Limits l and r; shareL and shareR, a part of them, get the same gain at every moment. */
  private limit(
    l: Float64Array,
    r: Float64Array,
    n: number,
    shareL: Float64Array | null,
    shareR: Float64Array | null,
  ): void {
    let top = 0;
    let at = 0;
    const v = this.drive.now;
    while (at < n) {
      const m = this.drive.span(n - at);
      let g = v[0];
      const dg = this.drive.slope(0);
      for (let i = at; i < at + m; i++) {
        const a = Math.abs(l[i]);
        const b = Math.abs(r[i]);
        if (a > top) top = a;
        if (b > top) top = b;
        l[i] *= g;
        r[i] *= g;
        if (shareL && shareR) {
          shareL[i] *= g;
          shareR[i] *= g;
        }
        g += dg;
      }
      this.drive.advance(m);
      at += m;
    }
    // a touch under, so that rounding on the way to a file stays under it too
    const first = this.first.process(l, r, n, SAFE, shareL, shareR);
    const least = first * this.second.process(l, r, n, SAFE * 0.9985, shareL, shareR);
    // the last word: no sample leaves over the ceiling, whatever happened before
    for (let i = 0; i < n; i++) {
      if (l[i] > SAFE) l[i] = SAFE;
      else if (l[i] < -SAFE) l[i] = -SAFE;
      if (r[i] > SAFE) r[i] = SAFE;
      else if (r[i] < -SAFE) r[i] = -SAFE;
    }
    if (shareL && shareR) this.out.scale(shareL, shareR, n);
    else this.out.scale(l, r, n);
    this.level = gainToDb(top);
    this.reduction = gainToDb(least);
  }
  reset(): void {
    this.first.reset();
    this.second.reset();
  }
}

/**
 * One pass: needed gain → minimum over the window → release → mean over the window → multiply the delayed
 * sound.
 */
class Stage {
  private readonly ring: Float64Array;
  private readonly ringR: Float64Array;
  /** the share that gets the same gain, where there is one */
  private share: { l: Float64Array; r: Float64Array } | null = null;
  private readonly mask: number;
  /** monotonic queue of the minimum: gains and the times they came */
  private readonly qg: Float64Array;
  private readonly qt: Float64Array;
  private head = 0;
  private tail = 0;
  /** released gains over the window, and their sum */
  private readonly mean: Float64Array;
  private sum: number;
  private hold = 1;
  private t = 0;
  private window: number;
  private release = 1;
  private peak = false;
  private hot = 0;
  /**
   * the window before the last change, its sum of gains, how many frames its fade still takes, and the window
   * that is asked for
   */
  private oldWindow = 1;
  private oldSum = 1;
  private fade = 0;
  private wanted = 1;

  constructor(
    maxWindow: number,
    private readonly fadeLength: number,
  ) {
    let size = 256;
    while (size < maxWindow + PEAK_DELAY * 2 + 64) size *= 2;
    this.ring = new Float64Array(size);
    this.ringR = new Float64Array(size);
    this.mask = size - 1;
    this.qg = new Float64Array(size);
    this.qt = new Float64Array(size);
    this.mean = new Float64Array(size).fill(1);
    this.window = this.wanted = maxWindow;
    this.sum = maxWindow;
  }

  set(window: number, release: number, peak: boolean, immediate: boolean): void {
    this.release = release;
    this.peak = peak;
    if (window === this.window) {
      this.wanted = window;
      return;
    }
    // a change waits for the one before it to have faded over
    this.wanted = window;
    if (immediate) {
      this.window = this.oldWindow = window;
      this.fade = 0;
      this.sum = this.over(window);
    } else if (this.fade === 0) this.turn();
  }

  private turn(): void {
    this.oldWindow = this.window;
    this.oldSum = this.sum;
    this.window = this.wanted;
    this.sum = this.over(this.window);
    this.fade = this.fadeLength;
  }

  /** Sum of the released gains over the last so many samples. */
  private over(window: number): number {
    let s = 0;
    for (let k = 1; k <= window; k++) s += this.mean[(this.t - k) & this.mask];
    return s;
  }

  /** @returns the deepest gain */
  process(
    l: Float64Array,
    r: Float64Array,
    n: number,
    ceiling: number,
    shareL: Float64Array | null,
    shareR: Float64Array | null,
  ): number {
    const share = shareL
      ? (this.share ??= { l: this.ring.slice().fill(0), r: this.ring.slice().fill(0) })
      : null;
    const { ring, ringR, mask, qg, qt, mean, window, release, peak, oldWindow, fadeLength } = this;
    const delay = window + PEAK_DELAY;
    const safe = ceiling / PEAK_NORM;
    let { head, tail, sum, hold, t, hot, fade, oldSum } = this;
    let least = 1;
    for (let i = 0; i < n; i++) {
      const x = l[i];
      const y = r[i];
      ring[t & mask] = x;
      ringR[t & mask] = y;
      if (share) {
        share.l[t & mask] = shareL![i];
        share.r[t & mask] = shareR![i];
      }
      // interpolated peaks can only be over the ceiling while a sample over ceiling ÷ the filter's norm is
      // within the filter
      if (x > safe || x < -safe || y > safe || y < -safe) hot = PEAK_HALF * 2 + 1;
      else if (hot > 0) hot--;
      const c = (t - PEAK_DELAY) & mask;
      let p = ring[c] < 0 ? -ring[c] : ring[c];
      const b = ringR[c] < 0 ? -ringR[c] : ringR[c];
      if (b > p) p = b;
      if (peak && hot > 0) p = between(ring, ringR, t, mask, p);
      const need = p > ceiling ? ceiling / p : 1;
      // sliding minimum over the window and one sample to either side of it: a peak between two samples needs
      // both
      while (tail > head && qg[(tail - 1) & mask] >= need) tail--;
      qg[tail & mask] = need;
      qt[tail & mask] = t;
      tail++;
      while (qt[head & mask] < t - window - 1) head++;
      const low = qg[head & mask];
      hold = low < hold ? low : hold + release * (low - hold);
      if (hold > 0.9999999) hold = 1;
      sum += hold - mean[(t - window) & mask];
      mean[t & mask] = hold;
      let g = sum / window;
      if (g > 1) g = 1;
      if (g < least) least = g;
      const a = (t - delay) & mask;
      let u = ring[a] * g;
      let v = ringR[a] * g;
      let su = share ? share.l[a] * g : 0;
      let sv = share ? share.r[a] * g : 0;
      if (fade > 0) {
        oldSum += hold - mean[(t - oldWindow) & mask];
        const w = fade / fadeLength;
        const o = (t - oldWindow - PEAK_DELAY) & mask;
        const q = oldSum / oldWindow;
        u += w * (ring[o] * q - u);
        v += w * (ringR[o] * q - v);
        if (share) {
          su += w * (share.l[o] * q - su);
          sv += w * (share.r[o] * q - sv);
        }
        fade--;
      }
      l[i] = u;
      r[i] = v;
      if (share) {
        shareL![i] = su;
        shareR![i] = sv;
      }
      t++;
    }
    this.head = head;
    this.tail = tail;
    this.hold = hold;
    this.hot = hot;
    this.fade = fade;
    this.oldSum = oldSum;
    this.t = t;
    // the running sum is made anew once a block: it would drift
    this.sum = this.over(window);
    if (fade === 0 && this.wanted !== window) this.turn();
    if (t > 0x3fffffff) this.rewind();
    return Math.max(least, 1e-6);
  }

  /** Brings the clock back by whole rings, so that indices stay small integers. */
  private rewind(): void {
    const by = this.t - (this.t & this.mask) - (this.mask + 1);
    this.t -= by;
    for (let k = this.head; k < this.tail; k++) this.qt[k & this.mask] -= by;
    const shift = this.head & ~this.mask;
    this.head -= shift;
    this.tail -= shift;
  }

  reset(): void {
    this.ring.fill(0);
    this.ringR.fill(0);
    this.share?.l.fill(0);
    this.share?.r.fill(0);
    this.mean.fill(1);
    this.head = this.tail = 0;
    this.sum = this.window;
    this.hold = 1;
    this.hot = 0;
  }
}

/** Greatest magnitude between the sample at t − 12 and its next neighbour, at least p. */
function between(l: Float64Array, r: Float64Array, t: number, mask: number, p: number): number {
  // the filter's taps stand for samples −11 … +12 around the place
  const from = t - PEAK_DELAY - PEAK_HALF + 1;
  for (let k = 1; k < 4; k++) {
    const h = PEAK_FILTER[k];
    let a = 0;
    let b = 0;
    for (let j = 0; j < PEAK_HALF * 2; j++) {
      const i = (from + j) & mask;
      a += h[j] * l[i];
      b += h[j] * r[i];
    }
    if (a < 0) a = -a;
    if (b < 0) b = -b;
    if (a > p) p = a;
    if (b > p) p = b;
  }
  // the same place by the letter of BS.1770, whose filter reaches from 5 samples before to 6 behind
  const first = t - PEAK_DELAY + ANNEX_TAPS / 2;
  for (let k = 0; k < 4; k++) {
    const h = ANNEX_FILTER[k];
    let a = 0;
    let b = 0;
    for (let j = 0; j < ANNEX_TAPS; j++) {
      const i = (first - j) & mask;
      a += h[j] * l[i];
      b += h[j] * r[i];
    }
    if (a < 0) a = -a;
    if (b < 0) b = -b;
    if (a > p) p = a;
    if (b > p) p = b;
  }
  return p;
}
