import { doubles, lower, raise } from './kernels/index.ts';
import { kaiser } from './math.ts';

/**
 * Oversampling by 2, 4, 8 or 16 with linear-phase half-band filters (windowed sinc, Kaiser window of 100 dB: J.
 * F. Kaiser, 1974). The lengths suit what each stage has to keep away: the first has
 * the narrow gap around half the sample rate (0.42 to 0.58 fs), the later ones have room. Passband to 0.42 fs
 * within 0.001 dB. The delay is a whole number of samples at the base rate.
 */
const LENGTHS = [95, 27, 19, 15];

/** Even-phase taps (doubled) of a half-band low-pass of 4k+3 taps; the odd phase is a plain delay. */
export function halfBandTaps(length: number): Float64Array {
  const c = (length - 1) / 2;
  const beta = 0.1102 * (100 - 8.7);
  const out = new Float64Array((length + 1) / 2);
  let sum = 0;
  for (let i = 0; i < out.length; i++) {
    const t = 2 * i - c;
    out[i] = (Math.sin((Math.PI * t) / 2) / (Math.PI * t)) * kaiser(t / (c + 1), beta);
    sum += out[i];
  }
  // both phases pass 0 Hz alike, so that a steady value stays steady
  for (let i = 0; i < out.length; i++) out[i] /= sum;
  return out;
}

/** One stage, both directions. */
class Stage {
  private readonly g: Float64Array;
  private readonly taps: number;
  private readonly skip: number;
  private readonly up: Float64Array;
  private readonly even: Float64Array;
  private readonly odd: Float64Array;
  constructor(length: number, maxIn: number) {
    const taps = halfBandTaps(length);
    this.taps = taps.length;
    this.g = doubles(this.taps);
    this.g.set(taps);
    this.skip = this.taps / 2 - 1;
    this.up = doubles(this.taps + maxIn);
    this.even = doubles(this.taps + maxIn);
    this.odd = doubles(this.taps + maxIn);
  }

  /** where the frames that are to be raised are put: behind the past ones */
  get input(): Float64Array {
    return this.up;
  }
  get start(): number {
    return this.taps;
  }

  /** n frames from the input, 2n into dst from `at` on. */
  raise(dst: Float64Array, at: number, n: number): void {
    const { up, taps } = this;
    raise(up, this.g, dst, at, n, taps, this.skip);
    up.copyWithin(0, n, n + taps);
  }

  /** 2n frames in, n out. */
  lower(src: Float64Array, dst: Float64Array, n: number): void {
    const { even, odd, taps } = this;
    lower(src, even, odd, this.g, dst, n, taps, this.skip);
    even.copyWithin(0, n, n + taps);
    odd.copyWithin(0, n, n + taps);
  }

  follow(other: Stage): void {
    this.up.set(other.up);
    this.even.set(other.even);
    this.odd.set(other.odd);
  }
  reset(): void {
    this.up.fill(0);
    this.even.fill(0);
    this.odd.fill(0);
  }
}

type Factor = 2 | 4 | 8 | 16;

/** Samples at the high rate by which the filters delay, there and back. */
const filtersDelay = (factor: Factor): number =>
  LENGTHS.slice(0, Math.log2(factor)).reduce((sum, length, i) => sum + (length - 1) * (factor >> (i + 1)), 0);
/**
 * Samples at the base rate by which oversampling delays, there and back.
 * @param inner samples at the high rate by which the work between `raise` and `lower` delays, evened out so
 * that the whole is a whole number of base samples
 * @param least base samples that it delays at least: ways of different factors then take the same time
 */
export const oversamplingDelay = (factor: Factor, inner = 0, least = 0): number =>
  Math.max(least, Math.ceil((filtersDelay(factor) + inner) / factor));

/**
 * One channel's way up to a multiple of the rate and back. Work on the buffer that `raise` gives, then
 * `lower` it.
 */
export class Oversampler {
  private readonly stages: Stage[];
  private readonly buffers: Float64Array[];
  private readonly pad: number;
  private readonly held: Float64Array;
  private readonly swap = new Float64Array(16);
  /** samples at the base rate, there and back */
  readonly latency: number;

  /** @param inner, least as of `oversamplingDelay` */
  constructor(
    readonly factor: Factor,
    maxBlock: number,
    inner = 0,
    least = 0,
  ) {
    const n = Math.log2(factor);
    this.stages = LENGTHS.slice(0, n).map((length, i) => new Stage(length, maxBlock << i));
    this.buffers = this.stages.map((_, i) => doubles(maxBlock << (i + 1)));
    this.latency = oversamplingDelay(factor, inner, least);
    this.pad = this.latency * factor - filtersDelay(factor) - inner;
    this.held = new Float64Array(this.pad);
  }

  raise(src: Float64Array, n: number): Float64Array {
    const stages = this.stages;
    const last = stages.length - 1;
    const { input, start } = stages[0];
    for (let i = 0; i < n; i++) input[start + i] = src[i];
    // each stage writes straight to where the next one reads
    for (let i = 0; i < last; i++) stages[i].raise(stages[i + 1].input, stages[i + 1].start, n << i);
    const top = this.buffers[last];
    stages[last].raise(top, 0, n << last);
    return top;
  }

  /** Brings the top buffer back down into dst. */
  lower(dst: Float64Array, n: number): void {
    const top = this.buffers[this.buffers.length - 1];
    const m = n * this.factor;
    const { pad, held } = this;
    if (pad > 0) {
      for (let k = 0; k < pad; k++) this.swap[k] = top[m - pad + k];
      top.copyWithin(pad, 0, m - pad);
      for (let k = 0; k < pad; k++) {
        top[k] = held[k];
        held[k] = this.swap[k];
      }
    }
    for (let i = this.stages.length - 1; i >= 0; i--) {
      this.stages[i].lower(this.buffers[i], i === 0 ? dst : this.buffers[i - 1], n << i);
    }
  }

  reset(): void {
    for (const s of this.stages) s.reset();
    this.held.fill(0);
  }
  /** Goes on from where another one is. */
  follow(other: Oversampler): void {
    this.stages.forEach((stage, i) => stage.follow(other.stages[i]));
    this.held.set(other.held);
  }
}
