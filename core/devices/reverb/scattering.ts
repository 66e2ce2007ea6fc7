import { doubles, ints, scatter } from '../kernels/index.ts';
import {
  ABSORB,
  DIRECT,
  EARLY_LEFT,
  EARLY_RIGHT,
  GAINS,
  GUARD,
  INPUTS,
  LINES,
  MAP,
  OUT,
  SCATTER,
  SPREAD,
  STEP,
  SUMS,
  TAP_COUNT,
  TAP_LEFT,
  TAP_RIGHT,
  TURN,
  VALUES,
  WORK,
  type ScatterState,
} from '../kernels/scatter.ts';
import { tenTo } from '../../model/power.ts';
import type { Params } from '../../model/types.ts';
import { absorberOf, absorptionOf, decayAt, type Absorption } from './absorber.ts';
import type { Network, RoomType } from './network.ts';
import { CHANNELS, lengthsOf, type Lengths, type Tap } from './spaces.ts';

/** −400 dB: far under anything that could be heard or measured. */
const QUIET = 1e-20;
/** samples over which a turn of the matrix goes in a straight line */
const TURN_STEP = 256;
/** radians by which the matrix turns to and fro, and the slowest and the fastest turn (Hz) */
const TURNS = { depth: 0.7, slowest: 0.13, fastest: 1.1 };
/** share of the way to a new value in a step: about 20 ms to 63 % */
const GLIDE = 0.0165;
/** Level of what comes out against what goes in, for a steady sound. */
const LEVEL = 0.37;
/** Hz: where the level of the tail is added up, octave by octave */
const OCTAVES = [125, 250, 500, 1000, 2000, 4000, 8000];
const GOLDEN = 0.6180339887498949;
const frac = (x: number) => x - Math.floor(x);
const SIGNS = Array.from({ length: CHANNELS }, (_, k) => (frac(k * GOLDEN * 2.3 + 0.1) < 0.5 ? -1 : 1));
/** of the pairs of channels that the two sides hear */
const HEARD = Array.from({ length: CHANNELS / 2 }, (_, j) => SIGNS[(3 * j + 1) % CHANNELS]);

const meanOf = (list: readonly number[]) => list.reduce((a, b) => a + b, 0) / list.length;

/** How long the lines of a space and the delays behind them are, in samples: the middle and the longest. */
function waysOf({ lines, scatter: delays }: Lengths) {
  const extra = meanOf(delays);
  return { mean: meanOf(lines) + extra, longest: Math.max(...lines) + extra, extra };
}

/**
 * The decay that the reverb states: seconds in which f (Hz) falls by 60 dB, for its values. At 1 kHz it is the decay
 * that is set; above, the damping shortens it, as far as the space's size allows.
 */
export function statedDecay(params: Params, f: number, fs: number): number {
  const { mean, longest } = waysOf(lengthsOf(params.type as RoomType, fs, STEP));
  const damping = (params.damping as number) / 100;
  return decayAt(absorptionOf(mean, longest, params.decay as number, damping, fs), mean, f);
}

/**
 * Revision 2 of the reverb. A sound is spread by three stages of delays and Hadamard matrices, then goes round in
 * sixteen lines through a scattering matrix, two Hadamard matrices with delays between (S. J. Schlecht and E. A. P.
 * Habets, "Scattering in feedback delay networks", IEEE/ACM TASLP 28, 2020), which turns slowly and so moves its
 * modes without a loss of highs (the same, "Time-varying feedback matrices", JASA 138(3), 2015). Absorbing filters by
 * Jot's condition (AES 90, 1991). First reflections by mirror images. All from memory. In place, fully wet.
 */
export class Scattering implements Network {
  private readonly lengths: Lengths;
  private readonly state: ScatterState;
  /** where the values glide to; the turns of the matrix do not */
  private readonly goal = new Float64Array(VALUES);
  private moving = false;
  private at = 0;
  private quiet = 0;
  private asleep = true;
  private readonly memory: number;

