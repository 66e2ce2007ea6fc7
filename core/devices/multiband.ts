import { bands as bandsPicture } from './pictures/bands.ts';
import { copy, doubles } from './kernels/index.ts';
import { Cascade, cookbook, multiply, sectionAt, type Section } from './biquad.ts';
import { compressor } from './compressor.ts';
import { Glide, dbToGain, smoothing } from './math.ts';
import { Swap } from './swap.ts';
import {
  choice,
  decibels,
  defineDevice,
  hertz,
  millis,
  percent,
  toggle,
  type DeviceContext,
  type DeviceType,
  type Processor,
} from './spec.ts';
import type { ParamSpec } from '../model/param.ts';
import type { Params } from '../model/types.ts';
import { bandNames, corners } from './bands.ts';

const BANDS = 4;

const band = (n: number): ParamSpec[] => {
  const g = `Band ${n}`;
  return [
    toggle(`b${n}.on`, `${g} compresses`, g, true),
    decibels(`b${n}.threshold`, `${g} threshold`, g, -60, 0, -24, { step: 0.1 }),
    {
      id: `b${n}.ratio`,
      label: `${g} ratio`,
      group: g,
      kind: 'number',
      unit: ':1',
      min: 1,
      max: 100,
      default: 2,
      taper: 'log',
      step: 0.1,
    },
    millis(`b${n}.attack`, `${g} attack`, g, 0.1, 250, [30, 20, 12, 6][n - 1]),
    millis(`b${n}.release`, `${g} release`, g, 5, 4000, [200, 150, 120, 90][n - 1]),
    decibels(`b${n}.gain`, `${g} gain`, g, -24, 24, 0, { step: 0.1 }),
    toggle(`b${n}.solo`, `${g} alone`, g, false),
  ];
};

/**
 * Multiband compressor. Crossovers are Linkwitz–Riley of 4th order (S. H. Linkwitz, "Active crossover
 * networks for noncoincident drivers", JAES 24(1), 1976): two Butterworth sections each way, −6.02 dB at
 * the corner, whose sum is an all-pass; bands that do not go through a crossover go through its all-pass
 * instead, so that everything sums flat.
 */
export const multiband = defineDevice({
  type: 'multiband',
  label: 'Multiband compressor',
  summary: 'Two to four bands that sum flat, a compressor in each.',
  hasKey: false,
  shares: 'gain',
  keepsMono: true,
  picture: bandsPicture,
  work: 18,
  reduces: true,
  bands: (p) => bandNames(Number(p.bands)),
  shown: (p) => Number(p.bands),
  alike: { words: /multi-?band/i, rank: 2 },
  readings: ['band 1', 'band 2', 'band 3', 'band 4'],
  params: [
    choice(
      'bands',
      'Bands',
      'Crossover',
      [
        { id: '2', label: '2' },
        { id: '3', label: '3' },
        { id: '4', label: '4' },
      ],
      '3',
    ),
    hertz('f1', 'Crossover 1', 'Crossover', 40, 16000, 160),
    hertz('f2', 'Crossover 2', 'Crossover', 40, 16000, 2200),
    hertz('f3', 'Crossover 3', 'Crossover', 40, 16000, 7000),
    decibels('knee', 'Knee', 'Crossover', 0, 24, 6, { step: 0.1 }),
    percent('mix', 'Mix', 'Output', 0, 100, 100, { step: 1 }),
    decibels('output', 'Output', 'Output', -24, 24, 0, { step: 0.1 }),
    ...Array.from({ length: BANDS }, (_, i) => band(i + 1)).flat(),
  ],
  used: (p, id) => {
    const n = Number(/^(?:b|f)(\d)/.exec(id)?.[1] ?? 0);
    return id.startsWith('f') ? n < Number(p.bands) : n <= Number(p.bands);
  },
  listed: (_p, id) => !/^b\d\.on$/.test(id),
  latency: () => 0,
  response: (p, f, fs) => {
    // the sum of the bands without compression: all-passes, and each band's gain
    const fr = corners(p, fs);
    let sum: [number, number] = [0, 0];
    for (let b = 0; b <= fr.length; b++) {
      const h = chainFor(b, fr, fs).reduce<[number, number]>(
        (a, s) => multiply(a, sectionAt(s, f, fs)),
        [bandGain(p, b + 1), 0],
      );
      sum = [sum[0] + h[0], sum[1] + h[1]];
    }
    const o = dbToGain(p.output as number);
    return [sum[0] * o, sum[1] * o];
  },
  create: createBy(compressor.create),
  // its bands are that compressor, and change with it
  earlier: compressor.earlier!.map(({ since, create, differs }) => ({
    since,
    create: createBy(create!),
    differs: (p) => Array.from({ length: Number(p.bands) }, (_, i) => compParams(p, i + 1)).some(differs!),
  })),
});

