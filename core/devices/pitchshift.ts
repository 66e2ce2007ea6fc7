import { interval } from './pictures/note.ts';
import { doubles } from './kernels/index.ts';
import { StereoDelay } from './align.ts';
import { Glide, Ramp, smoothing } from './math.ts';
import { GrainShifter, PitchTracker, SpliceShifter, type GrainWay } from './pitch.ts';
import { choice, defineDevice, percent, wholeNumber, type DeviceContext, type Processor } from './spec.ts';
import type { Params } from '../model/types.ts';
import { twoTo } from '../model/power.ts';

/** Pitch shift: by splices that move everything, or for one voice with its formants kept. */
export const pitchShift = defineDevice({
  type: 'pitchshift',
  label: 'Pitch shift',
  summary: 'Up or down an octave in semitones and cents; formants move along or stay.',
  hasKey: false,
  keepsMono: true,
  makesSides: true,
  picture: interval,
  work: 17,
  alike: { words: /pitch|shift|octav/i, rank: 14 },
  readings: ['sung', 'played', 'cents'],
  params: [
    wholeNumber('semitones', 'Semitones', 'Pitch', -12, 12, 0, 'st'),
    wholeNumber('cents', 'Cents', 'Pitch', -100, 100, 0, 'ct'),
    choice(
      'formants',
      'Formants',
      'Pitch',
      [
        { id: 'move', label: 'Move along' },
        { id: 'keep', label: 'Stay (one voice)' },
      ],
      'move',
    ),
    percent('mix', 'Mix', 'Output', 0, 100, 100, { step: 1 }),
  ],
  latency: (_p, fs) => latencyAt(fs),
  create: (params, ctx) => new PitchShiftProcessor(params, ctx, 'epochs'),
  earlier: [
    {
      since:
        'where formants stay, no note is taken for the one an octave above, and what is not shifted is not touched',
      create: (params, ctx) => new PitchShiftProcessor(params, ctx, 'first'),
      differs: (p) => p.formants === 'keep',
    },
    {
      since: 'where formants stay, they keep their shape: grains are taken where the voice rings',
      create: (params, ctx) => new PitchShiftProcessor(params, ctx, 'apart'),
      differs: (p) => p.formants === 'keep',
    },
  ],
});

/** Hz: the lowest note of a voice */
const LOWEST = 65;
/** Both ways take the longer one's time, so that the choice moves nothing. */
const latencyAt = (fs: number) => Math.max(new SpliceShifter(fs).latency, new GrainShifter(fs).latency);

class PitchShiftProcessor implements Processor {
  reduction = 0;
  level = -160;
  readonly readings = new Float64Array(3);
  private readonly splice: SpliceShifter;
  private readonly grain: GrainShifter;
  private readonly tracker: PitchTracker;
  private readonly dry: StereoDelay;
  private readonly early: StereoDelay;
  private readonly late: StereoDelay;
  private readonly glide: Glide;
  private readonly whole: number;
  private readonly fade: number;
  private readonly wl: Float64Array;
  private readonly wr: Float64Array;
  private readonly gl: Float64Array;
  private readonly gr: Float64Array;
  constructor(params: Params, ctx: DeviceContext, way: GrainWay) {
    const fs = ctx.sampleRate;
    const whole = latencyAt(fs);
    this.splice = new SpliceShifter(fs);
    this.grain = new GrainShifter(fs, LOWEST, way);
    this.tracker = new PitchTracker(fs, LOWEST, 1000, 256, way === 'first' ? 'first' : 'path');
    [this.dry, this.early, this.late] = [0, 1, 2].map(() => new StereoDelay(fs, ctx.maxBlock));
    this.dry.set(whole, true);
    this.early.set(whole - this.splice.latency, true);
    this.late.set(whole - this.grain.latency, true);
    this.glide = new Glide(2, smoothing(fs));
    this.whole = whole;
    this.fade = smoothing(fs);
    [this.wl, this.wr, this.gl, this.gr] = [0, 1, 2, 3].map(() => doubles(ctx.maxBlock));
    this.set(params, true);
  }
  set(p: Params, immediate: boolean): void {
    this.glide.set([(p.semitones as number) * 100 + (p.cents as number), (p.mix as number) / 100], immediate);
    const keep = p.formants === 'keep' ? 1 : 0;
    if (keep === this.keeps) return;
    this.keeps = keep;
    if (immediate) {
      this.keep.to(keep, 0);
      return;
    }
    // the way that rested begins with an empty memory: it is heard when that is full
    if (keep ? this.keep.value === 0 : this.keep.value === 1) {
      if (keep) {
        this.grain.reset();
        this.tracker.reset();
        this.late.reset();
      } else {
        this.splice.reset();
        this.early.reset();
      }
    }
    this.warm = this.whole * 2;
  }
  private keeps = 0;
  private warm = 0;
  private readonly keep = new Ramp(0);
  process(l: Float64Array, r: Float64Array, n: number): void {
    const v = this.glide.now;
    const { wl, wr, gl, gr } = this;
    const keepFrom = this.keep.value;
    const mixFrom = v[1];
    let at = 0;
    if (this.warm > 0 && (this.warm -= n) <= 0) this.keep.to(this.keeps, this.fade);
    const both = this.warm > 0 || this.keep.left > 0;
    const useGrain = both || keepFrom > 0;
    const useSplice = both || keepFrom < 1;
    this.keep.advance(n);
    while (at < n) {
      const m = this.glide.span(n - at);
      const ratio = twoTo(v[0] / 1200);
      for (let i = at; i < at + m; i++) {
        if (useGrain) {
          this.tracker.push(0.5 * (l[i] + r[i]));
          this.grain.step(l[i], r[i], ratio, this.tracker.frequency);
          gl[i] = this.grain.outL;
          gr[i] = this.grain.outR;
        }
        if (useSplice) {
          this.splice.step(l[i], r[i], ratio);
          wl[i] = this.splice.outL;
          wr[i] = this.splice.outR;
        }
      }
      this.glide.advance(m);
      at += m;
    }
    if (useSplice) this.early.process(wl, wr, n);
    if (useGrain) this.late.process(gl, gr, n);
    this.dry.process(l, r, n);
    const dk = (this.keep.value - keepFrom) / n;
    const dm = (v[1] - mixFrom) / n;
    for (let i = 0; i < n; i++) {
      const k = keepFrom + dk * i;
      const mix = mixFrom + dm * i;
      let a = useSplice ? wl[i] : gl[i];
      let b = useSplice ? wr[i] : gr[i];
      if (useSplice && useGrain) {
        a += k * (gl[i] - a);
        b += k * (gr[i] - b);
      }
      l[i] += mix * (a - l[i]);
      r[i] += mix * (b - r[i]);
    }
    const f = useGrain ? this.tracker.frequency : 0;
    this.readings[0] = f > 0 ? 69 + 12 * Math.log2(f / 440) : 0;
    this.readings[1] = f > 0 ? this.readings[0] + v[0] / 100 : 0;
    this.readings[2] = v[0];
  }
  reset(): void {
    this.splice.reset();
    this.grain.reset();
    this.tracker.reset();
    this.dry.reset();
    this.early.reset();
    this.late.reset();
  }
}
