import { response as responsePicture } from './pictures/response.ts';
import { COOKBOOK, Cascade, multiply, sectionAt, type FilterType, type Section } from './biquad.ts';
import { MATCHED } from './matched.ts';
import { apart, isMended, mended, type Band } from './mended.ts';
import { Ramp, dbToGain, smoothing } from './math.ts';
import { Swap } from './swap.ts';
import {
  choice,
  decibels,
  defineDevice,
  hertz,
  toggle,
  type DeviceContext,
  type DeviceType,
  type Processor,
} from './spec.ts';
import type { ParamSpec } from '../model/param.ts';
import type { Params } from '../model/types.ts';

export const EQ_BANDS = 8;
/** sections of 48 dB/oct, and one that mends what is left */
const PER_BAND = 5;

const TYPES = [
  { id: 'bell', label: 'Bell' },
  { id: 'lowShelf', label: 'Low shelf' },
  { id: 'highShelf', label: 'High shelf' },
  { id: 'highPass', label: 'High-pass' },
  { id: 'lowPass', label: 'Low-pass' },
  { id: 'notch', label: 'Notch' },
  { id: 'bandPass', label: 'Band-pass' },
] as const;
const SLOPES = [6, 12, 18, 24, 30, 36, 42, 48].map((n) => ({ id: String(n), label: `${n} dB/oct` }));
const START: [FilterType, number][] = [
  ['highPass', 80],
  ['lowShelf', 120],
  ['bell', 250],
  ['bell', 700],
  ['bell', 2000],
  ['bell', 5000],
  ['highShelf', 10000],
  ['lowPass', 18000],
];

const band = (n: number): ParamSpec[] => {
  const [type, f] = START[n - 1];
  const g = `Band ${n}`;
  return [
    toggle(`b${n}.on`, `${g} on`, g, false),
    choice(`b${n}.type`, `${g} type`, g, TYPES, type),
    hertz(`b${n}.freq`, `${g} frequency`, g, 16, 24000, f),
    decibels(`b${n}.gain`, `${g} gain`, g, -24, 24, 0, { step: 0.1 }),
    {
      id: `b${n}.q`,
      label: `${g} Q`,
      group: g,
      kind: 'number',
      unit: 'Q',
      min: 0.1,
      max: 24,
      default: type === 'bell' ? 1 : 0.71,
      taper: 'log',
      step: 0.01,
    },
    choice(`b${n}.slope`, `${g} slope`, g, SLOPES, '12', {
      help: 'High-pass and low-pass only; Q shapes the corner at 12 dB/oct',
    }),
  ];
};

/** Eight bands that follow their analogue prototypes to 20 kHz; input and output gain. */
export const eq = defineDevice({
  type: 'eq',
  label: 'EQ',
  summary: 'Eight bands: bell, shelves, high- and low-pass to 48 dB/oct, notch, band-pass.',
  hasKey: false,
  keepsMono: true,
  shares: 'linear',
  panel: 'curve',
  picture: responsePicture,
  work: 1,
  alike: { words: /\beq\b|equal|filter|tone/i, rank: 7 },
  params: [
    decibels('in', 'Input gain', 'Gain', -24, 24, 0, { step: 0.1 }),
    decibels('out', 'Output gain', 'Gain', -24, 24, 0, { step: 0.1 }),
    ...Array.from({ length: EQ_BANDS }, (_, i) => band(i + 1)).flat(),
  ],
  latency: () => 0,
  // values of bands that are off say nothing about the sound
  used: (p, id) => {
    const b = /^(b\d+)\./.exec(id);
    return !b || p[`${b[1]}.on`] === true;
  },
  listed: (p, id) => {
    const [, band, value] = /^(b\d+)\.(.+)$/.exec(id) ?? [];
    if (!band) return p[id] !== 0;
    if (value === 'on') return false;
    const isPass = ['highPass', 'lowPass'].includes(String(p[`${band}.type`]));
    if (value === 'slope') return isPass;
    return !isPass || (value !== 'gain' && value !== 'q');
  },
  response: responseBy(mended),
  create: createBy(mended),
  earlier: [
    {
      since:
        'bands near half the sample rate keep their shape, where they were narrower and lower than they said',
      response: responseBy((band, fs) => apart(band, fs, COOKBOOK)),
      create: createBy((band, fs) => apart(band, fs, COOKBOOK)),
    },
    {
      since: 'narrow shelves, narrow high-passes and steep slopes keep their shape up to 20 kHz, too',
      response: responseBy((band, fs) => apart(band, fs, MATCHED)),
      create: createBy((band, fs) => apart(band, fs, MATCHED)),
      differs: (p) => bandsIn(p).some((band) => RATES.some((fs) => isMended(band, fs))),
    },
  ],
});