/** With that compressor in each band. */
function createBy(comp: DeviceType['create']): DeviceType['create'] {
  return (params, ctx) =>
    new Swap(
      params,
      ctx,
      (p) => new MultibandProcessor(p, ctx, comp),
      (p) => String(p.bands),
      60,
    );
}

/** What a band does to quiet sound: its gain, as far as the mix lets it. */
const bandGain = (p: Params, n: number) =>
  1 + ((p.mix as number) / 100) * (dbToGain(p[`b${n}.gain`] as number) - 1);

/** Second-order all-pass with the phase of a Linkwitz–Riley pair (cookbook, "APF", Q = 1/√2). */
function allPass(f: number, fs: number): Section {
  const w = (2 * Math.PI * f) / fs;
  const c = Math.cos(w);
  const a = Math.sin(w) / Math.SQRT2;
  return [(1 - a) / (1 + a), (-2 * c) / (1 + a), 1, (-2 * c) / (1 + a), (1 - a) / (1 + a)];
}

/**
 * Sections of one band. The split is a ladder from the lowest crossover up: band b is high-passed at the
 * crossovers under it and low-passed at its own; the crossovers above its own act on it as
 * all-passes, because its neighbours go through them.
 */
function chainFor(b: number, fr: number[], fs: number): Section[] {
  const out: Section[] = [];
  fr.forEach((f, i) => {
    if (i < b) {
      const s = cookbook('highPass', f, 0, Math.SQRT1_2, fs);
      out.push(s, s);
    } else if (i === b) {
      const s = cookbook('lowPass', f, 0, Math.SQRT1_2, fs);
      out.push(s, s);
    } else out.push(allPass(f, fs));
  });
  return out;
}

