import FFT from 'fft.js';
import type { PitchRange, Sibilance } from '../model/reference.ts';
import { PitchTracker } from '../devices/pitch.ts';
import { power, tenTo } from '../model/power.ts';

/** Two sides of a sound while it goes through a chain. */
export interface Sides {
  l: Float64Array;
  r: Float64Array;
}

const MIN_POWER = 1e-20;
const { log10, max, min, round } = Math;
const db = (meanSquare: number): number => 10 * log10(max(MIN_POWER, meanSquare));
/** The value that a share of a sorted list lies under. */
const share = (sorted: readonly number[], part: number): number =>
  sorted[min(sorted.length - 1, Math.floor(part * sorted.length))];

/** s that levels are told over: as long as a short syllable (common practice) */
const BLOCK = 0.05;
/** what lies this far under the loudest tenth still sounds, dB; the rest are pauses (common practice) */
const SOUNDS = 26;
/** pauses are at least this far under what sounds, and there is at least so much of them */
const PAUSE = 14;
const PAUSES = 0.05;

/** share of what sounds that the soft phrases and the ends of notes make up (common practice) */
const SOFT = 0.25;

/** Where a sound sounds, and how loud it is there, in blocks of 50 ms. */
export interface Sounding {
  /** frames of a block */
  size: number;
  /** for each block whether something sounds */
  on: boolean[];
  seconds: number;
  /** dBFS: RMS of what sounds; what its soft quarter stays under; the noise in the pauses, null where there are none */
  level: number;
  soft: number;
  floor: number | null;
}

/** Mean square of each block. */
function powers({ l, r }: Sides, size: number): number[] {
  const out: number[] = [];
  for (let at = 0; at + size <= l.length; at += size) {
    let sum = 0;
    for (let i = at; i < at + size; i++) sum += l[i] * l[i] + r[i] * r[i];
    out.push(sum / (2 * size));
  }
  return out;
}

/** Tells what sounds from the pauses. @param as blocks that sound, where they are known from before a chain */
export function sounding(x: Sides, sampleRate: number, as?: readonly boolean[]): Sounding {
  const size = round(BLOCK * sampleRate);
  const blocks = powers(x, size);
  const sorted = [...blocks].sort((a, b) => a - b);
  const top = share(sorted, 0.9) ?? 0;
  const least = max(MIN_POWER, top * tenTo(-SOUNDS / 10));
  const on = as ? blocks.map((_, i) => as[i] ?? false) : blocks.map((b) => b > least);
  const loud = blocks.filter((_, i) => on[i]);
  const mean = loud.reduce((a, b) => a + b, 0) / max(1, loud.length);
  // digital silence is no noise
  const pauses = blocks.filter((b) => b < mean * tenTo(-PAUSE / 10) && b > 1e-12).sort((a, b) => a - b);
  const hasPauses = pauses.length >= max(3, PAUSES * blocks.length);
  const soft = [...loud].sort((a, b) => a - b);
  return {
    size,
    on,
    seconds: (loud.length * size) / sampleRate,
    level: db(mean),
    soft: loud.length ? db(share(soft, SOFT)) : -200,
    floor: hasPauses ? db(share(pauses, 0.25)) : null,
  };
}

const FFT_SIZE = 4096;
/** Hann's window, and a half of it for the mean of two sides */
const HALF_HANN = Float64Array.from(
  { length: FFT_SIZE },
  (_, i) => 0.25 - 0.25 * Math.cos((2 * Math.PI * i) / FFT_SIZE),
);
/** Mean power spectra of frames that are chosen by a weight from 0. */
function spectrum(x: Sides, starts: readonly number[]): Float64Array {
  const fft = new FFT(FFT_SIZE);
  const out = fft.createComplexArray() as number[];
  const frame = new Float64Array(FFT_SIZE);
  const sum = new Float64Array(FFT_SIZE / 2);
  for (const at of starts) {
    for (let i = 0; i < FFT_SIZE; i++) {
      frame[i] = HALF_HANN[i] * ((x.l[at + i] ?? 0) + (x.r[at + i] ?? 0));
    }
    fft.realTransform(out, frame as unknown as number[]);
    for (let k = 0; k < FFT_SIZE / 2; k++) {
      sum[k] += (out[2 * k] * out[2 * k] + out[2 * k + 1] * out[2 * k + 1]) / starts.length;
    }
  }
  return sum;
}

/** Frames that begin where something sounds. */
function starts(x: Sides, { on, size }: Sounding): number[] {
  const out: number[] = [];
  for (let at = 0; at + FFT_SIZE <= x.l.length; at += FFT_SIZE) {
    if (on[Math.floor((at + FFT_SIZE / 2) / size)]) out.push(at);
  }
  return out;
}

/** Centres of the thirds of an octave from 100 Hz to 16 kHz: 1000·10^(n/10) (IEC 61260-1, base 10; from memory). */
export const THIRDS: readonly number[] = Array.from({ length: 23 }, (_, i) => 1000 * tenTo((i - 10) / 10));
/** from the centre of a third to its edge: 10^(1/20) */
const EDGE = tenTo(1 / 20);

function bandPower(bins: Float64Array, low: number, high: number, sampleRate: number): number {
  const width = sampleRate / FFT_SIZE;
  let sum = 0;
  for (let k = max(1, Math.floor(low / width)); k <= min(bins.length - 1, high / width); k++) {
    // a bin that lies across an edge counts with the part that lies inside
    const from = max(low, (k - 0.5) * width);
    const to = min(high, (k + 0.5) * width);
    if (to > from) sum += (bins[k] * (to - from)) / width;
  }
  return sum;
}

