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
  const meter = new Meter();
  const [preset, session, difference] = [new Sum(sampleRate), new Sum(sampleRate), new Sum(sampleRate)];
  for (const [x, y, times] of pairs.flatMap(sidesOf)) {
    const own = meter.powersOf(x);
    preset.add(own, times);
    // most lines are the same in both: what is known of one needs no second look
    if (areSame(x, y)) {
      session.add(own, times);
      difference.add({ ...own, squares: NOTHING, bins: NOTHING }, times);
      continue;
    }
    session.add(meter.powersOf(y), times);
    difference.add(meter.powersOf(x.map((v, i) => v - y[i])), times);
  }
  return { preset: preset.levels(), session: session.levels(), difference: difference.levels() };
}

/** Both sides of a line in both of its sounds; once, to count twice, where the sides are one. */
function sidesOf([a, b]: readonly [Stereo, Stereo]): [Float32Array, Float32Array, number][] {
  if (areSame(a[0], a[1]) && areSame(b[0], b[1])) return [[a[0], b[0], 2]];
  return [
    [a[0], b[0], 1],
    [a[1], b[1], 1],
  ];
}
function areSame(x: Float32Array, y: Float32Array): boolean {
  if (x === y) return true;
  if (x.length !== y.length) return false;
  for (let i = 0; i < x.length; i++) if (x[i] !== y[i]) return false;
  return true;
}

/** Powers of one sound: of each stretch of its time, and of each frequency, over all blocks. */
interface Powers {
  squares: ArrayLike<number>;
  bins: ArrayLike<number>;
  blocks: number;
  /** samples of a stretch */
  stretch: number;
}
const NOTHING = new Float64Array(SIZE / 2);

/** What it finds holds until it is asked for the next sound. */
class Meter {
  private readonly fft = new FFT(SIZE);
  private readonly block = new Float64Array(SIZE);
  private readonly out = new Float64Array(2 * SIZE);
  private readonly bins = new Float64Array(SIZE / 2);
  private readonly squares = new Float64Array(NULL_STRETCHES);

  powersOf(x: Float32Array): Powers {
    const { bins, squares } = this;
    const stretch = Math.ceil(x.length / NULL_STRETCHES);
    bins.fill(0);
    for (let k = 0; k < NULL_STRETCHES; k++) {
      let sum = 0;
      for (let i = k * stretch; i < min(x.length, (k + 1) * stretch); i++) sum += x[i] * x[i];
      squares[k] = sum;
    }
    let blocks = 0;
    for (let at = 0; at + SIZE <= x.length; at += SIZE / 2) {
      this.take(x, at);
      blocks++;
    }
    return { squares, bins, blocks, stretch };
  }
  private take(x: Float32Array, at: number): void {
    const { block, out, bins } = this;
    for (let i = 0; i < SIZE; i++) block[i] = HANN[i] * x[at + i];
    this.fft.realTransform(out as unknown as number[], block as unknown as number[]);
    for (let k = 0; k < SIZE / 2; k++) {
      bins[k] += out[2 * k] * out[2 * k] + out[2 * k + 1] * out[2 * k + 1];
    }
  }
}

/** Powers of several sounds together. */
class Sum {
  private readonly bins = new Float64Array(SIZE / 2);
  private readonly squares = new Float64Array(NULL_STRETCHES);
  private sounds = 0;
  private blocks = 0;
  private stretch = 1;
  constructor(private readonly sampleRate: number) {}

  add({ squares, bins, blocks, stretch }: Powers, times: number): void {
    this.sounds += times;
    this.blocks += times * blocks;
    this.stretch = stretch;
    for (let k = 0; k < NULL_STRETCHES; k++) this.squares[k] += times * squares[k];
    for (let k = 0; k < SIZE / 2; k++) this.bins[k] += times * bins[k];
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

const HANN = Float64Array.from({ length: SIZE }, (_, i) => 0.5 - 0.5 * Math.cos((2 * Math.PI * i) / SIZE));