  constructor(
    readonly key: RoomType,
    private readonly fs: number,
  ) {
    this.lengths = lengthsOf(key, fs, STEP);
    const { lines, taps } = this.lengths;
    const map = ints(MAP);
    let size = 0;
    const ring = (r: number, delay: number) => {
      const room = pow2(delay + 2 * STEP);
      map.set([size, room - 1, delay], 3 * r);
      size += room + GUARD;
    };
    const [first, ...stages] = this.lengths.spread;
    // the first stage reads the rings of sum and difference at delays of its own
    first.forEach((d, k) => (map[3 * (SPREAD + k) + 2] = d));
    ring(SUMS, Math.max(...first));
    ring(SUMS + 1, Math.max(...first));
    stages.flat().forEach((d, k) => ring(SPREAD + CHANNELS + k, d));
    lines.forEach((d, k) => ring(LINES + k, d));
    this.lengths.scatter.forEach((d, k) => ring(SCATTER + k, d));
    const last = Math.max(1, ...taps.flat().map((t) => t.at));
    ring(INPUTS, last);
    ring(INPUTS + 1, last);
    map[TAP_COUNT] = taps[0].length;
    taps[0].forEach((t, i) => (map[TAP_LEFT + i] = t.at));
    taps[1].forEach((t, i) => (map[TAP_RIGHT + i] = t.at));
    const filters = doubles(2 * CHANNELS);
    this.state = { rings: doubles(size), map, values: doubles(VALUES), filters, work: doubles(WORK) };
    this.memory = 2 * Math.max(...lines, last) + this.lengths.spread.reduce((a, s) => a + Math.max(...s), 0);
  }

  set(p: Params, immediate: boolean): void {
    const { goal, lengths, fs } = this;
    const { mean, longest, extra } = waysOf(lengths);
    const decay = p.decay as number;
    const absorption = absorptionOf(mean, longest, decay, (p.damping as number) / 100, fs);
    const fading = (samples: number) => tenTo((-3 * samples) / (fs * decay));
    lengths.spread.forEach((stage, s) =>
      stage.forEach((d, k) => {
        // each stage's Hadamard matrix made orthonormal
        goal[GAINS + s * CHANNELS + k] = 0.25 * fading(d) * (s === 0 ? SIGNS[k] : 1);
      }),
    );
    lengths.lines.forEach((d, k) => goal.set(absorberOf(absorption, d + extra), ABSORB + 5 * k));
    const [left, right] = lengths.taps.map((side) =>
      side.map((t) => ({ ...t, gain: t.gain * fading(t.at) })),
    );
    const out = LEVEL / Math.sqrt(this.power(absorption, [left, right]));
    HEARD.forEach((sign, j) => {
      goal[OUT + j] = out * sign;
      goal[DIRECT + j] = out * sign * lengths.direct;
    });
    left.forEach((t, i) => (goal[EARLY_LEFT + i] = out * t.gain));
    right.forEach((t, i) => (goal[EARLY_RIGHT + i] = out * t.gain));
    this.moving = true;
    if (immediate) this.arrive();
  }

  /**
   * The power that comes out of a side when noise of power 1 goes into both, before the level is set: first
   * reflections, what was spread, and the sum of the rounds in the lines, which is a geometric series.
   */
  private power(absorption: Absorption, taps: Tap[][]): number {
    const { lengths, goal } = this;
    const early = meanOf(taps.map((side) => side.reduce((sum, t) => sum + t.gain * t.gain, 0)));
    let spread = 2;
    for (let s = 0; s < 3; s++) {
      const gains = goal.subarray(GAINS + s * CHANNELS, GAINS + (s + 1) * CHANNELS);
      spread *= gains.reduce((sum, g) => sum + g * g, 0);
    }
    const { mean, extra } = waysOf(lengths);
    const rounds = OCTAVES.map((f) => {
      const time = decayAt(absorption, mean, f) * absorption.sampleRate;
      const kept = meanOf(lengths.lines.map((d) => tenTo((-6 * (d + extra)) / time)));
      return kept / (1 - kept);
    });
    return early + spread * (lengths.direct * lengths.direct + meanOf(rounds));
  }

