import { cascade, doubles, ints } from './kernels/index.ts';
import { tenTo } from '../model/power.ts';

/**
 * Second-order sections. Coefficients after R. Bristow-Johnson, "Cookbook formulae for audio EQ biquad filter
 * coefficients" (W3C Note 2021);
 * a section is [b0, b1, b2, a1, a2] with a0 = 1. High-pass and low-pass slopes other than 12 dB/oct are
 * Butterworth cascades.
 */
export type Section = [number, number, number, number, number];
export const IDENTITY: Section = [1, 0, 0, 0, 0];
export type FilterType = 'bell' | 'lowShelf' | 'highShelf' | 'highPass' | 'lowPass' | 'notch' | 'bandPass';

/** One cookbook section. f in Hz (held under 0.49 fs), gain in dB, q as Q. */
export function cookbook(type: FilterType, f: number, gain: number, q: number, fs: number): Section {
  const w = (2 * Math.PI * Math.min(f, 0.49 * fs)) / fs;
  const [c, s] = [Math.cos(w), Math.sin(w)];
  const alpha = s / (2 * q);
  const A = tenTo(gain / 40);
  const norm = (b0: number, b1: number, b2: number, a0: number, a1: number, a2: number): Section => [
    b0 / a0,
    b1 / a0,
    b2 / a0,
    a1 / a0,
    a2 / a0,
  ];
  const k = 2 * Math.sqrt(A) * alpha;
  switch (type) {
    case 'bell':
      return norm(1 + alpha * A, -2 * c, 1 - alpha * A, 1 + alpha / A, -2 * c, 1 - alpha / A);
    case 'lowShelf':
      return norm(
        A * (A + 1 - (A - 1) * c + k),
        2 * A * (A - 1 - (A + 1) * c),
        A * (A + 1 - (A - 1) * c - k),
        A + 1 + (A - 1) * c + k,
        -2 * (A - 1 + (A + 1) * c),
        A + 1 + (A - 1) * c - k,
      );
    case 'highShelf':
      return norm(
        A * (A + 1 + (A - 1) * c + k),
        -2 * A * (A - 1 + (A + 1) * c),
        A * (A + 1 + (A - 1) * c - k),
        A + 1 - (A - 1) * c + k,
        2 * (A - 1 - (A + 1) * c),
        A + 1 - (A - 1) * c - k,
      );
    case 'highPass':
      return norm((1 + c) / 2, -(1 + c), (1 + c) / 2, 1 + alpha, -2 * c, 1 - alpha);
    case 'lowPass':
      return norm((1 - c) / 2, 1 - c, (1 - c) / 2, 1 + alpha, -2 * c, 1 - alpha);
    case 'notch':
      return norm(1, -2 * c, 1, 1 + alpha, -2 * c, 1 - alpha);
    case 'bandPass':
      return norm(alpha, 0, -alpha, 1 + alpha, -2 * c, 1 - alpha);
  }
}

/** First-order high- or low-pass by the bilinear transform, as a section. */
export function firstOrder(type: 'highPass' | 'lowPass', f: number, fs: number): Section {
  const k = Math.tan((Math.PI * Math.min(f, 0.49 * fs)) / fs);
  const a1 = (k - 1) / (k + 1);
  return type === 'lowPass' ? [k / (k + 1), k / (k + 1), 0, a1, 0] : [1 / (k + 1), -1 / (k + 1), 0, a1, 0];
}

/** How sections of first and second order are made of their prototypes. */
export interface Sections {
  first(type: 'highPass' | 'lowPass', f: number, fs: number): Section;
  second(type: FilterType, f: number, gain: number, q: number, fs: number): Section;
}
export const COOKBOOK: Sections = { first: firstOrder, second: cookbook };

/**
 * High- or low-pass of 6, 12, … 48 dB/oct. At 12 dB/oct `q` shapes the corner; the others are Butterworth
 * (−3.01 dB at the corner).
 */
export function slopeSections(
  type: 'highPass' | 'lowPass',
  f: number,
  slope: number,
  q: number,
  fs: number,
  { first, second }: Sections = COOKBOOK,
): Section[] {
  const order = slope / 6;
  if (order === 1) return [first(type, f, fs)];
  if (order === 2) return [second(type, f, 0, q, fs)];
  const out: Section[] = order % 2 ? [first(type, f, fs)] : [];
  for (let k = 0; k < Math.floor(order / 2); k++) {
    const theta = (Math.PI * (2 * k + 1 + (order % 2))) / (2 * order);
    out.push(second(type, f, 0, 1 / (2 * Math.cos(theta)), fs));
  }
  return out;
}

