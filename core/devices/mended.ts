import { sectionAt, slopeSections, type FilterType, type Section, type Sections } from './biquad.ts';
import { MATCHED, placesOf, powerAt, prototypeOf, topAt, type Prototype } from './matched.ts';
import { Places, polish } from './polish.ts';
import { square } from '../model/power.ts';

/** A band of the EQ: f in Hz, gain in dB, slope in dB an octave (high- and low-pass). */
export interface Band {
  type: FilterType;
  f: number;
  gain: number;
  q: number;
  slope: number;
}

/** dB: sections that are closer to their prototype need no other one behind them */
const CLOSE = 0.35;
/** dB: no closer one is looked for */
const AIM = 0.2;
/** places from 0 Hz up to the top, and to the corner of a steep edge */
const SPREAD = 24;
/** radians beside the corner, over it, where a section with the prototype's own poles and zeros gets its gain */
const BESIDE = 0.7;

const isPass = (type: FilterType): type is 'highPass' | 'lowPass' =>
  type === 'highPass' || type === 'lowPass';

/** Sections of a band, each made by itself. */
export const apart = ({ type, f, gain, q, slope }: Band, fs: number, by: Sections): Section[] =>
  isPass(type) ? slopeSections(type, f, slope, q, fs, by) : [by.second(type, f, gain, q, fs)];

/** Hz and Q from which on matched sections of a type may be off at all (measured over all values at 44.1 kHz). */
const MAY_BE_OFF: Partial<Record<FilterType, { f: number; q: number }>> = {
  lowShelf: { f: 3000, q: 1.7 },
  highShelf: { f: 3000, q: 1.7 },
  highPass: { f: 8000, q: 1.7 },
  bandPass: { f: 200, q: 0.5 },
  notch: { f: 5000, q: 0.1 },
};
/** Hz: the same for a slope of each type other than 12 dB an octave */
const STEEP_FROM = { lowPass: 200, highPass: 9000 };

function mayBeOff({ type, f, q, slope }: Band): boolean {
  if (isPass(type) && slope !== 12) return f >= STEEP_FROM[type];
  const from = MAY_BE_OFF[type];
  return !!from && f >= from.f && q >= from.q;
}

/** Squared magnitude of a band's prototype at a frequency over its corner. */
function wantedAt({ type, gain, q, slope }: Band, ratio: number): number {
  if (!isPass(type) || slope === 12) return powerAt(prototypeOf(type, gain, q), ratio);
  const v = square(type === 'lowPass' ? ratio : 1 / ratio);
  let rise = 1;
  for (let order = slope / 6; order > 0; order--) rise *= v;
  return 1 / (1 + rise);
}

const known = new Map<string, Section[]>();

/**
 * Sections of a band that follow its prototype to 20 kHz: matched ones, and where they are not close enough, one more
 * that mends what is left. What was worked out before is kept.
 */
export function mended(band: Band, fs: number): Section[] {
  if (!mayBeOff(band)) return apart(band, fs, MATCHED);
  const { type, f, gain, q, slope } = band;
  const key = `${type} ${f} ${gain} ${q} ${slope} ${fs}`;
  const before = known.get(key);
  if (before) return before;
  if (known.size > 2000) known.clear();
  const made = new Mending({ ...band, f: Math.min(f, 0.49 * fs) }, fs).sections();
  known.set(key, made);
  return made;
}

/** Whether it is more than the matched sections themselves. */
export const isMended = (band: Band, fs: number): boolean =>
  mayBeOff(band) && mended(band, fs).length > apart(band, fs, MATCHED).length;

/** The polynomial of z⁻¹ whose roots are those of one of s (corner at 1), mapped by e^(s·w0). */
function mappedRoots([c0, c1, c2]: [number, number, number], w0: number): [number, number, number] {
  if (c2 === 0) return c1 === 0 ? [1, 0, 0] : [1, -Math.exp((-c0 / c1) * w0), 0];
  const middle = -c1 / (2 * c2);
  const rest = c0 / c2 - square(middle);
  const size = Math.exp(middle * w0);
  const turn = Math.sqrt(Math.abs(rest)) * w0;
  const sum = rest > 0 ? 2 * Math.cos(turn) : Math.exp(turn) + Math.exp(-turn);
  return [1, -size * sum, size * size];
}

