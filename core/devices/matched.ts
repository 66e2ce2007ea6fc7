import { cookbook, firstOrder, IDENTITY, type FilterType, type Section, type Sections } from './biquad.ts';
import { eliminated } from './eliminate.ts';
import { square, tenTo } from '../model/power.ts';

/**
 * Second-order sections whose magnitude follows the analogue prototype up to 20 kHz, where the bilinear transform of the
 * cookbook cramps. The squared magnitude of a section is a quotient of two quadratics in x = sin²(ω/2), that of the
 * prototype one in Ω²: the coefficients in x are fitted to the prototype by weighted least squares, the weights taken
 * from the round before (C. K. Sanathanan and J. Koerner, IEEE Trans. Automatic Control 8, 1963) and from the errors
 * that are left (C. L. Lawson, 1961), and the section follows by spectral factorisation. After S. J. Orfanidis,
 * "Digital parametric equalizer design with prescribed Nyquist-frequency gain", JAES 45(6), 1997, and M. Vicanek,
 * "Matched second order digital filters", 2016, which match fewer points in closed form. All from memory.
 */

/** Hz: as far as the prototype is followed, or 0.93 of half the rate where that is lower */
const TOP = 20500;
const ROUNDS = 16;
/** dB: a section of the cookbook that is so close to the prototype is taken as it is */
const CLOSE = 0.08;
/** dB: no better fit is looked for */
const GOOD = 0.1;

/** Coefficients of 1, s and s² of a prototype with its corner at 1. */
export interface Prototype {
  over: [number, number, number];
  under: [number, number, number];
}

export function prototypeOf(type: FilterType, gain: number, q: number): Prototype {
  const a = tenTo(gain / 40);
  const root = Math.sqrt(a);
  switch (type) {
    case 'bell':
      return { over: [1, a / q, 1], under: [1, 1 / (a * q), 1] };
    case 'lowShelf':
      return { over: [a * a, (a * root) / q, a], under: [1, root / q, a] };
    case 'highShelf':
      return { over: [a, (a * root) / q, a * a], under: [a, root / q, 1] };
    case 'highPass':
      return { over: [0, 0, 1], under: [1, 1 / q, 1] };
    case 'lowPass':
      return { over: [1, 0, 0], under: [1, 1 / q, 1] };
    case 'notch':
      return { over: [1, 0, 1], under: [1, 1 / q, 1] };
    case 'bandPass':
      return { over: [0, 1 / q, 0], under: [1, 1 / q, 1] };
  }
}

const squared = ([c0, c1, c2]: [number, number, number], v: number): number => {
  const re = c0 - c2 * v;
  return re * re + c1 * c1 * v;
};
/** Squared magnitude of a prototype at a frequency over its corner. */
export const powerAt = (p: Prototype, ratio: number): number =>
  squared(p.over, ratio * ratio) / squared(p.under, ratio * ratio);

/** Sections that follow their prototypes to 20 kHz. */
export const MATCHED: Sections = { first: matchedFirst, second: matched };

const known = new Map<string, Section>();

/** A matched section: f in Hz, gain in dB, q as Q. What was fitted before is not fitted again. */
export function matched(type: FilterType, f: number, gain: number, q: number, fs: number): Section {
  const isFlat = (type === 'bell' || type === 'lowShelf' || type === 'highShelf') && Math.abs(gain) < 1e-6;
  if (isFlat) return IDENTITY;
  const key = `${type} ${f} ${gain} ${q} ${fs}`;
  const before = known.get(key);
  if (before) return before;
  if (known.size > 2000) known.clear();
  const made = new Fit(type, Math.min(f, 0.49 * fs), gain, q, fs).section();
  known.set(key, made);
  return made;
}

/** Share of half the rate where a section of first order meets its prototype, besides the low end. */
const MEETS = 0.8;

/**
 * First-order high- or low-pass: the squared magnitude (c + n·x) / (1 + d·x) of the prototype v / (1 + v) or 1 / (1 + v)
 * of v = (ω/ω0)² at the low end, where x is ω²/4, and at 0.8 of half the rate.
 */
export function matchedFirst(type: 'highPass' | 'lowPass', f: number, fs: number): Section {
  const w0 = (2 * Math.PI * Math.min(f, 0.49 * fs)) / fs;
  const v = (MEETS * Math.PI) / w0;
  const x = sine2(MEETS * Math.PI);
  const low = 4 / (w0 * w0);
  const isLow = type === 'lowPass';
  const g = (isLow ? 1 : v * v) / (1 + v * v);
  const d = isLow ? (g - 1 + low * x) / (x * (1 - g)) : (low * x) / (g * x) - 1 / x;
  const [b0, b1] = isLow ? halves(1, 1 + d - low) : halves(0, low);
  const [a0, a1] = halves(1, 1 + d);
  const isSound = Number.isFinite(b0 + b1 + a0 + a1) && Math.abs(a1) < a0;
  return isSound ? [b0 / a0, b1 / a0, 0, a1 / a0, 0] : firstOrder(type, f, fs);
}
const halves = (dc: number, nyquist: number) => {
  const [p, q] = [Math.sqrt(dc), Math.sqrt(nyquist)];
  return [(p + q) / 2, (p - q) / 2];
};

