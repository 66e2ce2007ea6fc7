import FFT from 'fft.js';

/**
 * How a space answers an impulse, by the measures that tell a room from a resonating pipe. All take an impulse
 * response (samples) and its rate (Hz).
 */

const WINDOW = 0.02;
/** erfc(1/√2): the share of a normal distribution that lies over its standard deviation */
const NORMAL = 0.3173105078629141;

/** Hann window of n samples. */
const hann = (n: number) =>
  Float64Array.from({ length: n }, (_, i) => 0.5 - 0.5 * Math.cos((2 * Math.PI * (i + 0.5)) / n));

/**
 * Normalised echo density around a moment (s): the weighted share of a window of 20 ms that lies over its standard
 * deviation, against that of a normal distribution; 0 for single echoes, 1 for noise.
 * Source: J. S. Abel and P. Huang, "A simple, robust measure of reverberation echo density", AES 121, 2006 (from memory).
 */
export function echoDensity(impulse: Float32Array, at: number, sampleRate: number): number {
  const n = Math.round(WINDOW * sampleRate);
  const from = Math.round(at * sampleRate) - (n >> 1);
  const weights = hann(n);
  const sum = weights.reduce((a, b) => a + b, 0);
  const x = (i: number) => impulse[from + i] ?? 0;
  const deviation = Math.sqrt(weights.reduce((a, w, i) => a + w * x(i) * x(i), 0) / sum);
  const over = weights.reduce((a, w, i) => a + (Math.abs(x(i)) > deviation ? w : 0), 0);
  return over / sum / NORMAL;
}

/** When (s) the echo density first reaches 1, to a millisecond; NaN when it never does. */
export function denseFrom(impulse: Float32Array, sampleRate: number): number {
  const end = impulse.length / sampleRate;
  for (let t = 0.003; t < end; t += 0.001) if (echoDensity(impulse, t, sampleRate) >= 1) return t;
  return NaN;
}

/**
 * By how much (dB, standard deviation) the spectrum of a stretch of `size` samples from `from` (s) on goes up and down
 * between 100 Hz and 8 kHz, its decay of `decay` s taken out. 5.6 where the sound field is diffuse.
 * Source: M. R. Schroeder, "Die statistischen Parameter der Frequenzkurven von großen Räumen", Acustica 4, 1954 (from
 * memory).
 */
export function spectralDeviation(
  impulse: Float32Array,
  from: number,
  decay: number,
  sampleRate: number,
  size = 16384,
): number {
  const power = powerOf(straightened(impulse, from, decay, sampleRate, size, hann(size)));
  const first = Math.round((100 * size) / sampleRate);
  const last = Math.round((8000 * size) / sampleRate);
  const levels = Array.from(power.subarray(first, last), (p) => 10 * Math.log10(p + 1e-30));
  const mean = levels.reduce((a, b) => a + b, 0) / levels.length;
  return Math.sqrt(levels.reduce((a, v) => a + (v - mean) ** 2, 0) / levels.length);
}

/**
 * How much (0 … 1) a tail repeats itself: the largest autocorrelation of `seconds` from `from` (s) on, its decay taken
 * out, at distances of 2 to 400 ms.
 */
export function repetition(
  impulse: Float32Array,
  from: number,
  decay: number,
  sampleRate: number,
  seconds = 0.5,
): number {
  const n = Math.round(seconds * sampleRate);
  const size = 2 ** Math.ceil(Math.log2(2 * n));
  const x = straightened(impulse, from, decay, sampleRate, n);
  const power = powerOf(
    Float64Array.from({ length: size }, (_, i) => x[i] ?? 0),
    true,
  );
  const fft = new FFT(size);
  const out = fft.createComplexArray();
  fft.realTransform(out, power as unknown as number[]);
  let most = 0;
  const last = Math.min(n / 2, 0.4 * sampleRate);
  for (let k = Math.round(0.002 * sampleRate); k < last; k++) {
    most = Math.max(most, Math.abs(out[2 * k] / out[0]));
  }
  return most;
}

/** A stretch with its decay taken out. */
function straightened(
  impulse: Float32Array,
  from: number,
  decay: number,
  sampleRate: number,
  size: number,
  weights?: Float64Array,
): Float64Array {
  const start = Math.round(from * sampleRate);
  return Float64Array.from({ length: size }, (_, i) => {
    const level = Math.exp((Math.LN10 * 3 * i) / (sampleRate * decay));
    return (impulse[start + i] ?? 0) * level * (weights?.[i] ?? 1);
  });
}

/** Power of each bin up to half the rate; of all bins, mirrored, when asked for. */
function powerOf(x: Float64Array, mirrored = false): Float64Array {
  const n = x.length;
  const fft = new FFT(n);
  const out = fft.createComplexArray();
  fft.realTransform(out, x as unknown as number[]);
  const power = new Float64Array(mirrored ? n : n / 2);
  for (let k = 0; k <= n / 2; k++) {
    const p = out[2 * k] ** 2 + out[2 * k + 1] ** 2;
    if (k < power.length) power[k] = p;
    if (mirrored && k > 0) power[n - k] = p;
  }
  return power;
}
