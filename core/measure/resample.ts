import { kaiser } from '../devices/math.ts';
import { sinc } from '../devices/interpolate.ts';

// taken out of the global object once: a look-up per sample is slow in sandboxed test runs
const { ceil, floor, max, min, round } = Math;

const HALF = 64;
const BETA = 11;

/**
 * Sample-rate conversion by a windowed sinc (Kaiser, β 11; 64 zero crossings a side; stop band under −110
 * dB), anti-aliased when going down. Rates in Hz; the output has
 * round(length × to / from) frames. Rational ratios use an exact table of phases; the result is aligned with
 * the input (no delay).
 */
export function resample(x: Float32Array, from: number, to: number): Float32Array {
  if (from === to) return x;
  const g = gcd(round(from), round(to));
  const up = round(to) / g;
  const down = round(from) / g;
  const cut = min(1, to / from) * 0.965;
  const reach = ceil(HALF / cut);
  const phases = min(up, 4096);
  const table: Float64Array[] = new Array<Float64Array>(phases);
  const out = new Float32Array(round((x.length * to) / from));
  for (let i = 0; i < out.length; i++) {
    const whole = floor((i * down) / up);
    const phase = round((((i * down) % up) / up) * phases);
    const [at, p] = phase === phases ? [whole + 1, 0] : [whole, phase];
    const h = (table[p] ??= taps(p / phases, cut, reach));
    const lo = max(0, reach - 1 - at);
    const hi = min(h.length, x.length - at + reach - 1);
    let y = 0;
    for (let k = lo; k < hi; k++) y += h[k] * x[at + k - reach + 1];
    out[i] = y;
  }
  return out;
}

function taps(offset: number, cut: number, reach: number): Float64Array {
  const h = new Float64Array(reach * 2);
  let sum = 0;
  for (let k = 0; k < h.length; k++) {
    const t = k - reach + 1 - offset;
    h[k] = cut * sinc(cut * t) * kaiser(t / reach, BETA);
    sum += h[k];
  }
  return h.map((v) => v / sum);
}

const gcd = (a: number, b: number): number => (b === 0 ? a : gcd(b, a % b));
