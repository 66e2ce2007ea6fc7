import FFT from 'fft.js';

export type Samples = ArrayLike<number>;

/** What came back against what went out, over frequency: H = R·P* / (|P|² + ε), bin by bin. */
export interface Transfer {
  /** points of the transform */
  size: number;
  /** interleaved, size points */
  h: number[];
  /** bins between which the played signal has enough of everything */
  low: number;
  high: number;
  fft: FFT;
}

const transforms = new Map<number, FFT>();
/** The transform of a size; its tables are made once. */
function transformOf(size: number): FFT {
  const known = transforms.get(size) ?? new FFT(size);
  transforms.set(size, known);
  return known;
}

/** Interleaved complex numbers; the package takes typed arrays as well as lists, and they are faster. */
const zeros = (size: number) => new Float64Array(2 * size) as unknown as number[];
const complex = (x: Samples, size: number): number[] => {
  const out = zeros(size);
  for (let i = 0; i < x.length; i++) out[2 * i] = x[i];
  return out;
};

/** Deconvolution by division of the spectra; for a sweep it is Farina's inverse filter. */
export function transferOf(played: Samples, recorded: Samples): Transfer {
  // room for the harmonics, which come out at negative times
  let size = 1024;
  while (size < 1.2 * Math.max(played.length, recorded.length)) size *= 2;
  const fft = transformOf(size);
  const [p, r] = [zeros(size), zeros(size)];
  fft.transform(p, complex(played, size));
  fft.transform(r, complex(recorded, size));
  const power = new Float64Array(size / 2);
  for (let k = 0; k < size / 2; k++) power[k] = p[2 * k] ** 2 + p[2 * k + 1] ** 2;
  const { low, high } = bandOf(power);
  const top = power.reduce((a, b) => Math.max(a, b), 0);
  const h = zeros(size);
  for (let k = low; k <= high; k++) {
    const d = power[k] + 1e-9 * top + 1e-30;
    h[2 * k] = (r[2 * k] * p[2 * k] + r[2 * k + 1] * p[2 * k + 1]) / d;
    h[2 * k + 1] = (r[2 * k + 1] * p[2 * k] - r[2 * k] * p[2 * k + 1]) / d;
  }
  return { size, h, low, high, fft };
}

/** The bins in which a signal has power, seen over neighbours. */
function bandOf(power: Float64Array): { low: number; high: number } {
  const width = Math.max(1, power.length >> 11);
  const blocks = Array.from({ length: Math.floor(power.length / width) }, (_, b) => {
    let sum = 0;
    for (let i = 0; i < width; i++) sum += power[b * width + i];
    return sum;
  });
  const most = Math.max(...blocks);
  const strong = blocks.map((b) => b > 2e-4 * most);
  const first = Math.max(0, strong.indexOf(true));
  const last = strong.lastIndexOf(true);
  // at the bottom single bins count: what lies under the lowest tone would be divided by next to nothing
  const top = power.reduce((a, b) => Math.max(a, b), 0);
  let low = Math.max(1, first * width);
  while (low < (first + 8) * width && power[low] < 0.002 * top) low++;
  return { low, high: Math.min(power.length - 2, (last + 1) * width - 1) };
}

/**
 * The impulse response, weighted over frequency; negative times lie at the end.
 * @param weight 0 … 1 for each bin
 */
export function impulseOf(t: Transfer, weight: (bin: number) => number): Float64Array {
  const spectrum = zeros(t.size);
  for (let k = t.low; k <= t.high; k++) {
    const w = weight(k);
    spectrum[2 * k] = t.h[2 * k] * w;
    spectrum[2 * k + 1] = t.h[2 * k + 1] * w;
    spectrum[2 * (t.size - k)] = spectrum[2 * k];
    spectrum[2 * (t.size - k) + 1] = -spectrum[2 * k + 1];
  }
  const out = zeros(t.size);
  t.fft.inverseTransform(out, spectrum);
  return realOf(out, 0, t.size);
}