const sine2 = (w: number): number => {
  const s = Math.sin(w / 2);
  return s * s;
};

/** The section with a squared magnitude of c0 + c1·x + c2·x², stable and of minimum phase; null where it is negative. */
function factor(c0: number, c1: number, c2: number): [number, number, number] | null {
  const end = Math.max(-1e-12, c0 + c1 + c2);
  if (c0 < 0 || end < -1e-9) return null;
  const [p, q] = [Math.sqrt(c0), Math.sqrt(Math.max(0, end))];
  const w = (p + q) / 2;
  const rest = w * w - c2 / 4;
  if (!(rest >= 0)) return null;
  const b0 = (w + Math.sqrt(rest)) / 2;
  return b0 > 0 ? [b0, (p - q) / 2, c2 / (16 * b0)] : null;
}

/** Radians a sample up to which a prototype is followed. */
export const topAt = (fs: number): number => Math.min(0.93 * Math.PI, (2 * Math.PI * TOP) / fs);

/** Where a fit looks, radians a sample: close around the corners, and spread up to the top; two beyond keep it from bending over. */
export function placesOf(of: {
  type: FilterType;
  gain: number;
  q: number;
  corner: number;
  top: number;
}): number[] {
  const a = tenTo(of.gain / 40);
  const isShelf = of.type === 'lowShelf' || of.type === 'highShelf';
  const corners = isShelf ? [1, Math.sqrt(a), 1 / Math.sqrt(a)] : [1];
  const widths = of.type === 'bell' ? [a, 1 / a] : [1];
  const out: number[] = [];
  for (const corner of corners) {
    for (const width of widths) {
      for (const t of [0, 0.35, 1, 2.2, 4.5, 12]) {
        const e = Math.exp(Math.asinh((width * t) / (2 * of.q)));
        out.push(of.corner * corner * e, (of.corner * corner) / e);
      }
    }
  }
  for (const t of [0.03, 0.1, 0.2, 0.35, 0.5, 0.65, 0.78, 0.87, 0.93, 0.97, 1]) out.push(of.top * t);
  return [...out.filter((w) => w <= of.top), 0.97 * Math.PI, Math.PI];
}

/** One section on its way to its prototype. */
class Fit {
  private readonly w0: number;
  private readonly x0: number;
  private readonly top: number;
  private readonly p: Prototype;
  /** places (over x0), what the prototype has there, and how much each counts */
  private readonly y: Float64Array;
  private readonly g: Float64Array;
  private readonly weight: Float64Array;
  private readonly inside: boolean[];
  /** fixed part of the upper quadratic, by place, and whether its first and second coefficient are free */
  private readonly fixed: Float64Array;
  private readonly free: [boolean, boolean];

  constructor(
    private readonly type: FilterType,
    private readonly f: number,
    private readonly gain: number,
    private readonly q: number,
    private readonly fs: number,
  ) {
    this.w0 = (2 * Math.PI * f) / fs;
    this.x0 = sine2(Math.min(this.w0, 0.9 * Math.PI));
    this.top = topAt(fs);
    this.p = prototypeOf(type, gain, q);
    const places = placesOf({ type, gain, q, corner: this.w0, top: this.top });
    this.inside = places.map((w) => w <= this.top * 1.001);
    this.y = Float64Array.from(places, (w) => sine2(w) / this.x0);
    this.g = Float64Array.from(places, (w) => powerAt(this.p, w / this.w0));
    this.weight = Float64Array.from(this.inside, (isInside) => (isInside ? 1 : 0.02));
    const dc = powerAt(this.p, 0);
    const zero = sine2(this.w0) / this.x0;
    const notch = (y: number) => (1 - y / zero) * (1 - y / zero);
    this.fixed = this.y.map((y) => (type === 'notch' ? notch(y) : dc));
    this.free = [type !== 'highPass' && type !== 'notch', type !== 'notch'];
  }