/** Transfer function of a section at f as [re, im]. */
export function sectionAt([b0, b1, b2, a1, a2]: Section, f: number, fs: number): [number, number] {
  const w = (2 * Math.PI * f) / fs;
  const [c1, s1, c2, s2] = [Math.cos(w), -Math.sin(w), Math.cos(2 * w), -Math.sin(2 * w)];
  return divide([b0 + b1 * c1 + b2 * c2, b1 * s1 + b2 * s2], [1 + a1 * c1 + a2 * c2, a1 * s1 + a2 * s2]);
}

export const multiply = (a: [number, number], b: [number, number]): [number, number] => [
  a[0] * b[0] - a[1] * b[1],
  a[0] * b[1] + a[1] * b[0],
];
const divide = (a: [number, number], b: [number, number]): [number, number] => {
  const d = b[0] * b[0] + b[1] * b[1];
  return [(a[0] * b[0] + a[1] * b[1]) / d, (a[1] * b[0] - a[0] * b[1]) / d];
};

/**
 * A cascade of up to `max` stereo sections whose coefficients glide: moves are linear in the coefficients
 * over 20 ms, stepped every 16 samples. Stable, since
 * the stability region of (a1, a2) is convex.
 */
export class Cascade {
  private readonly now: Float64Array;
  private readonly goal: Float64Array;
  private readonly delta: Float64Array;
  private readonly state: Float64Array;
  private readonly active: Int32Array;
  private count = 0;
  private left = 0;
  private readonly glide: number;

  constructor(
    private readonly max: number,
    sampleRate: number,
  ) {
    this.now = doubles(max * 5);
    this.goal = new Float64Array(max * 5);
    this.delta = new Float64Array(max * 5);
    this.state = doubles(max * 4);
    this.active = ints(max);
    this.glide = Math.max(1, Math.round((sampleRate * 0.02) / 16));
    for (let i = 0; i < max; i++) this.now[i * 5] = this.goal[i * 5] = 1;
  }

  /** Sections beyond those given become the identity. */
  set(sections: (Section | null)[], immediate: boolean): void {
    let changed = false;
    for (let i = 0; i < this.max; i++) {
      const s = sections[i] ?? IDENTITY;
      for (let j = 0; j < 5; j++) {
        if (this.goal[i * 5 + j] !== s[j]) {
          this.goal[i * 5 + j] = s[j];
          changed = true;
        }
      }
    }
    if (!changed && !immediate) return;
    if (immediate) {
      this.now.set(this.goal);
      this.left = 0;
    } else {
      this.left = this.glide;
      for (let k = 0; k < this.max * 5; k++) this.delta[k] = (this.goal[k] - this.now[k]) / this.glide;
    }
    this.choose();
  }

  /** true while coefficients glide */
  get moving(): boolean {
    return this.left > 0;
  }

  private choose(): void {
    this.count = 0;
    for (let i = 0; i < this.max; i++) {
      let idle = true;
      for (let j = 0; j < 5; j++) {
        if (this.now[i * 5 + j] !== IDENTITY[j] || (this.left > 0 && this.goal[i * 5 + j] !== IDENTITY[j])) {
          idle = false;
        }
      }
      if (!idle) this.active[this.count++] = i;
      else this.state.fill(0, i * 4, i * 4 + 4);
    }
  }

  process(l: Float64Array, r: Float64Array, n: number): void {
    let at = 0;
    while (at < n && this.left > 0) {
      const m = Math.min(16, n - at);
      for (let k = 0; k < this.max * 5; k++) this.now[k] += this.delta[k];
      if (--this.left === 0) {
        this.now.set(this.goal);
        this.run(l, r, at, at + m);
        this.choose();
      } else this.run(l, r, at, at + m);
      at += m;
    }
    if (at < n) this.run(l, r, at, n);
  }

  private run(l: Float64Array, r: Float64Array, from: number, to: number): void {
    cascade(l, r, from, to, this.now, this.state, this.active, this.count);
  }

  reset(): void {
    this.state.fill(0);
  }
}
