import { response as responsePicture } from './pictures/response.ts';
import {
  COOKBOOK,
  Cascade,
  multiply,
  sectionAt,
  slopeSections,
  type FilterType,
  type Section,
  type Sections,
} from './biquad.ts';
import { MATCHED } from './matched.ts';
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
const PER_BAND = 4;

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
  response: responseBy(MATCHED),
  create: createBy(MATCHED),
  earlier: [
    {
      since:
        'bands near half the sample rate keep their shape, where they were narrower and lower than they said',
      response: responseBy(COOKBOOK),
      create: createBy(COOKBOOK),
    },
  ],
});

function responseBy(by: Sections): NonNullable<DeviceType['response']> {
  return (p, f, fs) => {
    const g = dbToGain((p.in as number) + (p.out as number));
    return eqSections(p, fs, by).reduce<[number, number]>(
      (h, s) => (s ? multiply(h, sectionAt(s, f, fs)) : h),
      [g, 0],
    );
  };
}

function createBy(by: Sections): DeviceType['create'] {
  return (params, ctx) => new Swap(params, ctx, (p) => new EqProcessor(p, ctx, by), shapeOf, 40);
}

/** Sections of one band; none when it is off. */
export function bandSections(p: Params, n: number, fs: number, by: Sections = MATCHED): Section[] {
  if (!p[`b${n}.on`]) return [];
  const type = p[`b${n}.type`] as FilterType;
  const [f, gain, q] = [p[`b${n}.freq`] as number, p[`b${n}.gain`] as number, p[`b${n}.q`] as number];
  if (type === 'highPass' || type === 'lowPass') {
    return slopeSections(type, f, Number(p[`b${n}.slope`]), q, fs, by);
  }
  return [by.second(type, f, gain, q, fs)];
}

/** All sections at fixed places (four a band), null where the signal passes. */
export function eqSections(p: Params, fs: number, by: Sections = MATCHED): (Section | null)[] {
  const out: (Section | null)[] = new Array<Section | null>(EQ_BANDS * PER_BAND).fill(null);
  for (let n = 1; n <= EQ_BANDS; n++) {
    bandSections(p, n, fs, by).forEach((s, k) => {
      out[(n - 1) * PER_BAND + k] = s;
    });
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
    private readonly by: Sections,
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
