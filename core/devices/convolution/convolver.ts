import { copy, doubles, head } from '../kernels/index.ts';
import type { Network } from '../reverb/network.ts';
import { Level } from './level.ts';
import type { Response } from './response.ts';

/** Samples that are summed one by one; every so many there is something to do. */
const NEAR = 128;
/** Sizes of the parts behind them, and where each size begins: all but the first have a block's time for their work. */
const SIZES = [
  { size: NEAR, from: NEAR, ahead: false },
  { size: 512, from: 1024, ahead: true },
  { size: 4096, from: 8192, ahead: true },
];
const LARGEST = 4096;
/** samples of a response that are measured in one step */
const MEASURED = 16384;

/**
 * Convolution with an impulse response without added delay: its first 128 samples directly, what follows in parts that
 * grow with the distance (W. G. Gardner, 1995). The sound does not depend on the blocks that it is asked for in.
 */
export class Convolver implements Network {
  /** until its spectra are made it is silent */
  isReady = false;
  private readonly levels: Level[];
  private readonly firstL = doubles(NEAR);
  private readonly firstR = doubles(NEAR);
  /** the last samples, and behind them those at hand */
  private readonly pastL = doubles(2 * NEAR + 4);
  private readonly pastR = doubles(2 * NEAR + 4);
  private readonly outL = doubles(NEAR + 4);
  private readonly outR = doubles(NEAR + 4);
  /** samples since the last step */
  private at = 0;
  /** samples of silence that came in a row, and how many empty everything */
  private silent = 0;
  private readonly empty: number;
  /** samples for which no spectrum was made yet, and whether the first samples of the response are there */
  private due = 0;
  private hasBegun = false;

  /** @param key what it was made for */
  constructor(
    readonly key: string,
    private readonly response: Response,
  ) {
    const { length } = response;
    this.levels = SIZES.filter(({ from }) => from < length).map(({ size, from, ahead }, i) => {
      const to = Math.min(length, SIZES[i + 1]?.from ?? length);
      return new Level(response, size, from, to, NEAR, ahead);
    });
    this.empty = this.silent = length + 3 * LARGEST;
  }

  set(): void {
    // everything that it depends on is in its key
  }

  /** Makes all spectra, or as many as n samples have time for. */
  prepare(n = Infinity): void {
    this.due += n;
    while (!this.isReady && this.due >= NEAR) {
      this.due -= NEAR;
      if (!this.response.measure(MEASURED)) continue;
      this.begin();
      this.isReady = !this.levels.some((level) => level.make());
    }
  }

  private begin(): void {
    if (this.hasBegun) return;
    this.hasBegun = true;
    const both = new Float64Array(2 * NEAR);
    this.response.fill(both, 0, NEAR);
    for (let i = 0; i < NEAR; i++) {
      this.firstL[i] = both[2 * i];
      this.firstR[i] = both[2 * i + 1];
    }
  }

  process(l: Float64Array, r: Float64Array, n: number): void {
    if (!this.isReady) {
      this.prepare(n);
      l.fill(0, 0, n);
      r.fill(0, 0, n);
      return;
    }
    for (let from = 0; from < n;) {
      const m = Math.min(n - from, NEAR - this.at);
      if (this.isEmpty(l, r, from, m)) this.pass();
      else this.work(l, r, from, m);
      from += m;
    }
  }

  /** Whether nothing comes in and nothing is left inside; what comes out is silence then, as it comes in. */
  private isEmpty(l: Float64Array, r: Float64Array, from: number, m: number): boolean {
    let isSilent = true;
    for (let i = from; i < from + m && isSilent; i++) isSilent = l[i] === 0 && r[i] === 0;
    if (!isSilent) this.silent = 0;
    else if (this.silent < this.empty) this.silent += m;
    return this.silent >= this.empty;
  }
  /** The same as working on silence; the grid begins anew with the next sound. */
  private pass(): void {
    if (this.at === 0) return;
    this.at = 0;
    for (const level of this.levels) level.restart();
  }

  private work(l: Float64Array, r: Float64Array, from: number, m: number): void {
    const { pastL, pastR, outL, outR, at } = this;
    copy(pastL, NEAR + at, l, from, m);
    copy(pastR, NEAR + at, r, from, m);
    head(pastL, NEAR + at, m, this.firstL, outL, 0);
    head(pastR, NEAR + at, m, this.firstR, outR, 0);
    for (const level of this.levels) level.take(l, r, from, m, outL, outR);
    copy(l, from, outL, 0, m);
    copy(r, from, outR, 0, m);
    this.at += m;
    if (this.at < NEAR) return;
    this.at = 0;
    copy(pastL, 0, pastL, NEAR, NEAR);
    copy(pastR, 0, pastR, NEAR, NEAR);
    for (const level of this.levels) level.step();
  }

  reset(): void {
    this.pastL.fill(0);
    this.pastR.fill(0);
    this.at = 0;
    this.silent = this.empty;
    for (const level of this.levels) level.reset();
  }
}
