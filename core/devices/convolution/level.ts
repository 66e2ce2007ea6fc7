import FFT from 'fft.js';
import { doubles, multiply, roughDoubles } from '../kernels/index.ts';
import type { Spectra } from '../kernels/convolve.ts';
import type { Response } from './response.ts';

const TRANSFORMS = new Map<number, FFT>();
function transformOf(size: number): FFT {
  let fft = TRANSFORMS.get(size);
  if (!fft) TRANSFORMS.set(size, (fft = new FFT(size)));
  return fft;
}

/**
 * A stretch of an impulse response in parts of equal size, convolved as products of spectra (T. G. Stockham, 1966;
 * overlap-save; both sides go through one complex transform). What a block adds is due a block later, or, with `ahead`,
 * two blocks later: its work is then spread evenly over the block between, so that no moment has much to do (W. G.
 * Gardner, "Efficient convolution without input-output delay", JAES 43(3), 1995).
 */
export class Level {
  readonly parts: number;
  /** parts whose spectra are there */
  private made = 0;
  private readonly fft: FFT;
  /** the last two blocks of both sides, the later half still to be filled */
  private readonly time: Float64Array;
  private readonly frequency: Float64Array;
  private readonly blocks: Float64Array;
  private readonly left: Spectra;
  private readonly right: Spectra;
  private readonly sumL: Float64Array;
  private readonly sumR: Float64Array;
  private newest = 0;
  private fill = 0;
  /** what is heard during this block, and during the next one */
  private out: [Float64Array, Float64Array];
  private next: [Float64Array, Float64Array];
  /** the stretch, complex, as the transform takes it */
  private readonly work: Float64Array;

  /**
   * @param size samples of a part, a power of two
   * @param from, to the stretch of the response; `from` is the size, or with `ahead` twice the size
   * @param grid samples after which `step` is called
   */
  constructor(
    private readonly response: Response,
    private readonly size: number,
    private readonly from: number,
    to: number,
    private readonly grid: number,
    private readonly ahead: boolean,
  ) {
    const n = size;
    this.parts = Math.max(1, Math.ceil((to - from) / n));
    this.fft = transformOf(2 * n);
    this.time = doubles(4 * n);
    this.frequency = new Float64Array(4 * n);
    this.work = new Float64Array(4 * n);
    // each part is written, and each block's place emptied, when it is made
    this.blocks = roughDoubles(this.parts * 4 * n);
    const partsL = roughDoubles(this.parts * 2 * n);
    const partsR = response.isMono ? partsL : roughDoubles(this.parts * 2 * n);
    const shared = { blocks: this.blocks, stride: 4 * n, count: this.parts, bins: n };
    this.left = { ...shared, first: 0, parts: partsL };
    this.right = { ...shared, first: 2 * n, parts: partsR };
    this.sumL = doubles(2 * n);
    this.sumR = doubles(2 * n);
    this.out = [doubles(n), doubles(n)];
    this.next = [doubles(n), doubles(n)];
  }

  /** Makes the next part's spectra; false when all are there. */
  make(): boolean {
    if (this.made === this.parts) return false;
    const { size, response, work, left, right } = this;
    const at = this.from + this.made * size;
    work.fill(0);
    response.fill(work, at, size);
    this.fft.transform(this.frequency as unknown as number[], work as unknown as number[]);
    const to = this.made * 2 * size;
    this.part(left.parts, to, right.parts, to);
    this.blocks.fill(0, 2 * to, 2 * to + 4 * size);
    this.made++;
    return this.made < this.parts;
  }

  /** Both sides' spectra out of the one of left + i · right. */
  private part(l: Float64Array, atL: number, r: Float64Array, atR: number): void {
    const { size: n, frequency: z } = this;
    l[atL] = z[0];
    r[atR] = z[1];
    l[atL + n] = z[2 * n];
    r[atR + n] = z[2 * n + 1];
    for (let k = 1; k < n; k++) {
      const [a, b] = [z[2 * k], z[2 * k + 1]];
      const [c, d] = [z[4 * n - 2 * k], z[4 * n - 2 * k + 1]];
      l[atL + k] = 0.5 * (a + c);
      l[atL + n + k] = 0.5 * (b - d);
      r[atR + k] = 0.5 * (b + d);
      r[atR + n + k] = 0.5 * (c - a);
    }
  }

  /** Takes m samples, no more than are left to the next step, and adds what is due at them. */
  take(
    l: Float64Array,
    r: Float64Array,
    at: number,
    m: number,
    outL: Float64Array,
    outR: Float64Array,
  ): void {
    const { time, size, fill } = this;
    const [ol, or] = this.out;
    for (let i = 0; i < m; i++) {
      const p = 2 * (size + fill + i);
      time[p] = l[at + i];
      time[p + 1] = r[at + i];
      outL[i] += ol[fill + i];
      outR[i] += or[fill + i];
    }
    this.fill += m;
  }

  /** What is to be done every `grid` samples. */
  step(): void {
    const { size, fill, parts, ahead, grid } = this;
    if (fill === size) {
      this.turn();
      if (!ahead) {
        this.sum(0, parts);
        this.finish(this.out);
      }
      return;
    }
    if (!ahead) return;
    // between the transform there and the one back, the parts in equal shares
    const shares = size / grid - 2;
    const k = fill / grid;
    if (k <= shares) this.sum(Math.floor(((k - 1) * parts) / shares), Math.floor((k * parts) / shares));
    else this.finish(this.next);
  }

  /** A block is full: its spectrum joins the others. */
  private turn(): void {
    const { size, time, blocks } = this;
    this.fill = 0;
    if (this.ahead) [this.out, this.next] = [this.next, this.out];
    this.newest = (this.newest + 1) % this.parts;
    this.fft.transform(this.frequency as unknown as number[], time as unknown as number[]);
    const to = this.newest * 4 * size;
    this.part(blocks, to, blocks, to + 2 * size);
    time.copyWithin(0, 2 * size);
    this.sumL.fill(0);
    this.sumR.fill(0);
  }

  private sum(from: number, to: number): void {
    multiply(this.sumL, this.left, this.newest, from, to);
    multiply(this.sumR, this.right, this.newest, from, to);
  }

  /** Back into time; only the later half is whole. */
  private finish([outL, outR]: [Float64Array, Float64Array]): void {
    const { size: n, sumL: l, sumR: r, frequency: z, work } = this;
    z[0] = l[0];
    z[1] = r[0];
    z[2 * n] = l[n];
    z[2 * n + 1] = r[n];
    for (let k = 1; k < n; k++) {
      const [a, b] = [l[k], l[n + k]];
      const [c, d] = [r[k], r[n + k]];
      z[2 * k] = a - d;
      z[2 * k + 1] = b + c;
      z[4 * n - 2 * k] = a + d;
      z[4 * n - 2 * k + 1] = c - b;
    }
    this.fft.inverseTransform(work as unknown as number[], z as unknown as number[]);
    for (let i = 0; i < n; i++) {
      outL[i] = work[2 * (n + i)];
      outR[i] = work[2 * (n + i) + 1];
    }
  }

  /** Begins a block anew where everything is silent inside. */
  restart(): void {
    this.fill = 0;
  }
  reset(): void {
    this.time.fill(0);
    this.blocks.fill(0);
    this.sumL.fill(0);
    this.sumR.fill(0);
    for (const side of [...this.out, ...this.next]) side.fill(0);
    this.fill = 0;
    this.newest = 0;
  }
}
