import { transfer } from './pictures/transfer.ts';
import { copy, doubles, powers } from './kernels/index.ts';
import { Cascade, cookbook } from './biquad.ts';
import { StereoDelay } from './align.ts';
import { DB_PER_OCTAVE, Glide, Ramp, exp2, log2, poleFor, settled, smoothing } from './math.ts';
import { decibels, defineDevice, hertz, millis, toggle, type DeviceContext, type Processor } from './spec.ts';
import type { Params } from '../model/types.ts';

/**
 * Downward expander with hysteresis and hold (D. Giannoulis, M. Massberg, J. Reiss, JAES 60(6), 2012, section
 * 1: the expander is the compressor's curve turned over; attack and release are time
 * constants). Ratio ∞ and a deep range make a gate; a low ratio and a small range make a gentle expander.
 */
export const gate = defineDevice({
  type: 'gate',
  label: 'Gate',
  summary: 'Closes below a threshold: range, ratio, hysteresis, hold, lookahead, key with filters.',
  hasKey: true,
  keepsMono: true,
  shares: 'gain',
  sharesWith: (p) => p.listen !== true,
  shutByKey: true,
  picture: transfer,
  work: 1.5,
  reduces: true,
  alike: { words: /gate|expand/i, rank: 5 },
  params: [
    decibels('threshold', 'Threshold', 'Curve', -80, 0, -40, { step: 0.1 }),
    {
      id: 'ratio',
      label: 'Ratio',
      group: 'Curve',
      kind: 'number',
      unit: ':1',
      min: 1,
      max: 100,
      default: 10,
      taper: 'log',
      step: 0.1,
      help: 'How much further it falls than the sound; 100 and “inf” stand for ∞:1',
    },
    decibels('range', 'Range', 'Curve', -80, 0, -40, { step: 0.1, help: 'The most that is taken away' }),
    decibels('hysteresis', 'Hysteresis', 'Curve', 0, 24, 4, {
      step: 0.1,
      help: 'How far under the threshold the sound must fall before it closes',
    }),
    millis('attack', 'Attack', 'Time', 0.01, 250, 0.5),
    millis('hold', 'Hold', 'Time', 1, 2000, 40),
    millis('release', 'Release', 'Time', 1, 4000, 120, { tempoBound: true }),
    {
      id: 'lookahead',
      label: 'Lookahead',
      group: 'Time',
      kind: 'number',
      unit: 'ms',
      min: 0,
      max: 20,
      default: 0,
      taper: 'linear',
      step: 0.1,
    },
    toggle('keyFilter', 'Key filter', 'Key', false),
    hertz('keyLow', 'Key high-pass', 'Key', 16, 10000, 80),
    hertz('keyHigh', 'Key low-pass', 'Key', 40, 24000, 12000),
    toggle('listen', 'Listen to key', 'Key', false),
  ],
  latency: (p, fs) => Math.round(((p.lookahead as number) * fs) / 1000),
  curve: (x, p) => x + gateGain(x, p),
  create: (params, ctx) => new GateProcessor(params, ctx),
  earlier: [
    {
      since: 'with a lookahead longer than its attack it is open when the sound arrives',
      differs: (p) => opensInTime(p) && (p.range as number) < 0,
    },
  ],
});

/** Whether it has the time to open before the sound comes. */
const opensInTime = (p: Params): boolean => (p.lookahead as number) >= (p.attack as number);
/** dB that may be missing when the sound comes */
const ALMOST = 0.05;

/**
 * Pole of the opening: the attack's, or where the lookahead is longer, one that comes within ALMOST of open in that
 * time.
 */
function openingPole(p: Params, fs: number): number {
  const pole = poleFor(p.attack as number, fs);
  const range = -(p.range as number);
  if (!opensInTime(p) || range <= ALMOST) return pole;
  const samples = Math.max(1, Math.round(((p.lookahead as number) * fs) / 1000));
  return Math.max(pole, 1 - Math.exp(-Math.log(range / ALMOST) / samples));
}

/** Gain in dB (≤ 0) at a steady level under the threshold. */
export function gateGain(x: number, p: Params): number {
  const under = (p.threshold as number) - x;
  if (under <= 0) return 0;
  const ratio = p.ratio as number;
  return ratio >= 100 ? (p.range as number) : Math.max(p.range as number, -(ratio - 1) * under);
}

const { abs, max } = Math;
const FLOOR = 1e-7;
/**
 * the detector falls with this time constant, so that a low note's own swing does not open and close the gate
 */
const DETECTOR_MS = 8;
const T = 0;
const H = 1;
const RATIO = 2;
const RANGE = 3;
const KA = 4;
const KR = 5;