/** Falls to nothing towards the top of the band, so that an impulse has hardly any ripples beside it. */
export const smooth = (t: Transfer) => (bin: number) =>
  Math.cos((Math.PI / 2) * Math.min(1, bin / t.high)) ** 2 *
  Math.min(1, (bin - t.low + 1) / (t.low + 1)) ** 2;
/** The real halves of complex numbers, moved by `start` into a list of another length. */
function realOf(x: number[], start: number, length: number): Float64Array {
  const out = new Float64Array(length);
  const last = Math.min(length, x.length / 2 + start);
  for (let i = Math.max(0, start); i < last; i++) out[i] = x[2 * (i - start)];
  return out;
}

/** All of the band, with soft edges. */
export const whole = (t: Transfer) => (bin: number) => {
  const edge = 0.06 * t.high;
  return Math.min(1, (t.high - bin + 1) / edge, (bin - t.low + 1) / (0.5 * t.low + 1));
};

/** A value between the samples by 64 terms of the band-limited series, with a raised-cosine window. */
function between(h: Float64Array, at: number): number {
  const n = h.length;
  const base = Math.floor(at);
  let sum = 0;
  for (let k = base - 31; k <= base + 32; k++) {
    const x = at - k;
    const sinc = x === 0 ? 1 : Math.sin(Math.PI * x) / (Math.PI * x);
    sum += h[((k % n) + n) % n] * sinc * (0.5 + 0.5 * Math.cos((Math.PI * x) / 32.5));
  }
  return sum;
}

/** The place of a peak to a small part of a sample: on a grid of eighths, then a parabola over three of them. */
export function refine(h: Float64Array, near: number): { at: number; value: number } {
  const STEP = 1 / 8;
  const size = (at: number) => Math.abs(between(h, at));
  let best = near;
  for (let i = -12; i <= 12; i++) if (size(near + i * STEP) > size(best)) best = near + i * STEP;
  const [a, b, c] = [size(best - STEP), size(best), size(best + STEP)];
  const bend = a - 2 * b + c;
  const at = bend < 0 ? best + (STEP * 0.5 * (a - c)) / bend : best;
  return { at, value: between(h, at) };
}

/** A signal through an impulse response whose first sample lies at `start`. */
export function through(x: Samples, h: Float64Array, start: number, length: number): Float64Array {
  let size = 1024;
  while (size < x.length + h.length) size *= 2;
  const fft = transformOf(size);
  const [a, b] = [zeros(size), zeros(size)];
  fft.transform(a, complex(x, size));
  fft.transform(b, complex(h, size));
  for (let k = 0; k < size; k++) {
    const [re, im] = [
      a[2 * k] * b[2 * k] - a[2 * k + 1] * b[2 * k + 1],
      a[2 * k] * b[2 * k + 1] + a[2 * k + 1] * b[2 * k],
    ];
    a[2 * k] = re;
    a[2 * k + 1] = im;
  }
  fft.inverseTransform(b, a);
  return Float64Array.from({ length }, (_, i) =>
    i - start >= 0 && i - start < size ? b[2 * (i - start)] : 0,
  );
}

/** |H| of a short response over frequency, in dB, at the frequencies that are asked for (Hz). */
export function levelsOf(h: Float64Array, sampleRate: number, frequencies: readonly number[]): number[] {
  let size = 1024;
  while (size < 2 * h.length) size *= 2;
  const fft = transformOf(size);
  const out = zeros(size);
  fft.transform(out, complex(h, size));
  return frequencies.map((f) => {
    const bin = (f * size) / sampleRate;
    const k = Math.min(size / 2 - 1, Math.max(1, Math.round(bin)));
    return 10 * Math.log10(out[2 * k] ** 2 + out[2 * k + 1] ** 2 + 1e-30);
  });
}