  section(): Section {
    const plain = cookbook(this.type, this.f, this.gain, this.q, this.fs);
    let best = plain;
    let least = this.errorOf(plain);
    if (least < CLOSE) return plain;
    // the prototype's own lower part is a good first guess of the section's
    const ratios = this.y.map((y) => (2 * Math.asin(Math.min(1, Math.sqrt(y * this.x0)))) / this.w0);
    const under = ratios.map((u) => squared(this.p.under, u * u) / squared(this.p.under, 0));
    for (let round = 0; round < ROUNDS && least > GOOD; round++) {
      const c = this.solve(under);
      if (!c) break;
      const made = this.factored(c);
      const off = made ? this.errorOf(made) : Infinity;
      if (made && off < least) [best, least] = [made, off];
      this.reweigh(c, under, round, made !== null);
    }
    return best;
  }

  /** The largest difference (dB) from the prototype; what lies under −80 dB counts as that. */
  private errorOf([b0, b1, b2, a1, a2]: Section): number {
    // of both quadratics in x, from the sections' coefficients
    const over = [square(b0 + b1 + b2), -4 * (b0 * b1 + b1 * b2 + 4 * b0 * b2), 16 * b0 * b2];
    const under = [square(1 + a1 + a2), -4 * (a1 + a1 * a2 + 4 * a2), 16 * a2];
    let most = 0;
    for (let i = 0; i < this.y.length; i++) {
      if (!this.inside[i]) continue;
      const x = this.y[i] * this.x0;
      const h = (over[0] + x * (over[1] + x * over[2])) / (under[0] + x * (under[1] + x * under[2]));
      most = Math.max(most, Math.abs(Math.log10((Math.max(0, h) + 1e-8) / (this.g[i] + 1e-8))));
    }
    return 10 * most;
  }

  /** Least squares of the free coefficients: first and second of the upper quadratic, then those of the lower one. */
  private solve(under: Float64Array): [number, number, number, number] | null {
    const n = 2 + Number(this.free[0]) + Number(this.free[1]);
    const m = Array.from({ length: n }, () => new Float64Array(n + 1));
    const row = new Float64Array(n + 1);
    for (let i = 0; i < this.y.length; i++) {
      const [y, g] = [this.y[i], this.g[i]];
      const scale = Math.sqrt(this.weight[i]) / ((g + 1e-6) * under[i]);
      let k = 0;
      if (this.free[0]) row[k++] = y * scale;
      if (this.free[1]) row[k++] = y * y * scale;
      row[k++] = -g * y * scale;
      row[k++] = -g * y * y * scale;
      row[k] = (g - this.fixed[i]) * scale;
      for (let a = 0; a < n; a++) {
        for (let b = a; b <= n; b++) m[a][b] += row[a] * row[b];
      }
    }
    for (let a = 0; a < n; a++) for (let b = 0; b < a; b++) m[a][b] = m[b][a];
    const found = eliminated(m);
    if (!found) return null;
    const [d1, d2] = found.slice(-2);
    let k = 0;
    const n1 = this.free[0] ? found[k++] : 0;
    const n2 = this.free[1] ? found[k] : 0;
    return [n1, n2, d1, d2];
  }

  private factored([n1, n2, d1, d2]: [number, number, number, number]): Section | null {
    const { x0 } = this;
    const a = factor(1, d1 / x0, d2 / (x0 * x0));
    const b = this.type === 'notch' ? this.onCircle() : factor(this.fixed[0], n1 / x0, n2 / (x0 * x0));
    if (!a || !b) return null;
    const s: Section = [b[0] / a[0], b[1] / a[0], b[2] / a[0], a[1] / a[0], a[2] / a[0]];
    const isStable = Math.abs(s[4]) < 1 && Math.abs(s[3]) < 1 + s[4];
    return isStable && s.every(Number.isFinite) ? s : null;
  }

  /** The zeros of a notch, with a gain of 1 at 0 Hz. */
  private onCircle(): [number, number, number] {
    const c = -2 * Math.cos(this.w0);
    return [1 / (2 + c), c / (2 + c), 1 / (2 + c)];
  }

  /** The next round's weights: by the lower quadratic, and more where this one was far off. */
  private reweigh(
    [n1, n2, d1, d2]: [number, number, number, number],
    under: Float64Array,
    round: number,
    isSound: boolean,
  ): void {
    const off = new Float64Array(this.y.length);
    for (let i = 0; i < off.length; i++) {
      const y = this.y[i];
      const d = 1 + y * (d1 + y * d2);
      const h = (this.fixed[i] + y * (n1 + y * n2)) / d;
      off[i] = Math.abs(Math.log10((Math.max(0, h) + 1e-6) / (this.g[i] + 1e-6)));
      under[i] = Math.max(1e-9, Math.abs(d));
      if (!isSound && !this.inside[i]) this.weight[i] = Math.min(1, this.weight[i] * 4);
    }
    if (round < 2) return;
    const mean = off.reduce((sum, v) => sum + v, 0) / off.length + 1e-12;
    for (let i = 0; i < off.length; i++) this.weight[i] *= Math.sqrt(0.2 + off[i] / mean);
  }
}
