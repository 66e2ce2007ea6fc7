import { sibilance } from './pictures/sibilance.ts';
import { doubles } from './kernels/index.ts';
import { Cascade, cookbook } from './biquad.ts';
import { DB_PER_OCTAVE, Glide, Ramp, exp2, log2, poleFor, settled, smoothing } from './math.ts';
import { choice, decibels, defineDevice, hertz, toggle, type DeviceContext, type Processor } from './spec.ts';
import type { Params } from '../model/types.ts';

/**
 * De-esser: a detector that hears only what lies above the frequency, and a gain that acts on the whole sound
 * (wide) or on the highs (split). Split is a shelf of two first-order sections whose
 * height follows the gain, so that nothing at all is changed while there is no sibilance.
 */
export const deesser = defineDevice({
  type: 'deesser',
  label: 'De-esser',
  summary: 'Takes sibilance down, in the highs only or in the whole sound; listen to what it hears.',
  hasKey: true,
  keepsMono: true,
  shares: 'gain',
  sharesWith: (p) => p.listen !== true,
  picture: sibilance,
  work: 7,
  reduces: true,
  alike: { words: /de-?ess|sibil/i, rank: 1 },
  params: [
    hertz('frequency', 'Frequency', 'Detector', 1500, 16000, 5500),
    decibels('threshold', 'Threshold', 'Detector', -60, 0, -30, { step: 0.1 }),
    decibels('range', 'Range', 'Reduction', -24, 0, -8, { step: 0.1, help: 'The most that is taken away' }),
    choice(
      'mode',
      'Acts on',
      'Reduction',
      [
        { id: 'split', label: 'Highs (split)' },
        { id: 'wide', label: 'Whole sound (wide)' },
      ],
      'split',
    ),
    toggle('listen', 'Listen to detector', 'Key', false),
  ],
  latency: () => 0,
  curve: (x, p) => x + deessGain(x, p),
  create: (params, ctx) => new DeesserProcessor(params, ctx),
});

/** Sibilance over the threshold by x dB is taken down by three quarters of x (4:1), to the range at most. */
const SLOPE = 0.75;
/**
 * the shelf's corner lies this far under the detector's frequency, so that most of the reduction is there at
 * the frequency itself
 */
const CORNER = 0.4;
const ATTACK_MS = 0.8;
const RELEASE_MS = 45;
export const deessGain = (x: number, p: Params): number =>
  Math.max(p.range as number, -SLOPE * Math.max(0, x - (p.threshold as number)));

const { abs, max } = Math;
const FLOOR = 1e-7;
const T = 0;
const RANGE = 1;
const POLE = 2;
const SPLIT = 3;

