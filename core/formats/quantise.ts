/** What is added before samples become whole numbers: noise of a triangular distribution, plain or shaped. */
export type Dither = 'none' | 'triangular' | 'shaped';

/**
 * Weights of the error that is fed back (R. A. Wannamaker, “Psychoacoustically optimal noise shaping”, J. Audio Eng.
 * Soc. 40(7/8), 1992: three coefficients for 44.1 kHz; from memory).
 */
const SHAPE = [1.623, -0.982, 0.109];

function within(x: number, least: number, most: number): number {
  if (x < least) return least;
  return x > most ? most : x;
}

/**
 * Turns samples into whole numbers of so many bits. The dither is triangular, two steps wide, so that neither the mean
 * nor the power of the error follows the sound (S. P. Lipshitz, R. A. Wannamaker, J. Vanderkooy, “Quantization and
 * dither”, J. Audio Eng. Soc. 40(5), 1992). Its seed is fixed: the same sound gives the same file.
 */
export class Quantiser {
  private readonly full: number;
  private readonly width: number;
  private readonly back: number[];
  /** state of the noise, and the last three errors */
  private x: number;
  private e1 = 0;
  private e2 = 0;
  private e3 = 0;

  constructor(bits: 16 | 24 | 32, dither: Dither, seed: number) {
    this.full = 2 ** (bits - 1);
    this.width = dither === 'none' ? 0 : 1;
    this.back = dither === 'shaped' ? SHAPE : [0, 0, 0];
    this.x = (seed * 2654435761) | 0 || 1;
  }
  /** The next samples, full scale 1. */
  block(samples: Float32Array): Int32Array {
    const out = new Int32Array(samples.length);
    const { full, width, back } = this;
    let { x, e1, e2, e3 } = this;
    for (let i = 0; i < samples.length; i++) {
      const wanted = samples[i] * full - back[0] * e1 - back[1] * e2 - back[2] * e3;
      // even noise twice (G. Marsaglia, “Xorshift RNGs”, J. Statistical Software 8(14), 2003)
      x ^= x << 13;
      x ^= x >>> 17;
      x ^= x << 5;
      const one = (x >>> 0) / 4294967296;
      x ^= x << 13;
      x ^= x >>> 17;
      x ^= x << 5;
      const n = Math.round(wanted + width * (one - (x >>> 0) / 4294967296));
      const held = within(n, -full, full - 1);
      out[i] = held;
      const error = held - wanted;
      e3 = e2;
      e2 = e1;
      e1 = within(error, -2, 2);
    }
    this.x = x;
    this.e1 = e1;
    this.e2 = e2;
    this.e3 = e3;
    return out;
  }
}
