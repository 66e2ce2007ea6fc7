import { sibilance } from './pictures/sibilance.ts';
import { copy, doubles, powers } from './kernels/index.ts';
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
  work: 3.4,
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

const { abs, max, min } = Math;
/** the quietest that a detector tells, and the loudest that a logarithm takes */
const FLOOR = 1e-7;
const CEILING = 8e6;
/** dB: a reduction that no meter shows */
const NOTHING = 0.01;
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
  /** of a block: the deepest gain, and the loudest sample that the detector hears */
  private least = 0;
  private loud = FLOOR;
  /** of each sample: the gain of the whole sound, and that of each shelf */
  private readonly wides: Float64Array;
  private readonly shelves: Float64Array;
  /** low-pass states of the two shelves of a side */
  private readonly sl = new Float64Array(2);
  private readonly sr = new Float64Array(2);
  constructor(params: Params, ctx: DeviceContext) {
    this.fs = ctx.sampleRate;
    this.smooth = smoothing(this.fs);
    this.glide = new Glide(4, this.smooth);
    this.filter = new Cascade(2, this.fs);
    this.dl = doubles(ctx.maxBlock);
    this.dr = doubles(ctx.maxBlock);
    this.wides = doubles(ctx.maxBlock);
    this.shelves = doubles(ctx.maxBlock);
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
    this.work(l, r, n, keyL, keyR, 2);
  }
  processOne(l: Float64Array, r: Float64Array, n: number): void {
    this.work(l, r, n, l, r, 1);
    copy(r, 0, l, 0, n);
  }
  twin(): void {
    this.sr.set(this.sl);
  }
  private work(
    l: Float64Array,
    r: Float64Array,
    n: number,
    keyL: Float64Array,
    keyR: Float64Array,
    sides: 1 | 2,
  ): void {
    const { dl, dr, glide } = this;
    copy(dl, 0, keyL, 0, n);
    copy(dr, 0, keyR, 0, n);
    this.filter.process(dl, dr, n);
    this.loud = FLOOR;
    this.least = 0;
    for (let at = 0; at < n;) {
      const end = at + glide.span(n - at);
      this.detect(at, end);
      this.shape(l, this.sl, at, end);
      if (sides === 2) this.shape(r, this.sr, at, end);
      glide.advance(end - at);
      at = end;
    }
    this.reduction = this.taken(this.least, n);
    this.level = Math.log2(this.loud) * DB_PER_OCTAVE;
    if (this.listen.value > 0 || this.listen.left > 0) this.listenTo(l, r, n);
  }
  /** The gains of a stretch, from what the detector hears on either side. */
  private detect(from: number, to: number): void {
    const { dl, dr, wides, shelves, attack, release } = this;
    const v = this.glide.now;
    const threshold = v[T];
    const range = v[RANGE];
    const starts = exp2(threshold);
    let { gain, least, loud } = this;
    for (let i = from; i < to; i++) {
      const x = max(abs(dl[i]), abs(dr[i]));
      if (x > loud) loud = x;
      const goal = x > starts ? max(range, -SLOPE * (log2(min(x, CEILING)) - threshold)) : 0;
      gain += (goal < gain ? attack : release) * (goal - gain);
      if (gain < least) least = gain;
      wides[i] = gain;
      // two shelves share the gain: √g each
      shelves[i] = 0.5 * gain;
    }
    powers(wides, from, to);
    powers(shelves, from, to);
    this.gain = settled(gain);
    this.least = least;
    this.loud = loud;
  }
  /** The gains of a stretch put to one side of the sound, whose shelves stand at `s`. */
  private shape(x: Float64Array, s: Float64Array, from: number, to: number): void {
    const { wides, shelves } = this;
    const split = this.glide.now[SPLIT];
    const k = this.glide.now[POLE];
    let a = s[0];
    let b = s[1];
    for (let i = from; i < to; i++) {
      const q = shelves[i];
      let y = x[i];
      a += k * (y - a);
      y = q * y + (1 - q) * a;
      b += k * (y - b);
      y = q * y + (1 - q) * b;
      x[i] = split * y + (1 - split) * wides[i] * x[i];
    }
    s[0] = settled(a);
    s[1] = settled(b);
  }
  private listenTo(l: Float64Array, r: Float64Array, n: number): void {
    const { dl, dr } = this;
    for (let i = 0; i < n; i++) {
      const w = this.listen.value;
      l[i] += w * (dl[i] - l[i]);
      r[i] += w * (dr[i] - r[i]);
      this.listen.advance(1);
    }
  }
  /**
   * What a gain (log2) takes from the sound that the detector hears. The shelves of the split mode reach all of it only
   * far above their corner: what they take is read where the sound is, by the correlation of neighbouring samples
   * (cos ω of a tone).
   */
  private taken(gain: number, n: number): number {
    const { dl, dr } = this;
    const wide = gain * DB_PER_OCTAVE;
    if (wide > -NOTHING) return wide;
    let power = 0;
    let next = 0;
    for (let i = 1; i < n; i++) {
      power += dl[i] * dl[i] + dr[i] * dr[i];
      next += dl[i] * dl[i - 1] + dr[i] * dr[i - 1];
    }
    const split = this.glide.now[SPLIT];
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
    this.sl.fill(0);
    this.sr.fill(0);
    this.gain = 0;
    this.filter.reset();
  }
}
