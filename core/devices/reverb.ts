import { decay as decayPicture } from './pictures/decay.ts';
import { doubles } from './kernels/index.ts';
import { Cascade, cookbook, firstOrder, sectionAt, type Section } from './biquad.ts';
import { StereoDelay } from './align.ts';
import { Ramp, smoothing } from './math.ts';
import { choice, defineDevice, hertz, percent, type DeviceContext, type Processor } from './spec.ts';
import type { Params } from '../model/types.ts';
import { tenTo } from '../model/power.ts';

export type RoomType = 'room' | 'hall' | 'plate' | 'chamber';

/**
 * Feedback delay network of eight lines with an absorbing filter each (J.-M. Jot, A. Chaigne, "Digital delay
 * networks for designing artificial reverberators", AES 90, 1991).
 */
export const reverb = defineDevice({
  type: 'reverb',
  label: 'Reverb',
  summary: 'Room, hall, plate or chamber; decay at 1 kHz, damping, pre-delay, cuts, width, mix.',
  hasKey: false,
  shares: 'linear',
  makesSides: true,
  picture: decayPicture,
  work: 33,
  wet: 'mix',
  character: (d) => `${String(d.params.type)} reverb`,
  alike: { words: /verb|plate|hall|room|chamber/i, rank: 8 },
  params: [
    choice(
      'type',
      'Type',
      'Space',
      [
        { id: 'room', label: 'Room' },
        { id: 'hall', label: 'Hall' },
        { id: 'plate', label: 'Plate' },
        { id: 'chamber', label: 'Chamber' },
      ],
      'plate',
    ),
    {
      id: 'preDelay',
      label: 'Pre-delay',
      group: 'Space',
      kind: 'number',
      unit: 'ms',
      min: 0,
      max: 250,
      default: 10,
      taper: 'square',
      step: 0.1,
    },
    {
      id: 'decay',
      label: 'Decay',
      group: 'Space',
      kind: 'number',
      unit: 's',
      min: 0.1,
      max: 12,
      default: 1.6,
      taper: 'log',
      step: 0.01,
      help: 'RT60 at 1 kHz',
    },
    percent('damping', 'Damping', 'Tone', 0, 100, 40, {
      step: 1,
      help: '0 %: 8 kHz decays as slowly as 1 kHz; 100 %: ten times faster, as far as the space’s echoes allow',
    }),
    hertz('lowCut', 'Low cut', 'Tone', 16, 2000, 120),
    hertz('highCut', 'High cut', 'Tone', 500, 24000, 12000),
    percent('width', 'Width', 'Output', 0, 100, 100, { step: 1 }),
    percent('mix', 'Mix', 'Output', 0, 100, 100, { step: 1 }),
  ],
  latency: () => 0,
  create: (params, ctx) => new ReverbProcessor(params, ctx),
});

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

/** dB by which one pass through a line dulls at most: more would reach down to 1 kHz. */
const DULLEST = -20;

/**
 * Absorbing filter of a line of `samples` so that a decay takes `decay` s at 1 kHz whatever the damping (0…1),
 * and down to a tenth of that at 8 kHz. Jot's condition: 20·log10|H(f)| = −60·samples/(fs·T60(f)). A high shelf
 * of second order about 4 kHz leaves what lies under 1 kHz alone; its gain is sought so that 8 kHz loses what
 * it should against 1 kHz, then the whole is set by 1 kHz.
 */
export function absorber(samples: number, decay: number, damping: number, fs: number): Section {
  const loss = (seconds: number) => (-60 * samples) / (fs * seconds);
  const duller = Math.max(DULLEST, loss(decay * (1 - 0.9 * damping)) - loss(decay));
  const high = Math.min(8000, 0.4 * fs);
  const shelf = (gain: number) => cookbook('highShelf', Math.min(4000, 0.2 * fs), gain, Math.SQRT1_2, fs);
  const at = (gain: number, f: number) => 20 * Math.log10(Math.hypot(...sectionAt(shelf(gain), f, fs)));
  let gain = 0;
  if (duller < -1e-6) {
    // the loss at 8 kHz grows with the shelf's gain, and is between a half and all of it
    let [most, least] = [2 * duller, duller];
    for (let i = 0; i < 16; i++) {
      gain = (most + least) / 2;
      if (at(gain, high) - at(gain, 1000) > duller) least = gain;
      else most = gain;
    }
  }
  const [b0, b1, b2, a1, a2] = shelf(gain);
  const g = tenTo((loss(decay) - at(gain, 1000)) / 20);
  return [g * b0, g * b1, g * b2, a1, a2];
}

