import type { Params } from '../../model/types.ts';
import { tenTo } from '../../model/power.ts';
import { absorber } from './absorber.ts';
import type { Network, RoomType } from './network.ts';

/**
 * Line lengths and diffusers in ms: spread by ratios without small common factors, so that no two lines'
 * echoes fall together.
 */
const SPACES: Record<RoomType, { lines: number[]; diffusers: number[] }> = {
  room: { lines: [11.3, 13.7, 16.1, 18.7, 21.1, 23.9, 26.3, 29.5], diffusers: [1.7, 2.9, 4.3, 6.1] },
  hall: { lines: [43.1, 48.7, 54.3, 60.1, 66.7, 72.1, 78.5, 86.3], diffusers: [4.7, 7.3, 11.1, 15.9] },
  plate: { lines: [19.1, 22.7, 26.9, 30.1, 34.7, 38.3, 42.7, 47.9], diffusers: [2.3, 3.7, 5.3, 8.9] },
  chamber: { lines: [29.3, 33.7, 38.1, 43.3, 48.1, 53.9, 58.3, 64.7], diffusers: [3.1, 5.3, 8.1, 12.7] },
};

/**
 * Extra places between the rings: at distances of a power of two all of them would compete for the same few
 * lines of the processor's cache.
 */
const APART = 72;
/** samples that are worked on together; the values glide in the same steps */
const STEP = 16;
/** coefficient of the allpass diffusers, where the decay is long enough for it */
const DIFFUSION = 0.62;
/** −400 dB: far under anything that could be heard or measured. */
const QUIET = 1e-20;

/**
 * Revision 1 of the reverb: allpass diffusers, then a feedback delay network of eight lines with an absorbing filter
 * each (J.-M. Jot, A. Chaigne, "Digital delay networks for designing artificial reverberators", AES 90, 1991); in
 * place, fully wet.
 */
export class EightLines implements Network {
  private readonly lines: Float64Array;
  private readonly diff: Float64Array;
  private readonly size: number;
  private readonly dsize: number;
  private readonly len = new Int32Array(8);
  private readonly dlen = new Int32Array(8);
  /** the lines' absorbing filters, five coefficients each, and where they glide to */
  private readonly c = new Float64Array(8 * 5);
  private readonly goalC = new Float64Array(8 * 5);
  /** their states, two each */
  private readonly s = new Float64Array(8 * 2);
  /** coefficients of the diffusers: a short room's ring no longer than the room */
  private readonly d = new Float64Array(8);
  private readonly goalD = new Float64Array(8);
  private readonly v = new Float64Array(8 * STEP);
  private readonly x = new Float64Array(2 * STEP);
  private out = 0.35;
  private goalOut = 0.35;
  private at = 0;
  private quiet = 0;
  private asleep = true;

  constructor(
    readonly key: RoomType,
    private readonly fs: number,
  ) {
    const space = SPACES[key];
    for (let k = 0; k < 8; k++) {
      this.len[k] = Math.max(STEP, Math.round((space.lines[k] * fs) / 1000));
      // the right side's diffusers are a little longer, so that the sides never move alike
      this.dlen[k] = Math.max(STEP, Math.round((space.diffusers[k % 4] * fs * (k < 4 ? 1 : 1.137)) / 1000));
    }
    this.size = pow2(Math.max(...this.len) + 1);
    this.dsize = pow2(Math.max(...this.dlen) + 1);
    this.lines = new Float64Array((this.size + APART) * 8);
    this.diff = new Float64Array((this.dsize + APART) * 8);
  }

  set(p: Params, immediate: boolean): void {
    const decay = p.decay as number;
    const damping = (p.damping as number) / 100;
    let meanSq = 0;
    for (let k = 0; k < 8; k++) {
      this.goalC.set(absorber(this.len[k], decay, damping, this.fs), 5 * k);
      this.goalD[k] = Math.min(DIFFUSION, tenTo((-6 * this.dlen[k]) / (this.fs * decay)));
      meanSq += tenTo((-6 * this.len[k]) / (this.fs * decay)) / 8;
    }
    // steady level of the tail does not depend on the decay: the sum of a geometric series of loop energies
    this.goalOut = Math.sqrt(1 - meanSq) * 0.8;
    if (immediate) {
      this.c.set(this.goalC);
      this.d.set(this.goalD);
      this.out = this.goalOut;
    }
  }

  process(l: Float64Array, r: Float64Array, n: number): void {
    if (this.asleep && this.staysAsleep(l, r, n)) return;
    const { c, d } = this;
    for (let done = 0; done < n;) {
      if ((this.at & (STEP - 1)) === 0) {
        // values glide in steps of 16 samples, about 20 ms to 63 %
        for (let k = 0; k < 40; k++) c[k] += 0.0165 * (this.goalC[k] - c[k]);
        for (let k = 0; k < 8; k++) d[k] += 0.0165 * (this.goalD[k] - d[k]);
        this.out += 0.0165 * (this.goalOut - this.out);
      }
      const m = Math.min(STEP - (this.at & (STEP - 1)), n - done);
      this.step(l, r, done, m);
      this.at = (this.at + m) & 0x3fffffff;
      done += m;
    }
    this.sleepIfQuiet(l, r, n);
  }

