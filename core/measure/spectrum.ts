import FFT from 'fft.js';

/**
 * Power spectrum of the last `size` samples of a ring (Hann window), in dB per bin, 0 dB for a full-scale
 * sine. `at` is where the next sample would be written.
 */
export class Spectrum {
  private readonly fft: FFT;
  private readonly input: Float64Array;
  private readonly output: number[];
  readonly bins: Float64Array;
  constructor(readonly size = 4096) {
    this.fft = new FFT(size);
    this.input = new Float64Array(size);
    this.output = this.fft.createComplexArray();
    this.bins = new Float64Array(size / 2);
  }
  analyse(ring: Float32Array, at: number): Float64Array {
    const n = this.size;
    for (let i = 0; i < n; i++) {
      const w = 0.5 - 0.5 * Math.cos((2 * Math.PI * i) / n);
      this.input[i] = w * ring[(at - n + i + ring.length * 2) % ring.length];
    }
    this.fft.realTransform(this.output, this.input as unknown as number[]);
    for (let k = 0; k < n / 2; k++) {
      const [re, im] = [this.output[2 * k], this.output[2 * k + 1]];
      this.bins[k] = 10 * Math.log10(Math.max(1e-16, (16 * (re * re + im * im)) / (n * n)));
    }
    return this.bins;
  }
}