class ReverbProcessor implements Processor {
  reduction = 0;
  level = -160;
  private net: Network;
  private old: Network | null = null;
  private fade = 0;
  private readonly fadeLength: number;
  private readonly pre: StereoDelay;
  private readonly tone: Cascade;
  private readonly mix = new Ramp(0);
  /** what enters a network that has just been put in */
  private readonly rise = new Ramp(1);
  private readonly width = new Ramp(0);
  private readonly wl: Float64Array;
  private readonly wr: Float64Array;
  private readonly ol: Float64Array;
  private readonly or: Float64Array;

  constructor(
    params: Params,
    private readonly ctx: DeviceContext,
  ) {
    this.wl = doubles(ctx.maxBlock);
    this.wr = doubles(ctx.maxBlock);
    this.ol = doubles(ctx.maxBlock);
    this.or = doubles(ctx.maxBlock);
    this.pre = new StereoDelay(ctx.sampleRate, ctx.maxBlock);
    this.tone = new Cascade(2, ctx.sampleRate);
    this.fadeLength = Math.round(ctx.sampleRate * 0.1);
    this.net = new Network(params.type as RoomType, ctx.sampleRate);
    this.set(params, true);
  }

  set(p: Params, immediate: boolean): void {
    const fs = this.ctx.sampleRate;
    const glide = immediate ? 0 : smoothing(fs);
    if (p.type !== this.net.type) {
      // another space is another network: the old one rings on while it fades
      this.old = immediate ? null : this.net;
      this.fade = immediate ? 0 : this.fadeLength;
      this.net = new Network(p.type as RoomType, fs);
      this.net.set(p, true);
      this.rise.to(0, 0);
      this.rise.to(1, immediate ? 0 : smoothing(fs));
    } else this.net.set(p, immediate);
    this.pre.set(Math.round(((p.preDelay as number) * fs) / 1000), immediate);
    this.tone.set(
      [
        cookbook('highPass', p.lowCut as number, 0, Math.SQRT1_2, fs),
        firstOrder('lowPass', p.highCut as number, fs),
      ],
      immediate,
    );
    this.mix.to((p.mix as number) / 100, glide);
    this.width.to((p.width as number) / 100, glide);
  }

  process(l: Float64Array, r: Float64Array, n: number): void {
    const wl = this.wl;
    const wr = this.wr;
    for (let i = 0; i < n; i++) {
      wl[i] = l[i];
      wr[i] = r[i];
    }
    this.pre.process(wl, wr, n);
    this.tone.process(wl, wr, n);
    if (this.old) {
      const ol = this.ol;
      const or = this.or;
      for (let i = 0; i < n; i++) {
        ol[i] = wl[i];
        or[i] = wr[i];
      }
      this.old.process(ol, or, n);
      this.rise.scale(wl, wr, n);
      this.net.process(wl, wr, n);
      for (let i = 0; i < n; i++) {
        const g = Math.max(0, this.fade - i) / this.fadeLength;
        wl[i] += g * ol[i];
        wr[i] += g * or[i];
      }
      this.fade -= n;
      if (this.fade <= 0) this.old = null;
    } else this.net.process(wl, wr, n);
    let at = 0;
    while (at < n) {
      const m = this.mix.left || this.width.left ? Math.min(4, n - at) : n - at;
      const wet = this.mix.value;
      const dry = 1 - wet;
      const w = this.width.value;
      for (let i = at; i < at + m; i++) {
        const mid = (wl[i] + wr[i]) * 0.5;
        const side = (wl[i] - wr[i]) * 0.5 * w;
        l[i] = dry * l[i] + wet * (mid + side);
        r[i] = dry * r[i] + wet * (mid - side);
      }
      this.mix.advance(m);
      this.width.advance(m);
      at += m;
    }
  }

  reset(): void {
    this.net.reset();
    this.pre.reset();
    this.tone.reset();
    this.old = null;
    this.fade = 0;
  }
}

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

/** Diffusers and the eight lines; in place, fully wet. */
class Network {
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
    readonly type: RoomType,
    private readonly fs: number,
  ) {
    const space = SPACES[type];
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
        if (w < 1e-30 && w > -1e-30) w = 0;
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