/** How a band becomes sections. */
type Making = (band: Band, fs: number) => Section[];
/** Hz: rates at which 20 kHz is near their half */
const RATES = [44100, 48000];

function responseBy(by: Making): NonNullable<DeviceType['response']> {
  // a picture asks for one frequency after the other, and is drawn again at another size
  const made = new WeakMap<Params, { fs: number; sections: Section[] }>();
  return (p, f, fs) => {
    let now = made.get(p);
    if (now?.fs !== fs) {
      now = { fs, sections: eqSections(p, fs, by).filter((s) => s !== null) };
      made.set(p, now);
    }
    const g = dbToGain((p.in as number) + (p.out as number));
    return now.sections.reduce<[number, number]>((h, s) => multiply(h, sectionAt(s, f, fs)), [g, 0]);
  };
}

function createBy(by: Making): DeviceType['create'] {
  return (params, ctx) => new Swap(params, ctx, (p) => new EqProcessor(p, ctx, by), shapeOf, 40);
}

/** A band that is on; null where it is off. */
function bandOf(p: Params, n: number): Band | null {
  const value = (name: string) => p[`b${n}.${name}`];
  if (!value('on')) return null;
  return {
    type: value('type') as FilterType,
    f: value('freq') as number,
    gain: value('gain') as number,
    q: value('q') as number,
    slope: Number(value('slope')),
  };
}
const bandsIn = (p: Params): Band[] =>
  Array.from({ length: EQ_BANDS }, (_, i) => bandOf(p, i + 1)).filter((band) => band !== null);

/** All sections at fixed places, null where the signal passes. */
function eqSections(p: Params, fs: number, by: Making): (Section | null)[] {
  const out: (Section | null)[] = new Array<Section | null>(EQ_BANDS * PER_BAND).fill(null);
  for (let n = 0; n < EQ_BANDS; n++) {
    const band = bandOf(p, n + 1);
    const sections = band ? by(band, fs) : [];
    for (let k = 0; k < sections.length; k++) out[n * PER_BAND + k] = sections[k];
  }
  return out;
}

/** What a filter chain is made of; frequency, gain and Q only move it. */
function shapeOf(p: Params): string {
  let out = '';
  for (let n = 1; n <= EQ_BANDS; n++) {
    out += p[`b${n}.on`]
      ? `${String(p[`b${n}.type`])}${/Pass$/.test(String(p[`b${n}.type`])) ? String(p[`b${n}.slope`]) : ''},`
      : ',';
  }
  return out;
}

class EqProcessor implements Processor {
  reduction = 0;
  level = -160;
  private readonly cascade: Cascade;
  private readonly fs: number;
  private readonly gain = new Ramp(1);
  constructor(
    params: Params,
    ctx: DeviceContext,
    private readonly by: Making,
  ) {
    this.fs = ctx.sampleRate;
    this.cascade = new Cascade(EQ_BANDS * PER_BAND, ctx.sampleRate);
    this.set(params, true);
  }
  set(p: Params, immediate: boolean): void {
    this.cascade.set(eqSections(p, this.fs, this.by), immediate);
    this.gain.to(dbToGain((p.in as number) + (p.out as number)), immediate ? 0 : smoothing(this.fs));
  }
  process(l: Float64Array, r: Float64Array, n: number): void {
    this.cascade.process(l, r, n);
    this.gain.scale(l, r, n);
  }
  reset(): void {
    this.cascade.reset();
  }
}
