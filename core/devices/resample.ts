import { kaiser } from './math.ts';
import { sinc } from './interpolate.ts';

// taken out of the global object once: a look-up per sample is slow in sandboxed test runs
const { ceil, floor, max, min, round } = Math;

/** zero crossings to a side, and the shape of the window: 120 dB of stop band over 0.03 of the rate */
const HALF = 128;
const BETA = 12.3;
/** share of half the lower rate that passes: what folds back lies under −120 dB up to half the rate itself */
const PASS = 0.968;

/**
 * Sample-rate conversion by a windowed sinc (Kaiser, β 12.3; 128 zero crossings a side; stop band under −120
 * dB from half the lower rate on), anti-aliased when going down. Rates in Hz; the output has
 * round(length × to / from) frames. Rational ratios use an exact table of phases; the result is aligned with
 * the input (no delay).
 */
export function resample(x: Float32Array, from: number, to: number): Float32Array {
  if (from === to) return x;
  const whole = new Resampler(from, to);
  const [first, last] = [whole.add(x), whole.end()];
  const out = new Float32Array(first.length + last.length);
  out.set(first);
  out.set(last, first.length);
  return out;
}

/** The same for a sound that comes in pieces: what comes out of all of them is what `resample` makes of the whole. */
export class Resampler {
  private readonly up: number;
  private readonly down: number;
  private readonly cut: number;
  private readonly reach: number;
  private readonly phases: number;
  private readonly table: Float64Array[];
  /** what is still needed of what came, and the place of its first frame in all of it */
  private kept = new Float32Array(0);
  private at = 0;
  /** frames that came, and that went out */
  private came = 0;
  private went = 0;

  /** @param from, to Hz */
  constructor(from: number, to: number) {
    const g = gcd(round(from), round(to));
    this.up = round(to) / g;
    this.down = round(from) / g;
    this.cut = min(1, to / from) * PASS;
    this.reach = ceil(HALF / this.cut);
    this.phases = min(this.up, 4096);
    this.table = new Array<Float64Array>(this.phases);
  }
  /** Takes the next frames; gives as much as can be said of the result by now. */
  add(x: Float32Array): Float32Array {
    const joined = new Float32Array(this.kept.length + x.length);
    joined.set(this.kept);
    joined.set(x, this.kept.length);
    this.kept = joined;
    this.came += x.length;
    // a frame needs what lies `reach` behind it
    const ready = max(this.went, floor(((this.came - this.reach) * this.up) / this.down));
    return this.upTo(ready);
  }
  /** The rest, as if silence followed. */
  end(): Float32Array {
    return this.upTo(max(this.went, round((this.came * this.up) / this.down)));
  }
  private upTo(end: number): Float32Array {
    const out = new Float32Array(end - this.went);
    const { kept: x, reach, up, down, phases } = this;
    const first = this.at;
    for (let i = 0; i < out.length; i++) {
      const place = (this.went + i) * down;
      const whole = floor(place / up);
      const phase = round(((place % up) / up) * phases);
      const [at, p] = phase === phases ? [whole + 1, 0] : [whole, phase];
      const h = (this.table[p] ??= taps(p / phases, this.cut, reach));
      const from = at - reach + 1 - first;
      const lo = max(0, -from);
      const hi = min(h.length, x.length - from);
      let y = 0;
      for (let k = lo; k < hi; k++) y += h[k] * x[from + k];
      out[i] = y;
    }
    this.went = end;
    const needed = max(first, floor((end * down) / up) - reach);
    this.kept = x.slice(needed - first);
    this.at = needed;
    return out;
  }
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