  /** All values are where they go to, but for the turns. */
  private arrive(): void {
    const { values } = this.state;
    for (let k = 0; k < TURN; k++) values[k] = this.goal[k];
    for (let k = OUT; k < VALUES; k++) values[k] = this.goal[k];
    this.moving = false;
  }

  private glide(): void {
    const { values } = this.state;
    const { goal } = this;
    let far = 0;
    for (let k = 0; k < VALUES; k++) {
      if (k === TURN) k = OUT;
      const d = goal[k] - values[k];
      values[k] += GLIDE * d;
      if (d > far) far = d;
      else if (-d > far) far = -d;
    }
    if (far < 1e-12) this.arrive();
  }

  /** Where the turns of the matrix stand at a sample, and how they go on until the next. */
  private turn(): void {
    const { values } = this.state;
    const gone = this.at & (TURN_STEP - 1);
    const from = (this.at - gone) / this.fs;
    const to = (this.at - gone + TURN_STEP) / this.fs;
    for (let j = 0; j < CHANNELS / 2; j++) {
      const rate = TURNS.slowest + (TURNS.fastest - TURNS.slowest) * frac((j + 1) * GOLDEN);
      const angle = (t: number) => TURNS.depth * Math.sin(2 * Math.PI * frac(rate * t) + j);
      const [a, b] = [angle(from), angle(to)];
      const t = TURN + 4 * j;
      // a quarter: the first Hadamard matrix made orthonormal
      values[t + 1] = (0.25 * (Math.cos(b) - Math.cos(a))) / TURN_STEP;
      values[t] = 0.25 * Math.cos(a) + gone * values[t + 1];
      values[t + 3] = (0.25 * (Math.sin(b) - Math.sin(a))) / TURN_STEP;
      values[t + 2] = 0.25 * Math.sin(a) + gone * values[t + 3];
    }
  }

  process(l: Float64Array, r: Float64Array, n: number): void {
    if (this.asleep && this.staysAsleep(l, r, n)) return;
    for (let done = 0; done < n;) {
      if ((this.at & (TURN_STEP - 1)) === 0) this.turn();
      if (this.moving && (this.at & (STEP - 1)) === 0) this.glide();
      const m = Math.min(STEP - (this.at & (STEP - 1)), n - done);
      scatter(l, r, done, m, this.at, this.state);
      this.at = (this.at + m) & 0x3fffffff;
      done += m;
    }
    this.sleepIfQuiet(l, r, n);
  }

  /**
   * When nothing has come in or out for twice the longest way, the network is emptied and rests: silence costs
   * nothing and nothing turns denormal.
   */
  private sleepIfQuiet(l: Float64Array, r: Float64Array, n: number): void {
    let top = 0;
    for (let i = 0; i < n; i++) top = Math.max(top, Math.abs(l[i]), Math.abs(r[i]));
    this.quiet = top < QUIET ? this.quiet + n : 0;
    if (this.quiet > this.memory) this.empty();
  }

  /** Goes on counting while it rests, so that it sounds the same whenever it is woken, in blocks of any length. */
  private staysAsleep(l: Float64Array, r: Float64Array, n: number): boolean {
    if (this.moving) this.arrive();
    for (let i = 0; i < n; i++) {
      if (l[i] > QUIET || l[i] < -QUIET || r[i] > QUIET || r[i] < -QUIET) {
        this.asleep = false;
        this.quiet = 0;
        this.turn();
        return false;
      }
    }
    this.at = (this.at + n) & 0x3fffffff;
    return true;
  }

  private empty(): void {
    this.state.rings.fill(0);
    this.state.filters.fill(0);
    this.asleep = true;
  }

  reset(): void {
    this.empty();
    this.at = 0;
  }
}

function pow2(n: number): number {
  let s = STEP;
  while (s < n) s *= 2;
  return s;
}