class GateProcessor implements Processor {
  reduction = 0;
  level = -160;
  private readonly glide: Glide;
  private readonly detL: Float64Array;
  private readonly detR: Float64Array;
  private readonly filter: Cascade;
  private readonly ahead: StereoDelay;
  private readonly listen = new Ramp(0);
  private readonly fall: number;
  private readonly smooth: number;
  private filtered = false;
  private holdFor = 0;
  private envelope = 0;
  private open = false;
  private held = 0;
  /** gain now, log2 */
  private gain = 0;
  /** of a block: the deepest gain (log2), the loudest envelope, and the gain of each sample */
  private least = 0;
  private loud = FLOOR;
  private readonly gains: Float64Array;
  constructor(
    params: Params,
    private readonly ctx: DeviceContext,
  ) {
    this.detL = doubles(ctx.maxBlock);
    this.detR = doubles(ctx.maxBlock);
    this.gains = doubles(ctx.maxBlock);
    this.filter = new Cascade(2, ctx.sampleRate);
    this.ahead = new StereoDelay(ctx.sampleRate, ctx.maxBlock);
    this.smooth = smoothing(ctx.sampleRate);
    this.glide = new Glide(6, this.smooth);
    this.fall = 1 - poleFor(DETECTOR_MS, ctx.sampleRate);
    this.set(params, true);
  }
  set(p: Params, immediate: boolean): void {
    const fs = this.ctx.sampleRate;
    const ratio = p.ratio as number;
    this.glide.set(
      [
        (p.threshold as number) / DB_PER_OCTAVE,
        (p.hysteresis as number) / DB_PER_OCTAVE,
        ratio >= 100 ? 1e4 : ratio - 1,
        (p.range as number) / DB_PER_OCTAVE,
        openingPole(p, fs),
        poleFor(p.release as number, fs),
      ],
      immediate,
    );
    this.holdFor = Math.round(((p.hold as number) * fs) / 1000);
    this.filtered = p.keyFilter as boolean;
    this.filter.set(
      this.filtered
        ? [
            cookbook('highPass', p.keyLow as number, 0, Math.SQRT1_2, fs),
            cookbook('lowPass', p.keyHigh as number, 0, Math.SQRT1_2, fs),
          ]
        : [],
      immediate,
    );
    this.ahead.set(gate.latency(p, fs), immediate);
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
    /* the gain is that of both sides, and what waits for it is kept of both */
  }
  private work(
    l: Float64Array,
    r: Float64Array,
    n: number,
    keyL: Float64Array,
    keyR: Float64Array,
    sides: 1 | 2,
  ): void {
    const { gains, glide } = this;
    const listening = this.listen.value > 0 || this.listen.left > 0;
    const isFiltered = this.filtered || this.filter.moving;
    let [dl, dr] = [keyL, keyR];
    // the detector keeps a copy of its own only where something below changes the key before it is done
    if (isFiltered || listening || !this.ahead.idle) {
      [dl, dr] = [this.detL, this.detR];
      copy(dl, 0, keyL, 0, n);
      copy(dr, 0, keyR, 0, n);
    }
    if (isFiltered) this.filter.process(dl, dr, n);
    this.ahead.process(l, r, n);
    this.least = 0;
    this.loud = FLOOR;
    for (let at = 0; at < n;) {
      const end = at + glide.span(n - at);
      this.follow(dl, dr, at, end);
      glide.advance(end - at);
      at = end;
    }
    for (let i = 0; i < n; i++) l[i] *= gains[i];
    if (sides === 2) for (let i = 0; i < n; i++) r[i] *= gains[i];
    this.reduction = this.least * DB_PER_OCTAVE;
    this.level = Math.log2(this.loud) * DB_PER_OCTAVE;
    if (listening) this.listenTo(l, r, n);
  }
  /** The gains of a stretch of what the detector hears. */
  private follow(dl: Float64Array, dr: Float64Array, from: number, to: number): void {
    const { gains, fall, holdFor } = this;
    const v = this.glide.now;
    const threshold = v[T];
    const hysteresis = v[H];
    const ratio = v[RATIO];
    const range = v[RANGE];
    const attack = v[KA];
    const release = v[KR];
    const opens = exp2(threshold);
    let { envelope, gain, open, held, least, loud } = this;
    for (let i = from; i < to; i++) {
      const x = max(abs(dl[i]), abs(dr[i]));
      envelope = x > envelope ? x : envelope * fall;
      if (envelope > loud) loud = envelope;
      let goal = 0;
      if (envelope >= opens) {
        open = true;
        held = holdFor;
      } else {
        const under = max(0, threshold - log2(max(FLOOR, envelope)));
        if (open && under <= hysteresis) held = holdFor;
        else if (open && held > 0) held--;
        else {
          open = false;
          goal = max(range, -ratio * under);
        }
      }
      gain += (goal > gain ? attack : release) * (goal - gain);
      if (gain < least) least = gain;
      gains[i] = gain;
    }
    powers(gains, from, to);
    this.envelope = settled(envelope);
    this.gain = settled(gain);
    this.open = open;
    this.held = held;
    this.least = least;
    this.loud = loud;
  }
  private listenTo(l: Float64Array, r: Float64Array, n: number): void {
    for (let i = 0; i < n; i++) {
      const w = this.listen.value;
      l[i] += w * (this.detL[i] - l[i]);
      r[i] += w * (this.detR[i] - r[i]);
      this.listen.advance(1);
    }
  }
  reset(): void {
    this.envelope = this.gain = this.held = 0;
    this.open = false;
    this.filter.reset();
    this.ahead.reset();
  }
}
