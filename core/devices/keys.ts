import { pads } from './pictures/pads.ts';
import {
  ALL_OFF,
  CONTROL,
  HIT,
  NOTE_OFF,
  NOTE_ON,
  Player,
  outChoice,
  outPlace,
  trims,
  type OutPlace,
} from './instrument.ts';
import { Ramp, dbToGain } from './math.ts';
import { addTone, newTone } from './parts.ts';
import { choice, decibels, defineDevice, percent, type DeviceContext } from './spec.ts';
import { TONES, TRIED, Tones, type Tone } from './tones.ts';
import type { Params } from '../model/types.ts';
import { square } from '../model/power.ts';

const envelope = () => [
  percent('attack', 'Attack', 'Sound', 10, 400, 100, { step: 5 }),
  percent('release', 'Release', 'Sound', 10, 400, 100, { step: 5 }),
  percent('bright', 'Brightness', 'Sound', 0, 100, 80, { step: 1 }),
];

/** One tuned voice on what its line takes, to the main output. */
export const keys = defineDevice({
  type: 'keys',
  label: 'Keys',
  summary: 'A keyboard instrument: piano, organ, concertina and others.',
  hasKey: false,
  picture: pads,
  work: 12,
  params: [
    choice(
      'sound',
      'Sound',
      'Sound',
      TONES.filter((t) => t.id !== 'bass'),
      'piano',
    ),
    ...envelope(),
    decibels('level', 'Level', 'Level', -60, 24, 0, { step: 0.1 }),
    {
      id: 'pan',
      label: 'Pan',
      group: 'Level',
      kind: 'number',
      unit: 'pan',
      min: -100,
      max: 100,
      default: 0,
      taper: 'linear',
      step: 1,
    },
  ],
  latency: () => 0,
  instrument: {
    outputs: 0,
    parts: (p) => [
      {
        id: 'keys',
        name: TONES.find((t) => t.id === p.sound)?.label ?? 'Keys',
        kind: 'part',
        outParam: '',
        out: 'main',
        key: 60,
        strike: 0,
        sound: String(p.sound),
        pan: p.pan as number,
      },
    ],
    trim: () => 'level',
  },
  create: (params, ctx) => new ToneProcessor(params, ctx, 0),
});

/** A bass with two ways out at once: clean, and driven. */
export const bass = defineDevice({
  type: 'bass',
  label: 'Bass',
  summary: 'A bass with a clean and a driven way out, each to its own output.',
  hasKey: false,
  picture: pads,
  work: 12,
  params: [
    ...envelope(),
    decibels('drive', 'Drive', 'Driven', 0, 36, 18, { step: 0.1 }),
    decibels('clean.level', 'Clean level', 'Level', -60, 24, 0, { step: 0.1 }),
    decibels('dirty.level', 'Driven level', 'Level', -60, 24, -6, { step: 0.1 }),
    outChoice('clean.out', 'Clean output', 'Outputs', 2),
    outChoice('dirty.out', 'Driven output', 'Outputs', 2),
    ...trims(2),
  ],
  latency: () => 0,
  instrument: {
    low: true,
    outputs: 2,
    parts: (p) =>
      (
        [
          ['clean', 'Clean'],
          ['dirty', 'Driven'],
        ] as const
      ).map(([id, name], i) => ({
        id,
        name,
        kind: 'part',
        outParam: `${id}.out`,
        out: String(p[`${id}.out`]),
        key: 40,
        strike: i,
        sound: id,
        pan: 0,
      })),
    trim: (pair) => `t${pair}`,
  },
  create: (params, ctx) => new ToneProcessor(params, ctx, 2),
});

