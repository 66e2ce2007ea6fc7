import { note as notePicture } from './pictures/note.ts';
import { PitchTracker, SpliceShifter, type TrackerWay } from './pitch.ts';
import { choice, defineDevice, percent, type DeviceContext, type Processor } from './spec.ts';
import type { Params } from '../model/types.ts';
import { NOTE_NAMES } from './notes.ts';
import { twoTo } from '../model/power.ts';

/** Steps of each scale in semitones above its key note. */
export const SCALES = {
  major: { label: 'Major', steps: [0, 2, 4, 5, 7, 9, 11] },
  minor: { label: 'Minor', steps: [0, 2, 3, 5, 7, 8, 10] },
  harmonic: { label: 'Harmonic minor', steps: [0, 2, 3, 5, 7, 8, 11] },
  pentatonic: { label: 'Pentatonic', steps: [0, 2, 4, 7, 9] },
  chromatic: { label: 'All notes', steps: [0, 1, 2, 3, 4, 5, 6, 7, 8, 9, 10, 11] },
} as const;

type Scale = keyof typeof SCALES;

/**
 * Pulls a sung note to the nearest one of a key and scale (equal temperament, A4 = 440 Hz). Speed is the time
 * constant of the pull; amount leaves some of the singer.
 */
export const pitchCorrect = defineDevice({
  type: 'pitchcorrect',
  label: 'Pitch correction',
  summary: 'Pulls a sung note to the nearest in a key and scale, with speed and amount.',
  hasKey: false,
  keepsMono: true,
  picture: notePicture,
  work: 250,
  alike: { words: /tune|pitch corr/i, rank: 13 },
  readings: ['sung', 'played', 'cents'],
  params: [
    choice(
      'key',
      'Key',
      'Notes',
      NOTE_NAMES.map((label, i) => ({ id: String(i), label })),
      '0',
    ),
    choice(
      'scale',
      'Scale',
      'Notes',
      Object.entries(SCALES).map(([id, s]) => ({ id, label: s.label })),
      'chromatic',
    ),
    {
      id: 'speed',
      label: 'Speed',
      group: 'Pull',
      kind: 'number',
      unit: 'ms',
      min: 0,
      max: 500,
      default: 60,
      taper: 'square',
      step: 1,
      help: '0 ms is at once; slower keeps slides and vibrato',
    },
    percent('amount', 'Amount', 'Pull', 0, 100, 100, { step: 1 }),
  ],
  latency: (_p, fs) => new SpliceShifter(fs, REACH_MS).latency,
  create: (params, ctx) => new PitchCorrectProcessor(params, ctx, 'path'),
  earlier: [
    {
      since: 'no note is taken for the one an octave above',
      create: (params, ctx) => new PitchCorrectProcessor(params, ctx, 'first'),
    },
  ],
});

const REACH_MS = 16;

/**
 * The scale's note (MIDI number) nearest to a pitch in fractional MIDI numbers; `held` wins while the pitch
 * is within 0.15 semitones of the boundary.
 */
export function nearestNote(pitch: number, key: number, steps: readonly number[], held = -1): number {
  let best = 0;
  let least = Infinity;
  for (let n = Math.floor(pitch) - 4; n <= pitch + 4; n++) {
    if (!steps.includes((((n - key) % 12) + 12) % 12)) continue;
    const d = Math.abs(n - pitch) - (n === held ? 0.3 : 0);
    if (d < least) {
      least = d;
      best = n;
    }
  }
  return best;
}

/** Hz: the notes that a voice sings; and samples from one estimate to the next */
const LOWEST = 65;
const HIGHEST = 1000;
const HOP = 256;

class PitchCorrectProcessor implements Processor {
  reduction = 0;
  level = -160;
  readonly readings = new Float64Array(3);
  private readonly shifter: SpliceShifter;
  private readonly tracker: PitchTracker;
  private readonly fs: number;
  private key = 0;
  private steps: readonly number[] = [];
  private pull = 1;
  private amount = 1;
  private held = -1;
  private goal = 0;
  private cents = 0;
  constructor(params: Params, ctx: DeviceContext, way: TrackerWay) {
    this.fs = ctx.sampleRate;
    this.shifter = new SpliceShifter(ctx.sampleRate, REACH_MS);
    this.tracker = new PitchTracker(ctx.sampleRate, LOWEST, HIGHEST, HOP, way);
    this.set(params);
  }
  set(p: Params): void {
    this.key = Number(p.key);
    this.steps = SCALES[p.scale as Scale].steps;
    // in steps of 16 samples; never faster than 2 ms, so that a new note does not click
    this.pull = 1 - Math.exp(-16 / (Math.max(2, p.speed as number) * 0.001 * this.fs));
    this.amount = (p.amount as number) / 100;
  }
  process(l: Float64Array, r: Float64Array, n: number): void {
    for (let i = 0; i < n; i++) {
      if (this.tracker.push(0.5 * (l[i] + r[i]))) this.aim();
      if ((this.count = (this.count + 1) & 15) === 0) {
        this.cents += this.pull * (this.goal - this.cents);
        if (this.cents < 1e-4 && this.cents > -1e-4) this.cents = 0;
        this.ratio = twoTo(this.cents / 1200);
      }
      this.shifter.step(l[i], r[i], this.ratio);
      l[i] = this.shifter.outL;
      r[i] = this.shifter.outR;
    }
  }
  private count = 0;
  private ratio = 1;

  private aim(): void {
    const f = this.tracker.frequency;
    if (f <= 0) {
      this.goal = 0;
      this.held = -1;
      this.readings.fill(0);
      return;
    }
    const pitch = 69 + 12 * Math.log2(f / 440);
    this.held = nearestNote(pitch, this.key, this.steps, this.held);
    this.goal = (this.held - pitch) * 100 * this.amount;
    this.readings[0] = pitch;
    this.readings[1] = pitch + this.cents / 100;
    this.readings[2] = this.cents;
  }
  reset(): void {
    this.shifter.reset();
    this.tracker.reset();
    this.cents = this.goal = 0;
    this.ratio = 1;
    this.held = -1;
  }
}