  /**
   * A few samples at a time, stage by stage: no ring is shorter than a step, so within one nothing waits for
   * what it has just written, and the machine works on several samples at once.
   */
  private step(l: Float64Array, r: Float64Array, from: number, m: number): void {
    const { lines, diff, len, dlen, c, s, v, x, at, out } = this;
    const mask = this.size - 1;
    const dmask = this.dsize - 1;
    const size = this.size + APART;
    const dsize = this.dsize + APART;
    const K = 0.35355339059327373; // 1/√8: the Hadamard matrix made orthonormal
    for (let i = 0; i < m; i++) {
      x[i] = l[from + i];
      x[STEP + i] = r[from + i];
    }
    for (let k = 0; k < 8; k++) {
      const base = k * dsize;
      const side = k < 4 ? 0 : STEP;
      const back = at - dlen[k];
      const share = this.d[k];
      for (let i = 0; i < m; i++) {
        const d = diff[base + ((back + i) & dmask)];
        let w = x[side + i] - share * d;
        if (Math.abs(w) < 1e-30) w = 0;
        diff[base + ((at + i) & dmask)] = w;
        x[side + i] = d + share * w;
      }
    }
    for (let k = 0; k < 8; k++) {
      const base = k * size;
      const back = at - len[k];
      const into = k * STEP;
      const b0 = c[5 * k];
      const b1 = c[5 * k + 1];
      const b2 = c[5 * k + 2];
      const a1 = c[5 * k + 3];
      const a2 = c[5 * k + 4];
      let s1 = s[2 * k];
      let s2 = s[2 * k + 1];
      for (let i = 0; i < m; i++) {
        const u = lines[base + ((back + i) & mask)];
        const y = b0 * u + s1;
        s1 = b1 * u - a1 * y + s2;
        s2 = b2 * u - a2 * y;
        v[into + i] = y;
      }
      s[2 * k] = s1;
      s[2 * k + 1] = s2;
    }
    for (let i = 0; i < m; i++) {
      const v0 = v[i];
      const v1 = v[STEP + i];
      const v2 = v[2 * STEP + i];
      const v3 = v[3 * STEP + i];
      const v4 = v[4 * STEP + i];
      const v5 = v[5 * STEP + i];
      const v6 = v[6 * STEP + i];
      const v7 = v[7 * STEP + i];
      l[from + i] = out * (v0 - v2 + v4 - v6);
      r[from + i] = out * (v1 - v3 + v5 - v7);
      const p0 = v0 + v1;
      const p1 = v0 - v1;
      const p2 = v2 + v3;
      const p3 = v2 - v3;
      const p4 = v4 + v5;
      const p5 = v4 - v5;
      const p6 = v6 + v7;
      const p7 = v6 - v7;
      const q0 = p0 + p2;
      const q1 = p1 + p3;
      const q2 = p0 - p2;
      const q3 = p1 - p3;
      const q4 = p4 + p6;
      const q5 = p5 + p7;
      const q6 = p4 - p6;
      const q7 = p5 - p7;
      const xi = x[i];
      const y = x[STEP + i];
      const w = (at + i) & mask;
      lines[w] = K * (q0 + q4) + xi;
      lines[size + w] = K * (q1 + q5) + y;
      lines[2 * size + w] = K * (q2 + q6) - xi;
      lines[3 * size + w] = K * (q3 + q7) - y;
      lines[4 * size + w] = K * (q0 - q4) + xi;
      lines[5 * size + w] = K * (q1 - q5) + y;
      lines[6 * size + w] = K * (q2 - q6) - xi;
      lines[7 * size + w] = K * (q3 - q7) - y;
    }
  }

  /**
   * When nothing has come in or out for twice the longest line, the network is emptied and rests: silence
   * costs nothing and nothing turns denormal.
   */
  private sleepIfQuiet(l: Float64Array, r: Float64Array, n: number): void {
    let top = 0;
    for (let i = 0; i < n; i++) top = Math.max(top, Math.abs(l[i]), Math.abs(r[i]));
    this.quiet = top < QUIET ? this.quiet + n : 0;
    if (this.quiet > 2 * this.size) {
      this.reset();
      this.asleep = true;
    }
  }

  private staysAsleep(l: Float64Array, r: Float64Array, n: number): boolean {
    for (let i = 0; i < n; i++) {
      if (l[i] > QUIET || l[i] < -QUIET || r[i] > QUIET || r[i] < -QUIET) {
        this.asleep = false;
        this.quiet = 0;
        return false;
      }
    }
    return true;
  }

  reset(): void {
    this.lines.fill(0);
    this.diff.fill(0);
    this.s.fill(0);
  }
}

function pow2(n: number): number {
  let s = 16;
  while (s < n) s *= 2;
  return s;
}
