import FFT from 'fft.js';
import { power } from '../model/power.ts';

type Stereo = readonly [Float32Array, Float32Array];

/** Levels of one sound, dBFS: in thirds of an octave, and in stretches of the time. */
export interface NullLevels {
  thirds: number[];
  time: number[];
}
/** The preset's own sound, the same in the session, and the difference between them. */
export interface NullPicture {
  preset: NullLevels;
  session: NullLevels;
  difference: NullLevels;
}

/** Centres of the thirds of an octave, Hz: 25 Hz to 20 kHz (IEC 61260-1, base ten). */
export const NULL_THIRDS: readonly number[] = Array.from(
  { length: 30 },
  (_, i) => 1000 * power(10, (i - 16) / 10),
);
/** stretches of the time */
export const NULL_STRETCHES = 60;
/** dBFS that stands for silence */
export const NULL_SILENCE = -160;

const SIZE = 4096;
const { log10, max, min, round } = Math;
const decibels = (meanSquare: number): number =>
  round(10 * max(NULL_SILENCE, 10 * log10(max(meanSquare, 1e-30)))) / 10;

/** @param pairs each line's sound as the preset alone makes it, and as it is in the session */
export function nullPicture(pairs: readonly (readonly [Stereo, Stereo])[], sampleRate: number): NullPicture {
  const [preset, session, difference] = [new Sum(sampleRate), new Sum(sampleRate), new Sum(sampleRate)];
  for (const [a, b] of pairs) {
    for (const side of [0, 1] as const) {
      preset.add(a[side]);
      session.add(b[side]);
      difference.add(a[side].map((v, i) => v - b[side][i]));
    }
  }
  return { preset: preset.levels(), session: session.levels(), difference: difference.levels() };
}

/** Powers of several sounds together. */
class Sum {
  private readonly bins = new Float64Array(SIZE / 2);
  private readonly squares = new Float64Array(NULL_STRETCHES);
  private readonly fft = new FFT(SIZE);
  private sounds = 0;
  private blocks = 0;
  private stretch = 1;
  constructor(private readonly sampleRate: number) {}

  add(x: Float32Array): void {
    this.sounds++;
    this.stretch = Math.ceil(x.length / NULL_STRETCHES);
    for (let i = 0; i < x.length; i++) this.squares[Math.floor(i / this.stretch)] += x[i] * x[i];
    const out = this.fft.createComplexArray() as number[];
    for (let at = 0; at + SIZE <= x.length; at += SIZE / 2) {
      this.fft.realTransform(out, windowed(x, at));
      for (let k = 0; k < SIZE / 2; k++) {
        this.bins[k] += out[2 * k] * out[2 * k] + out[2 * k + 1] * out[2 * k + 1];
      }
      this.blocks++;
    }
  }
  levels(): NullLevels {
    const time = Array.from(this.squares, (sum) => decibels(sum / max(1, this.sounds * this.stretch)));
    return { thirds: NULL_THIRDS.map((f) => this.third(f)), time };
  }
  /** dBFS: 0 for a sine at full scale on both sides; a Hann window's energy is 3/8 of the square's. */
  private third(centre: number): number {
    const [edge, width] = [power(10, 1 / 20), this.sampleRate / SIZE];
    const first = max(1, round(centre / edge / width));
    const last = min(SIZE / 2 - 1, max(first, round((centre * edge) / width) - 1));
    let sum = 0;
    for (let k = first; k <= last; k++) sum += this.bins[k];
    return decibels((4 * sum) / (SIZE * SIZE * 0.375 * max(1, this.blocks)));
  }
}

const HANN = Array.from({ length: SIZE }, (_, i) => 0.5 - 0.5 * Math.cos((2 * Math.PI * i) / SIZE));
const windowed = (x: Float32Array, at: number): number[] => HANN.map((w, i) => w * x[at + i]);
