import type { Section } from './biquad.ts';
import { eliminated } from './eliminate.ts';

/**
 * One more section behind others that mends what is left of their distance from a magnitude: small steps on its
 * logarithm. K. Levenberg, Quarterly of Applied Mathematics 2, 1944, and D. Marquardt, SIAM Journal 11, 1963; weights
 * after C. L. Lawson, 1961. All from memory.
 */

/** What sections together shall become. */
export interface Aim {
  places: Places;
  /** squared magnitudes at each place: what is wanted, and what the sections before have */
  wanted: Float64Array;
  before: Float64Array;
  /** whether the gain at 0 Hz is right already */
  keepsLow: boolean;
}

/** Where magnitudes are looked at. */
export class Places {
  /** e^(−jω) and e^(−2jω) at each: real and imaginary parts, one after the other */
  readonly waves: Float64Array;

  /**
   * @param at radians a sample
   * @param inside how many of them, from the first on, are where it counts
   */
  constructor(
    readonly at: readonly number[],
    readonly inside: number,
  ) {
    this.waves = new Float64Array(4 * at.length);
    at.forEach((w, i) =>
      this.waves.set([Math.cos(w), -Math.sin(w), Math.cos(2 * w), -Math.sin(2 * w)], 4 * i),
    );
  }
  /** Multiplies powers by the squared magnitude of a section. */
  through([b0, b1, b2, a1, a2]: Section, powers: Float64Array): void {
    const { waves } = this;
    for (let i = 0, k = 0; i < powers.length; i++, k += 4) {
      const [c1, s1, c2, s2] = [waves[k], waves[k + 1], waves[k + 2], waves[k + 3]];
      const [nr, ni] = [b0 + b1 * c1 + b2 * c2, b1 * s1 + b2 * s2];
      const [dr, di] = [1 + a1 * c1 + a2 * c2, a1 * s1 + a2 * s2];
      powers[i] *= (nr * nr + ni * ni) / (dr * dr + di * di);
    }
  }
  /** The largest difference of two powers (dB) where it counts; what lies under −80 dB counts as that. */
  apart(one: Float64Array, two: Float64Array): number {
    let most = 1;
    for (let i = 0; i < this.inside; i++) {
      const ratio = (one[i] + FLOOR) / (two[i] + FLOOR);
      most = Math.max(most, ratio, 1 / ratio);
    }
    return 10 * Math.log10(most);
  }
}

/** Both of its zeros and poles beside half the rate, where what is left mostly lies. */
const START: Section = [1, 0.35, 0.02, 0.25, 0.01];
const STEPS = 12;
/** tries of one step, each shorter than the one before */
const TRIES = 8;
/** steps from one change of the weights to the next */
const WEIGH_EVERY = 3;
/** what a place counts at first where it does not count */
const OUTSIDE = 1e-4;
/** −80 dB */
const FLOOR = 1e-8;
/** how far from 0 its zeros and poles may lie: none makes a peak so narrow that it hides between two places */
const WIDEST = 0.9;

/** Whether both roots of 1 + x·z⁻¹ + y·z⁻² are within that. */
function isInside(x: number, y: number): boolean {
  const two = y / (WIDEST * WIDEST);
  return Math.abs(two) < 1 && Math.abs(x / WIDEST) < 1 + two;
}

/** The section on its way. Its free values: b0, b1, (b2 where the gain at 0 Hz is free), a1, a2. */
class Polish {
  /** of each place: how far (natural logarithm of power) it is off, what it counts, by how much each value moves it */
  readonly off: Float64Array;
  private readonly weight: Float64Array;
  private readonly slopes: Float64Array;
  private readonly goal: Float64Array;
  private readonly powers: Float64Array;
  /** how many values are free */
  private readonly n: number;