/** Mean power spectrum of what sounds, bin by bin. */
export const soundingSpectrum = (x: Sides, where: Sounding): Float64Array => spectrum(x, starts(x, where));

/** Balance of what sounds: dB of each third of an octave against all of them. */
export function thirdsOf(bins: Float64Array, sampleRate: number): number[] {
  const bands = THIRDS.map((f) =>
    f * EDGE < sampleRate / 2 ? bandPower(bins, f / EDGE, f * EDGE, sampleRate) : 0,
  );
  const whole = bands.reduce((a, b) => a + b, 0);
  return bands.map((p) => (whole > 0 && p > 0 ? max(-90, 10 * log10(p / whole)) : -90));
}

const [SIBILANT_LOW, SIBILANT_HIGH] = [4000, 11000];
/** frames that are looked at for bursts: 1024 samples, as short as an s may be */
const BURST = 1024;
/** a burst holds at least this share of its frame above 4 kHz, dB */
const MOST_OF_IT = -4;

/** First difference twice: what lies low hardly counts, so that a frame's energy tells of its highs. */
function highShare(x: Float64Array, at: number): [high: number, all: number] {
  let [high, all] = [0, 0];
  for (let i = at + 2; i < at + BURST; i++) {
    const d = x[i] - 2 * x[i - 1] + x[i - 2];
    high += d * d;
    all += x[i] * x[i];
  }
  return [high, all];
}

/**
 * Centre and level of a voice's sibilants; null where there are none to be told.
 * @param whole spectrum of all that sounds
 */
export function sibilanceOf(
  x: Sides,
  whole: Float64Array,
  where: Sounding,
  sampleRate: number,
): Sibilance | null {
  const mono = x.l.map((v, i) => 0.5 * (v + x.r[i]));
  const frames: { at: number; high: number; isBurst: boolean }[] = [];
  // gain of the second difference at 4 kHz: (2·sin(π·f/fs))⁴
  const gain = power(2 * Math.sin((Math.PI * SIBILANT_LOW) / sampleRate), 4);
  for (let at = 0; at + BURST <= mono.length; at += BURST / 2) {
    if (!where.on[Math.floor((at + BURST / 2) / where.size)]) continue;
    const [high, all] = highShare(mono, at);
    frames.push({ at, high, isBurst: all > 0 && 10 * log10(max(MIN_POWER, high / all / gain)) > MOST_OF_IT });
  }
  const bursts = frames.filter((f) => f.isBurst).sort((a, b) => b.high - a.high);
  if (bursts.length < 4) return null;
  // the strong half of them: breath and consonants that are cut short say little
  const strong = bursts.slice(0, max(4, bursts.length >> 1));
  const bins = spectrum(
    { l: mono, r: mono },
    strong.map((f) => max(0, f.at - (FFT_SIZE - BURST) / 2)),
  );
  const frequency = centreOf(bins, sampleRate);
  const level = 10 * log10(max(MIN_POWER, bandPower(bins, SIBILANT_LOW, SIBILANT_HIGH, sampleRate)));
  const all = 10 * log10(max(MIN_POWER, bandPower(whole, 60, sampleRate / 2, sampleRate)));
  return { frequency, level: level - all };
}

/** The middle of the hump of a spectrum between 4 and 11 kHz: its highest third, weighed by power. */
function centreOf(bins: Float64Array, sampleRate: number): number {
  const width = sampleRate / FFT_SIZE;
  let [peak, most] = [SIBILANT_LOW, 0];
  for (let f = SIBILANT_LOW; f <= min(SIBILANT_HIGH, 0.45 * sampleRate); f *= tenTo(1 / 80)) {
    // per Hz: a third grows with its frequency
    const density = bandPower(bins, f / EDGE, f * EDGE, sampleRate) / f;
    if (density > most) [peak, most] = [f, density];
  }
  let [sum, weight] = [0, 0];
  for (let k = Math.ceil(peak / 1.3 / width); k <= min(bins.length - 1, (peak * 1.3) / width); k++) {
    sum += bins[k] * k * width;
    weight += bins[k];
  }
  return weight > 0 ? sum / weight : peak;
}

/** a pitch is told anew after so many samples: 43 ms at 48 kHz */
const PITCH_HOP = 2048;
const CLEAR = 0.18;

/** Range of a voice's fundamental; null where there is no clear pitch for half a second. */
export function pitchOf(x: Sides, where: Sounding, sampleRate: number): PitchRange | null {
  const tracker = new PitchTracker(sampleRate, 65, 1000, PITCH_HOP);
  const found: number[] = [];
  for (let i = 0; i < x.l.length; i++) {
    const isNew = tracker.push(0.5 * (x.l[i] + x.r[i]));
    if (
      isNew &&
      tracker.frequency > 0 &&
      tracker.aperiodicity < CLEAR &&
      where.on[Math.floor(i / where.size)]
    ) {
      found.push(tracker.frequency);
    }
  }
  if (found.length * PITCH_HOP < 0.5 * sampleRate) return null;
  found.sort((a, b) => a - b);
  return { low: share(found, 0.05), mid: share(found, 0.5), high: share(found, 0.95) };
}
