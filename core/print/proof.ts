import { Spectrum } from '../measure/spectrum.ts';
import { tenTo } from '../model/power.ts';

/** What is left when the stems are taken from what they should add up to. */
export interface Proof {
  against: 'mix' | 'before the master';
  /** peak of the difference, dBFS; −Infinity where only the rounding of double precision is left */
  residual: number;
  /** peak of the difference in each second, dBFS */
  seconds: number[];
  /** level of the difference in octaves around these frequencies (Hz), dBFS */
  bands: [number, number][];
  /** where it is largest, s; null where there is none */
  at: number | null;
}

/** Full scale = 1: what doubles of size one lose in some thousand additions. */
const ROUNDING = 1e-12;
const SIZE = 4096;
/** Hz: octaves of IEC 61260-1 */
const OCTAVES = [31.5, 63, 125, 250, 500, 1000, 2000, 4000, 8000, 16000];

const db = (x: number): number => (x < ROUNDING ? -Infinity : 20 * Math.log10(x));

/** Gathers the difference while a print runs. */
export class ProofKeeper {
  private readonly peaks: number[] = [];
  private readonly spectrum = new Spectrum(SIZE);
  private readonly sides = [new Float32Array(SIZE), new Float32Array(SIZE)];
  private readonly power = new Float64Array(OCTAVES.length);
  private filled = 0;
  private frames = 0;
  private blockPeak = 0;
  private at = 0;
  private largest = 0;

  constructor(
    private readonly sampleRate: number,
    private readonly against: Proof['against'],
  ) {}

  /** One frame of the difference. */
  add(l: number, r: number): void {
    const peak = Math.max(Math.abs(l), Math.abs(r));
    const second = Math.floor(this.frames / this.sampleRate);
    this.peaks[second] = Math.max(this.peaks[second] ?? 0, peak);
    if (peak > this.largest) {
      this.largest = peak;
      this.at = this.frames / this.sampleRate;
    }
    this.frames++;
    this.blockPeak = Math.max(this.blockPeak, peak);
    this.sides[0][this.filled] = l;
    this.sides[1][this.filled] = r;
    if (++this.filled === SIZE) this.analyse();
  }
  private analyse(): void {
    this.filled = 0;
    if (this.blockPeak > ROUNDING) {
      for (const side of this.sides) this.gather(this.spectrum.analyse(side, 0));
    }
    this.blockPeak = 0;
  }
  private gather(bins: Float64Array): void {
    const width = this.sampleRate / SIZE;
    OCTAVES.forEach((f, k) => {
      const [from, to] = [f / Math.SQRT2, f * Math.SQRT2].map((x) => Math.round(x / width));
      let sum = 0;
      for (let i = from; i < Math.min(to, bins.length); i++) sum += tenTo(bins[i] / 10);
      this.power[k] = Math.max(this.power[k], sum);
    });
  }
  end(): Proof {
    if (this.filled) {
      for (const side of this.sides) side.fill(0, this.filled);
      this.analyse();
    }
    const bands = OCTAVES.map((f, k): [number, number] => [
      f,
      this.largest < ROUNDING || !this.power[k] ? -Infinity : 10 * Math.log10(this.power[k]),
    ]);
    return {
      against: this.against,
      residual: db(this.largest),
      seconds: Array.from(this.peaks, db),
      bands,
      at: this.largest < ROUNDING ? null : this.at,
    };
  }
}