  constructor(private readonly aim: Aim) {
    const { length } = aim.wanted;
    this.n = aim.keepsLow ? 4 : 5;
    this.off = new Float64Array(length);
    this.powers = new Float64Array(length);
    this.slopes = new Float64Array(length * this.n);
    this.weight = new Float64Array(length).fill(1).fill(OUTSIDE, aim.places.inside);
    this.goal = aim.wanted.map((g) => Math.log(g + FLOOR));
  }
  start(): number[] {
    const [b0, b1, b2, a1, a2] = START;
    return this.aim.keepsLow ? [b0, b1, a1, a2] : [b0, b1, b2, a1, a2];
  }
  sectionOf(v: readonly number[]): Section {
    const [a1, a2] = v.slice(-2);
    return [v[0], v[1], this.aim.keepsLow ? 1 + a1 + a2 - v[0] - v[1] : v[2], a1, a2];
  }
  isSound([b0, b1, b2, a1, a2]: Section): boolean {
    return isInside(a1, a2) && b0 > 0 && isInside(b1 / b0, b2 / b0);
  }
  /** Finds how far a section is off. @returns the sum of squares that is to become small */
  look(s: Section): number {
    const { powers, off, goal, weight } = this;
    powers.set(this.aim.before);
    this.aim.places.through(s, powers);
    let cost = 0;
    for (let i = 0; i < off.length; i++) {
      off[i] = Math.log(powers[i] + FLOOR) - goal[i];
      cost += weight[i] * off[i] * off[i];
    }
    return cost;
  }
  /** The largest of them where it counts, dB. */
  most(): number {
    let most = 0;
    for (let i = 0; i < this.aim.places.inside; i++) most = Math.max(most, Math.abs(this.off[i]));
    return (10 / Math.LN10) * most;
  }
  /** Finds by how much each value of the section that was looked at last moves what it is off. */
  lean([b0, b1, b2, a1, a2]: Section): void {
    const { slopes, powers, n } = this;
    const { waves } = this.aim.places;
    const keepsLow = this.aim.keepsLow;
    for (let i = 0, k = 0, at = 0; i < powers.length; i++, k += 4, at += n) {
      const [c1, s1, c2, s2] = [waves[k], waves[k + 1], waves[k + 2], waves[k + 3]];
      const [nr, ni] = [b0 + b1 * c1 + b2 * c2, b1 * s1 + b2 * s2];
      const [dr, di] = [1 + a1 * c1 + a2 * c2, a1 * s1 + a2 * s2];
      const told = (2 * powers[i]) / (powers[i] + FLOOR);
      const [over, under] = [told / (nr * nr + ni * ni), told / (dr * dr + di * di)];
      const three = over * (c2 * nr + s2 * ni);
      const hangs = keepsLow ? three : 0;
      slopes[at] = over * nr - hangs;
      slopes[at + 1] = over * (c1 * nr + s1 * ni) - hangs;
      if (!keepsLow) slopes[at + 2] = three;
      slopes[at + n - 2] = hangs - under * (c1 * dr + s1 * di);
      slopes[at + n - 1] = hangs - under * (c2 * dr + s2 * di);
    }
  }
  /** The step against the slopes, as a system of equations without its damping. */
  system(): Float64Array[] {
    const { slopes, off, weight, n } = this;
    const m = Array.from({ length: n }, () => new Float64Array(n + 1));
    for (let i = 0, at = 0; i < off.length; i++, at += n) {
      for (let a = 0; a < n; a++) {
        const by = weight[i] * slopes[at + a];
        for (let b = 0; b < n; b++) m[a][b] += by * slopes[at + b];
        m[a][n] += by * off[i];
      }
    }
    return m;
  }
  /** More for places that are far off (Lawson), among those where it counts. */
  reweigh(): void {
    const { off, weight } = this;
    const { inside } = this.aim.places;
    let mean = 1e-12;
    for (let i = 0; i < inside; i++) mean += Math.abs(off[i]) / inside;
    for (let i = 0; i < inside; i++) weight[i] *= Math.sqrt(0.2 + Math.abs(off[i]) / mean);
  }
}

/** The system damped, and solved; null where it is singular. */
function damped(m: readonly Float64Array[], damping: number): number[] | null {
  const rows = m.map((row) => row.slice());
  for (let a = 0; a < rows.length; a++) rows[a][a] = rows[a][a] * (1 + damping) + 1e-12;
  return eliminated(rows);
}

/**
 * Looks for the section.
 * @param good dB: no better one is looked for
 * @returns it, and the largest difference (dB) that is left; null where none was found
 */
export function polish(aim: Aim, good: number): { section: Section; off: number } | null {
  const work = new Polish(aim);
  let v = work.start();
  let cost = work.look(work.sectionOf(v));
  let best: { section: Section; off: number } | null = null;
  let damping = 1e-2;
  for (let step = 0; step < STEPS && !(best && best.off < good); step++) {
    work.lean(work.sectionOf(v));
    const system = work.system();
    let isBetter = false;
    for (let n = 0; n < TRIES && !isBetter; n++) {
      const by = damped(system, damping);
      const tried = v.map((x, j) => x - (by ? by[j] : 0));
      const section = work.sectionOf(tried);
      const now = by && work.isSound(section) ? work.look(section) : Infinity;
      isBetter = now < cost;
      damping = isBetter ? Math.max(1e-9, damping / 5) : damping * 6;
      if (!isBetter) continue;
      [v, cost] = [tried, now];
      const off = work.most();
      if (!best || off < best.off) best = { section, off };
    }
    if (!isBetter) {
      damping = 1e-2;
      work.look(work.sectionOf(v));
    }
    if (isBetter && step % WEIGH_EVERY !== WEIGH_EVERY - 1) continue;
    work.reweigh();
    cost = work.look(work.sectionOf(v));
  }
  return best;
}