/** The section with a prototype's own poles and zeros (matched z-transform). */
function mappedSection(p: Prototype, w0: number): Section {
  const [over, under] = [mappedRoots(p.over, w0), mappedRoots(p.under, w0)];
  const plain: Section = [over[0], over[1], over[2], under[1], under[2]];
  const at = p.over[0] > 0 ? 0 : BESIDE * w0;
  const [re, im] = sectionAt(plain, at, 2 * Math.PI);
  const k = Math.sqrt(powerAt(p, at / w0)) / Math.hypot(re, im);
  return [k * over[0], k * over[1], k * over[2], under[1], under[2]];
}

/** Prototypes of first order. */
const LOW: Prototype = { over: [1, 0, 0], under: [1, 1, 0] };
const HIGH: Prototype = { over: [0, 1, 0], under: [1, 1, 0] };

/** Sections of a band, and how far (dB) they are from its prototype at most. */
interface Way {
  sections: Section[];
  off: number;
}

/** A band on its way to its prototype. */
class Mending {
  private readonly w0: number;
  private readonly places: Places;
  private readonly wanted: Float64Array;

  constructor(
    private readonly band: Band,
    private readonly fs: number,
  ) {
    this.w0 = (2 * Math.PI * band.f) / fs;
    this.places = placesFor(band, this.w0, topAt(fs));
    this.wanted = Float64Array.from(this.places.at, (w) => wantedAt(band, w / this.w0));
  }

  sections(): Section[] {
    const plain = apart(this.band, this.fs, MATCHED);
    let best: Way = { sections: plain, off: this.places.apart(this.powerOf(plain), this.wanted) };
    const take = (way: Way | null) => {
      if (way && way.off < best.off) best = way;
    };
    if (best.off > CLOSE) take(this.oneMore(plain));
    if (best.off > CLOSE) take(this.oneMore(this.mappedStart()));
    return best.sections;
  }
  /** Sections with another one behind them. */
  private oneMore(before: Section[]): Way | null {
    const { places, wanted } = this;
    const keepsLow = wantedAt(this.band, 0) > 0;
    const found = polish({ places, wanted, before: this.powerOf(before), keepsLow }, AIM);
    return found && { sections: [...before, found.section], off: found.off };
  }
  /** Sections with the prototype's own poles and zeros. */
  private mappedStart(): Section[] {
    const { type, gain, q, slope, f } = this.band;
    const { w0 } = this;
    const second = (kind: FilterType, _f: number, db: number, sharp: number) =>
      mappedSection(prototypeOf(kind, db, sharp), w0);
    const first = (kind: 'highPass' | 'lowPass') => mappedSection(kind === 'lowPass' ? LOW : HIGH, w0);
    return isPass(type)
      ? slopeSections(type, f, slope, q, this.fs, { first, second })
      : [second(type, f, gain, q)];
  }
  private powerOf(sections: readonly Section[]): Float64Array {
    const out = new Float64Array(this.wanted.length).fill(1);
    for (const s of sections) this.places.through(s, out);
    return out;
  }
}

/** Where a band is looked at: where a fit looks, and evenly up to the top and along a steep edge. */
function placesFor({ type, gain, q, slope }: Band, corner: number, top: number): Places {
  const isSteep = isPass(type) && slope !== 12;
  const at = placesOf({ type, gain, q: isSteep ? slope / 12 : q, corner, top });
  const beyond = at.splice(-2);
  for (let k = 1; k < 2 * SPREAD; k += 2) at.push((top * k) / (2 * SPREAD));
  if (isSteep) for (let k = 1; k < SPREAD; k++) at.push((Math.min(top, corner) * k) / SPREAD);
  return new Places([...at, ...beyond], at.length);
}
