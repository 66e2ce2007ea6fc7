import { transfer } from './pictures/transfer.ts';
import { doubles } from './kernels/index.ts';
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
  work: 3.4,
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
  constructor(
    params: Params,
    private readonly ctx: DeviceContext,
  ) {
    this.detL = doubles(ctx.maxBlock);
    this.detR = doubles(ctx.maxBlock);
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
    const dl = this.detL;
    const dr = this.detR;
    for (let i = 0; i < n; i++) {
      dl[i] = keyL[i];
      dr[i] = keyR[i];
    }
    if (this.filtered || this.filter.moving) this.filter.process(dl, dr, n);
    this.ahead.process(l, r, n);
    const fall = this.fall;
    const hold = this.holdFor;
    const v = this.glide.now;
    const listening = this.listen.value > 0 || this.listen.left > 0;
    let e = this.envelope;
    let g = this.gain;
    let open = this.open;
    let held = this.held;
    let least = 0;
    let loud = FLOOR;
    let at = 0;
    while (at < n) {
      const m = this.glide.span(n - at);
      for (let i = at; i < at + m; i++) {
        const x = max(abs(dl[i]), abs(dr[i]));
        e = x > e ? x : e * fall;
        if (e > loud) loud = e;
        const level = log2(Math.min(8e6, Math.max(FLOOR, e)));
        const under = v[T] - level;
        if (under <= 0) {
          open = true;
          held = hold;
        } else if (open && under > v[H]) {
          if (held > 0) held--;
          else open = false;
        } else if (open) held = hold;
        const goal = open ? 0 : max(v[RANGE], -v[RATIO] * max(0, under));
        g += (goal > g ? v[KA] : v[KR]) * (goal - g);
        if (g < least) least = g;
        const k = exp2(g);
        l[i] *= k;
        r[i] *= k;
      }
      this.glide.advance(m);
      at += m;
    }
    this.envelope = settled(e);
    this.gain = settled(g);
    this.open = open;
    this.held = held;
    this.reduction = least * DB_PER_OCTAVE;
    this.level = Math.log2(loud) * DB_PER_OCTAVE;
    if (listening) {
      for (let i = 0; i < n; i++) {
        const w = this.listen.value;
        l[i] += w * (dl[i] - l[i]);
        r[i] += w * (dr[i] - r[i]);
        this.listen.advance(1);
      }
    }
  }
  reset(): void {
    this.envelope = this.gain = this.held = 0;
    this.open = false;
    this.filter.reset();
    this.ahead.reset();
  }
}