class MultibandProcessor implements Processor {
  reduction = 0;
  level = -160;
  readonly readings = new Float64Array(BANDS);
  private readonly filters: Cascade[];
  private readonly comps: Processor[];
  private readonly glide: Glide;
  private readonly l: Float64Array[];
  private readonly r: Float64Array[];
  private readonly fs: number;
  private readonly resting = new Uint8Array(BANDS);
  /** where it works a share of a sum: the same bands of the whole, which the compressors follow */
  private whole: { filters: Cascade[]; l: Float64Array; r: Float64Array } | null = null;
  private params: Params;
  constructor(
    params: Params,
    private readonly ctx: DeviceContext,
    comp: DeviceType['create'],
  ) {
    this.fs = ctx.sampleRate;
    this.params = params;
    this.filters = Array.from({ length: BANDS }, () => new Cascade(6, ctx.sampleRate));
    this.l = Array.from({ length: BANDS }, () => doubles(ctx.maxBlock));
    this.r = Array.from({ length: BANDS }, () => doubles(ctx.maxBlock));
    this.comps = Array.from({ length: BANDS }, (_, i) => comp(compParams(params, i + 1), ctx));
    this.glide = new Glide(BANDS + 1, smoothing(ctx.sampleRate));
    this.set(params, true);
  }
  set(p: Params, immediate: boolean): void {
    this.params = p;
    const n = corners(p, this.fs).length + 1;
    const solo = Array.from({ length: n }, (_, i) => p[`b${i + 1}.solo`]).some(Boolean);
    const gains = Array.from({ length: BANDS }, (_, i) => (i < n && (!solo || p[`b${i + 1}.solo`]) ? 1 : 0));
    // bands that are not in use stay as all-pass copies with no gain, so that adding one glides in
    this.tune(this.filters, immediate);
    if (this.whole) this.tune(this.whole.filters, immediate);
    this.comps.forEach((c, i) => c.set(compParams(p, i + 1), immediate));
    this.glide.set([...gains, dbToGain(p.output as number)], immediate);
  }
  private tune(filters: Cascade[], immediate: boolean): void {
    const fr = corners(this.params, this.fs);
    filters.forEach((f, b) => f.set(b <= fr.length ? chainFor(b, fr, this.fs) : [], immediate));
  }
  private split(): NonNullable<MultibandProcessor['whole']> {
    const filters = this.filters.map(() => new Cascade(6, this.fs));
    this.tune(filters, true);
    return { filters, l: doubles(this.ctx.maxBlock), r: doubles(this.ctx.maxBlock) };
  }
  /** One band of what comes in, pressed by its own level, or by that of the whole where this is a share of it. */
  private press(b: number, n: number, keyL: Float64Array | null, keyR: Float64Array): void {
    const [bl, br] = [this.l[b], this.r[b]];
    this.filters[b].process(bl, br, n);
    if (!keyL) {
      this.comps[b].process(bl, br, n, bl, br);
      return;
    }
    const { filters, l, r } = (this.whole ??= this.split());
    copy(l, 0, keyL, 0, n);
    copy(r, 0, keyR, 0, n);
    filters[b].process(l, r, n);
    this.comps[b].process(bl, br, n, l, r);
  }
  process(l: Float64Array, r: Float64Array, n: number, keyL: Float64Array, keyR: Float64Array): void {
    const key = keyL === l ? null : keyL;
    const v = this.glide.now;
    this.reduction = 0;
    this.level = -160;
    for (let b = 0; b < BANDS; b++) {
      this.readings[b] = 0;
      if (v[b] === 0 && !this.glide.moving) {
        // a band that joins again starts from silence, not from what it last heard
        if (!this.resting[b]) {
          this.filters[b].reset();
          this.whole?.filters[b].reset();
          this.comps[b].reset();
          this.resting[b] = 1;
        }
        continue;
      }
      this.resting[b] = 0;
      const bl = this.l[b];
      const br = this.r[b];
      for (let i = 0; i < n; i++) {
        bl[i] = l[i];
        br[i] = r[i];
      }
      this.press(b, n, key, keyR);
      this.readings[b] = this.comps[b].reduction;
      if (this.comps[b].reduction < this.reduction) this.reduction = this.comps[b].reduction;
      if (this.comps[b].level > this.level) this.level = this.comps[b].level;
    }
    let at = 0;
    while (at < n) {
      const m = this.glide.span(n - at);
      const out = v[BANDS];
      for (let i = at; i < at + m; i++) l[i] = r[i] = 0;
      for (let b = 0; b < BANDS; b++) {
        const g = v[b] * out;
        if (g === 0) continue;
        const bl = this.l[b];
        const br = this.r[b];
        for (let i = at; i < at + m; i++) {
          l[i] += g * bl[i];
          r[i] += g * br[i];
        }
      }
      this.glide.advance(m);
      at += m;
    }
  }
  reset(): void {
    for (const f of [...this.filters, ...(this.whole?.filters ?? [])]) f.reset();
    for (const c of this.comps) c.reset();
  }
}

const compParams = (p: Params, n: number): Params => ({
  ...compressor.defaults,
  threshold: p[`b${n}.threshold`],
  ratio: p[`b${n}.on`] ? p[`b${n}.ratio`] : 1,
  knee: p.knee,
  attack: p[`b${n}.attack`],
  release: p[`b${n}.release`],
  makeup: p[`b${n}.gain`],
  mix: p.mix,
});