class DeesserProcessor implements Processor {
  reduction = 0;
  level = -160;
  private readonly glide: Glide;
  private readonly filter: Cascade;
  private readonly dl: Float64Array;
  private readonly dr: Float64Array;
  private readonly listen = new Ramp(0);
  private readonly fs: number;
  private readonly attack: number;
  private readonly release: number;
  private readonly smooth: number;
  private gain = 0;
  /** low-pass states of the two shelves, left and right */
  private readonly s = new Float64Array(4);
  constructor(params: Params, ctx: DeviceContext) {
    this.fs = ctx.sampleRate;
    this.smooth = smoothing(this.fs);
    this.glide = new Glide(4, this.smooth);
    this.filter = new Cascade(2, this.fs);
    this.dl = doubles(ctx.maxBlock);
    this.dr = doubles(ctx.maxBlock);
    this.attack = poleFor(ATTACK_MS, this.fs);
    this.release = poleFor(RELEASE_MS, this.fs);
    this.set(params, true);
  }
  set(p: Params, immediate: boolean): void {
    const f = Math.min(p.frequency as number, 0.45 * this.fs);
    this.glide.set(
      [
        (p.threshold as number) / DB_PER_OCTAVE,
        (p.range as number) / DB_PER_OCTAVE,
        1 - Math.exp((-2 * Math.PI * f * CORNER) / this.fs),
        p.mode === 'split' ? 1 : 0,
      ],
      immediate,
    );
    // 24 dB/oct Butterworth: the voice's body must not reach the detector
    this.filter.set(
      [cookbook('highPass', f, 0, 0.5411961, this.fs), cookbook('highPass', f, 0, 1.306563, this.fs)],
      immediate,
    );
    this.listen.to(p.listen ? 1 : 0, immediate ? 0 : this.smooth);
  }
  process(l: Float64Array, r: Float64Array, n: number, keyL: Float64Array, keyR: Float64Array): void {
    const dl = this.dl;
    const dr = this.dr;
    const v = this.glide.now;
    const s = this.s;
    for (let i = 0; i < n; i++) {
      dl[i] = keyL[i];
      dr[i] = keyR[i];
    }
    this.filter.process(dl, dr, n);
    let g = this.gain;
    let least = 0;
    let loud = FLOOR;
    let at = 0;
    const a = this.attack;
    const b = this.release;
    while (at < n) {
      const m = this.glide.span(n - at);
      const split = v[SPLIT];
      const k = v[POLE];
      for (let i = at; i < at + m; i++) {
        let x = max(abs(dl[i]), abs(dr[i]));
        if (x < FLOOR) x = FLOOR;
        else if (x > 8e6) x = 8e6;
        if (x > loud) loud = x;
        const goal = max(v[RANGE], -SLOPE * max(0, log2(x) - v[T]));
        g += (goal < g ? a : b) * (goal - g);
        if (g < least) least = g;
        const wide = exp2(g);
        // two shelves share the gain: √g each
        const q = exp2(0.5 * g);
        let y = l[i];
        let z = r[i];
        s[0] += k * (y - s[0]);
        s[1] += k * (z - s[1]);
        y = q * y + (1 - q) * s[0];
        z = q * z + (1 - q) * s[1];
        s[2] += k * (y - s[2]);
        s[3] += k * (z - s[3]);
        y = q * y + (1 - q) * s[2];
        z = q * z + (1 - q) * s[3];
        l[i] = split * y + (1 - split) * wide * l[i];
        r[i] = split * z + (1 - split) * wide * r[i];
      }
      this.glide.advance(m);
      at += m;
    }
    for (let j = 0; j < 4; j++) s[j] = settled(s[j]);
    this.gain = settled(g);
    this.reduction = this.taken(least, n);
    this.level = Math.log2(loud) * DB_PER_OCTAVE;
    if (this.listen.value > 0 || this.listen.left > 0) {
      for (let i = 0; i < n; i++) {
        const w = this.listen.value;
        l[i] += w * (dl[i] - l[i]);
        r[i] += w * (dr[i] - r[i]);
        this.listen.advance(1);
      }
    }
  }
  /**
   * What a gain (log2) takes from the sound that the detector hears. The shelves of the split mode reach all of it only
   * far above their corner: what they take is read where the sound is, by the correlation of neighbouring samples
   * (cos ω of a tone).
   */
  private taken(gain: number, n: number): number {
    const { dl, dr } = this;
    let power = 0;
    let next = 0;
    for (let i = 1; i < n; i++) {
      power += dl[i] * dl[i] + dr[i] * dr[i];
      next += dl[i] * dl[i - 1] + dr[i] * dr[i - 1];
    }
    const split = this.glide.now[SPLIT];
    const wide = gain * DB_PER_OCTAVE;
    if (split === 0 || power < 1e-14) return wide;
    const c = Math.max(-1, Math.min(1, next / power));
    const k = this.glide.now[POLE];
    const q = exp2(0.5 * gain);
    // two shelves q + (1 − q)·k / (1 − (1 − k)·z⁻¹) at z = cos ω + i·sin ω
    const a = 1 - k;
    const under = 1 - 2 * a * c + a * a;
    const re = q + ((1 - q) * k * (1 - a * c)) / under;
    const im = (-(1 - q) * k * a * Math.sqrt(1 - c * c)) / under;
    const shelves = 20 * Math.log10(re * re + im * im);
    return split * shelves + (1 - split) * wide;
  }
  reset(): void {
    this.s.fill(0);
    this.gain = 0;
    this.filter.reset();
  }
}