/** One tone; with outputs of its own it goes two ways: clean and through a soft clipper. */
class ToneProcessor extends Player {
  private readonly tone = newTone('piano');
  private readonly tones: Tones;
  private cleanOut: OutPlace = outPlace('main');
  private dirtyOut: OutPlace = outPlace('main');
  private readonly clean = new Ramp(1);
  private readonly dirty = new Ramp(0);
  private drive = 1;
  private loud = 1;
  private own = 1;
  private readonly a: Float64Array;
  private readonly b: Float64Array;
  constructor(
    params: Params,
    ctx: DeviceContext,
    private readonly ways: number,
  ) {
    super(ways, ctx);
    this.tones = new Tones(ctx.sampleRate, ctx.maxBlock);
    this.a = new Float64Array(ctx.maxBlock);
    this.b = new Float64Array(ctx.maxBlock);
    this.set(params, true);
  }
  set(p: Params, immediate: boolean): void {
    const samples = immediate ? 0 : this.glide;
    const t = this.tone;
    t.sound = this.ways ? 'bass' : String(p.sound);
    t.attack = (p.attack as number) / 100;
    t.release = (p.release as number) / 100;
    t.bright = (p.bright as number) / 100;
    t.pan = ((p.pan as number) ?? 0) / 100;
    this.own = this.ways ? 1 : dbToGain(p.level as number);
    t.gain.to(this.own * this.loud, samples);
    if (!this.ways) return;
    this.clean.to(dbToGain(p['clean.level'] as number), samples);
    this.dirty.to(dbToGain(p['dirty.level'] as number), samples);
    this.drive = dbToGain(p.drive as number);
    this.cleanOut = outPlace(String(p['clean.out']));
    this.dirtyOut = outPlace(String(p['dirty.out']));
    this.bank.set(p, immediate);
  }
  protected override begin(n: number): void {
    this.a.fill(0, 0, n);
    this.b.fill(0, 0, n);
  }

  protected take(type: number, _port: number, channel: number, a: number, b: number): void {
    const t = this.tone;
    if (type === NOTE_ON) this.tones.on(t, a, b, channel);
    else if (type === NOTE_OFF) this.tones.off(t, a, channel);
    // tried alone, one way out sounds alone
    else if (type === HIT) this.tones.on(t, this.ways ? 40 : 60, b, 0, a + 1, TRIED);
    else if (type === ALL_OFF) this.tones.allOff();
    else if (type === CONTROL) {
      if (a === 1) t.vibrato = (b / 127) * 45;
      if (a === 11) {
        this.loud = square(b / 127);
        t.gain.to(this.own * this.loud, this.glide);
      }
      if (a === 64) {
        t.damper = b >= 64;
        if (!t.damper) this.tones.lift(t);
      }
    }
  }

  protected override end(n: number): void {
    if (!this.ways) return;
    const a = this.a;
    const b = this.b;
    const k = this.drive;
    const c0 = this.clean.value;
    const d0 = this.dirty.value;
    this.clean.advance(n);
    this.dirty.advance(n);
    const dc = (this.clean.value - c0) / n;
    const dd = (this.dirty.value - d0) / n;
    for (let i = 0; i < n; i++) {
      a[i] *= c0 + dc * i;
      b[i] = (Math.tanh(b[i] * k) * (d0 + dd * i)) / Math.sqrt(k);
    }
    addTone(this.bank, this.cleanOut, 0, a, 0, n);
    addTone(this.bank, this.dirtyOut, 0, b, 0, n);
  }

  protected sound(from: number, to: number): void {
    this.tones.render(from, to, this.put);
    this.tone.gain.advance(to - from);
  }
  private readonly put = (line: Float64Array, from: number, to: number, tone: Tone, tag: number): void => {
    if (!this.ways) {
      addTone(this.bank, this.cleanOut, tone.pan, line, from, to);
      return;
    }
    if (tag !== 2) for (let i = from; i < to; i++) this.a[i] += line[i];
    if (tag !== 1) for (let i = from; i < to; i++) this.b[i] += line[i];
  };
  reset(): void {
    this.tones.reset();
  }
}
