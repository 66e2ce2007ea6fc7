import { DEVICE_TYPES } from '../devices/index.ts';
import { tenTo } from '../model/power.ts';
import type { DeviceFigures, LineReference } from '../model/reference.ts';
import type { Device, Id, Params, Session, Slot, Track } from '../model/types.ts';
import { formatDb, formatValue } from '../model/units.ts';
import type { Sound } from '../engine/sound.ts';
import { trackOf } from '../session/create.ts';
import { devicesIn, mapDevices } from '../session/slots.ts';
import { balanceOf, type Balance } from './balance.ts';
import { alongChain, figuresOf, isKeyed, soundInto, through, worksByLevel, type About } from './chain.ts';
import { sounding, type Sides, type Sounding } from './figures.ts';
import { LEAST, figuresOfSound, highPassesOf, type Figures } from './reference.ts';
import { solveThresholds } from './solve.ts';

/** One value that fits the sound better, with the figure that it is about. */
export interface FitStep {
  /** "dev4/threshold" of a device of the line, or "inputTrim" */
  path: string;
  device: Id | null;
  param: string;
  label: string;
  from: number;
  to: number;
  fromText: string;
  toText: string;
  reason: string;
  /** what the figure is, what it is with the value as saved, and with the one that is proposed */
  figure: string;
  before: number;
  after: number;
  on: boolean;
}
/** What could not be worked out, and why. */
export interface FitRefusal {
  label: string;
  reason: string;
}
export interface FitPlan {
  steps: FitStep[];
  refused: FitRefusal[];
  /** how the sound differs from the one that the preset was made with; null where nothing could be told */
  balance: Balance | null;
}

/** What lies closer than this to what it was is the same: dB, and share of a frequency. */
const SAME_DB = 0.2;
const SAME_SHARE = 0.01;
/** sibilants wander by themselves: closer than this they are the same */
const SAME_SIBILANT = 0.04;
/** a gate stays this far under the soft phrases, dB */
const UNDER_SOFT = 6;
/** a high-pass stays under this share of the lowest note */
const UNDER_LOWEST = 0.8;
const TRIM_MOST = 36;

const hz = (f: number): string => (f >= 1000 ? `${(f / 1000).toFixed(1)} kHz` : `${Math.round(f)} Hz`);
const decibels = (v: number): string => `${v.toFixed(1).replace('-', '−')} dB`;

/**
 * The values of a line that would make its chain do with this sound what it did with the one that it was made for: level
 * in, high-pass, gate, de-esser, compressors and limiters, in the order of the signal, each heard by the ones behind it.
 * @param reference what was remembered (`measureReference`); its devices are found by id, by the line's origin, or by
 *   their order
 * @returns an empty list where everything fits within 0.2 dB and 1 %
 * @throws when there is no such line
 */
export async function planFit(
  session: Session,
  track: Id,
  reference: LineReference | null,
  sounds: Map<string, Sound>,
): Promise<FitStep[]> {
  return fitNow(session, track, reference, sounds).steps;
}

/** The same with what could not be worked out and how the balance differs, at once. */
export function fitNow(
  session: Session,
  track: Id,
  reference: LineReference | null,
  sounds: Map<string, Sound>,
): FitPlan {
  const line = trackOf(session, track);
  if (!line) throw new Error('The line that was to be fitted is not in the session.');
  const nothing = (reason: string): FitPlan => ({
    steps: [],
    refused: [{ label: line.name, reason }],
    balance: null,
  });
  if (!reference) return nothing('The preset was saved without sound: it remembers nothing to fit to.');
  const x = soundInto(session, track, sounds);
  const now = figuresOfSound(x, session.sampleRate);
  if (now.seconds < LEAST) {
    return nothing(`Only ${now.seconds.toFixed(1)} s of it sound; ${LEAST} s are needed to tell.`);
  }
  if (!Number.isFinite(now.loudness)) {
    return nothing('It is too soft to tell: nothing of it is over −70 LUFS.');
  }
  const fit = new Fit(session, line, reference, now, sounds);
  fit.run(x);
  return { steps: fit.steps, refused: fit.refused, balance: balanceOf(reference.thirds, now.thirds) };
}

/** A sound times a gain; sides that are one stay one. */
function raisedBy(x: Sides, gain: number): Sides {
  const l = x.l.map((v) => v * gain);
  return { l, r: x.l === x.r ? l : x.r.map((v) => v * gain) };
}

/** One line while it is fitted. */
class Fit {
  readonly steps: FitStep[] = [];
  readonly refused: FitRefusal[] = [];
  private readonly fs: number;
  private readonly tempo: number;
  private where!: Sounding;
  private readonly partners: ReadonlyMap<Id, DeviceFigures>;
  /** id here → id that the device had where it was measured */
  private readonly known: (id: Id) => Id;

  constructor(
    session: Session,
    private readonly line: Track,
    private readonly was: LineReference,
    private readonly now: Figures,
    private readonly sounds: Map<string, Sound>,
  ) {
    this.fs = session.sampleRate;
    this.tempo = session.tempo;
    this.partners = partnersOf(line, was.devices);
    this.known = knownBy(line, was);
  }

  run(x: Sides): void {
    this.where = sounding(x, this.fs);
    const { chain, gain } = this.levelIn();
    const g = tenTo(gain / 20);
    const raised = gain ? raisedBy(x, g) : x;
    alongChain(chain, raised, this.about, (d, sound) => this.at(d, sound));
  }

  private get about(): About {
    return { sampleRate: this.fs, tempo: this.tempo, where: this.where, sounds: this.sounds };
  }
  private at(d: Device, sound: Sides): { device: Device; out?: Sides } {
    if (d.type === 'eq') return { device: this.highPass(d) };
    if (!worksByLevel(d)) return { device: d };
    if (isKeyed(d)) {
      this.refuse(d, 'It listens to another line: what that does to it is not this voice’s business.');
      return { device: d };
    }
    const was = this.partners.get(d.id);
    if (!was) {
      this.refuse(d, 'It was not there, or not on, when the preset was saved.');
      return { device: d };
    }
    if (d.type === 'gate') return { device: this.gate(d, was, sound) };
    if (d.type === 'deesser') return this.thresholds(this.sibilants(d), was, sound);
    return this.thresholds(d, was, sound);
  }

  private propose(
    step: Omit<FitStep, 'on' | 'path' | 'fromText' | 'toText'>,
    text: (v: number) => string,
  ): void {
    const path = step.device ? `${step.device}/${step.param}` : step.param;
    this.steps.push({ ...step, path, fromText: text(step.from), toText: text(step.to), on: true });
  }
  private refuse(d: Device | null, reason: string): void {
    this.refused.push({ label: d?.name ?? this.line.name, reason });
  }
  /** A device with a new value of one of its parameters, which is proposed. */
  private set(
    d: Device,
    param: string,
    to: number,
    about: Pick<FitStep, 'figure' | 'before' | 'after' | 'reason'>,
  ): Device {
    const spec = DEVICE_TYPES[d.type].byId[param];
    const from = d.params[param] as number;
    const label = `${d.name} · ${spec.label}`;
    this.propose({ device: d.id, param, label, from, to, ...about }, (v) => formatValue(spec, v));
    return { ...d, params: { ...d.params, [param]: to } };
  }

  /** What a value was when the preset was saved; what it is now where that was not remembered. */
  private saved(d: Device, param: string): number {
    return this.was.values[`${this.known(d.id)}/${param}`] ?? (d.params[param] as number);
  }

  /**
   * The loudness that comes into the chain: by its first trim where nothing before that works by level, otherwise by the
   * line's own. @returns the chain, and the gain before it
   */
  private levelIn(): { chain: Slot[]; gain: number } {
    const { chain } = this.line;
    const missing = this.was.loudness - this.now.loudness;
    const first = chain.findIndex((s) => s.kind === 'device' && s.type === 'trim' && s.state === 'on');
    const isBefore = chain.slice(0, Math.max(0, first)).every((s) => s.kind === 'device' && !worksByLevel(s));
    const trim = first >= 0 && isBefore ? (chain[first] as Device) : null;
    const from = trim ? (trim.params.gain as number) : (this.line.inputTrim ?? 0);
    const to = Math.round(((trim ? this.saved(trim, 'gain') : from) + missing) * 10) / 10;
    if (Math.abs(to - from) <= SAME_DB) return { chain, gain: 0 };
    const [here, there] = [this.now.loudness, this.was.loudness].map((v) => v.toFixed(1).replace('-', '−'));
    const about = {
      figure: 'loudness into the chain (LUFS)',
      before: this.now.loudness,
      after: this.was.loudness,
      reason: `It comes in at ${here} LUFS; the preset was made at ${there}.`,
    };
    if (Math.abs(to) > TRIM_MOST) {
      const gain = formatDb(to, false);
      this.refuse(trim, `It would need ${gain} of trim, more than there is; look at the recording’s level.`);
      return { chain, gain: 0 };
    }
    if (!trim) {
      const label = `${this.line.name} · Trim before the chain`;
      this.propose({ device: null, param: 'inputTrim', label, from, to, ...about }, (v) =>
        formatDb(v, false),
      );
      return { chain, gain: to - from };
    }
    const set = this.set(trim, 'gain', to, about);
    return { chain: chain.map((s) => (s === trim ? set : s)), gain: 0 };
  }

  /** High-pass bands keep their ratio to the lowest note. */
  private highPass(d: Device): Device {
    const bands = highPassesOf(d);
    if (!bands.length) return d;
    const [was, now] = [this.was.pitch, this.now.pitch];
    if (!was || !now) {
      if (was) this.refuse(d, 'No pitch is to be found in this sound, so that its high-pass stays.');
      return d;
    }
    return bands.reduce((at, band) => this.highPassBand(at, band, was.low, now.low), d);
  }
  private highPassBand(d: Device, param: string, was: number, now: number): Device {
    const [from, saved] = [d.params[param] as number, this.saved(d, param)];
    // one that was over it on purpose keeps its own ratio
    const ratio = Math.min(saved / was, Math.max(UNDER_LOWEST, saved / was));
    const hasMoved = Math.abs(now / was - 1) > SAME_SHARE;
    const to = Math.round((hasMoved ? ratio * now : saved) * 10) / 10;
    const spec = DEVICE_TYPES.eq.byId[param];
    if (Math.abs(to / from - 1) <= SAME_SHARE) return d;
    if (to < spec.min! || to > spec.max!) {
      this.refuse(d, `Its high-pass would have to stand at ${hz(to)}, outside of its range.`);
      return d;
    }
    return this.set(d, param, to, {
      figure: 'lowest note (Hz)',
      before: was,
      after: now,
      reason: `The lowest notes lie at ${hz(now)}; they lay at ${hz(was)}.`,
    });
  }

  /** A gate keeps its distance to the noise, and stays under the soft phrases. */
  private gate(d: Device, was: DeviceFigures, sound: Sides): Device {
    const here = sounding(sound, this.fs, this.where.on);
    if (was.floor === null && here.floor === null) return d;
    if (was.floor === null || here.floor === null) {
      const which = here.floor === null ? 'this sound' : 'the sound that the preset was made with';
      this.refuse(d, `There is no pause in ${which} in which its noise could be told.`);
      return d;
    }
    const [from, saved] = [d.params.threshold as number, this.saved(d, 'threshold')];
    // one that stood closer to the phrases on purpose keeps that distance
    const distance = Math.min(UNDER_SOFT, was.soft - saved);
    const wanted = Math.min(saved + here.floor - was.floor, here.soft - distance);
    const to = Math.round(wanted * 10) / 10;
    if (Math.abs(to - from) <= SAME_DB) return d;
    const spec = DEVICE_TYPES.gate.byId.threshold;
    if (to < spec.min! || to > spec.max!) {
      this.refuse(d, `Its threshold would have to be ${decibels(to)}, outside of its range.`);
      return d;
    }
    return this.set(d, 'threshold', to, {
      figure: 'noise between the phrases (dBFS)',
      before: was.floor,
      after: here.floor,
      reason: `The noise between the phrases lies at ${decibels(here.floor)}; it lay at ${decibels(was.floor)}.`,
    });
  }

  /** A de-esser goes to where the sibilants are. */
  private sibilants(d: Device): Device {
    const [was, now] = [this.was.sibilance, this.now.sibilance];
    if (!was || !now) return d;
    const hasMoved = Math.abs(now.frequency / was.frequency - 1) > SAME_SIBILANT;
    const spec = DEVICE_TYPES.deesser.byId.frequency;
    const wanted = hasMoved ? now.frequency : this.saved(d, 'frequency');
    const to = Math.round(Math.min(spec.max!, Math.max(spec.min!, wanted)) / 10) * 10;
    if (Math.abs(to / (d.params.frequency as number) - 1) <= SAME_SHARE) return d;
    return this.set(d, 'frequency', to, {
      figure: 'middle of the sibilants (Hz)',
      before: was.frequency,
      after: now.frequency,
      reason: `The sibilants lie at ${hz(now.frequency)}; they lay at ${hz(was.frequency)}.`,
    });
  }

  /** Thresholds that take as much on the average as they did. */
  private thresholds(d: Device, was: DeviceFigures, sound: Sides): { device: Device; out?: Sides } {
    const params = thresholdsOf(d, was);
    const wanted = params.length > 1 ? was.bands! : [was.mean];
    let heard: { values: readonly number[]; out: Sides } | null = null;
    const run = (values: readonly number[]) => {
      const changed: Params = { ...d.params, ...Object.fromEntries(params.map((p, i) => [p, values[i]])) };
      const made = through(d, changed, sound, this.about);
      heard = { values: [...values], out: made.out };
      return {
        made,
        given: params.length > 1 ? made.reduced.bands.slice(0, params.length) : [made.reduced.mean],
      };
    };
    /** What comes out with these values, if it was heard last and all of them are taken over. */
    const outOf = (values: readonly number[], before: readonly number[]) => {
      const isWhole = before.every((b, i) => Math.abs(b - wanted[i]) > SAME_DB || values[i] === from[i]);
      return isWhole && heard?.values.every((v, i) => v === values[i]) ? heard.out : undefined;
    };
    const from = params.map((p) => d.params[p] as number);
    const first = run(from);
    const isSame = first.given.every((g, i) => Math.abs(g - wanted[i]) <= SAME_DB);
    if (isSame || !params.length) return { device: d, out: first.made.out };
    const here = figuresOf(d, sound, first.made.reduced, this.where, this.fs);
    const guess = from.map((v) => v + here.level - was.level);
    const spec = DEVICE_TYPES[d.type].byId[params[0]];
    const found = solveThresholds(
      { values: from, given: first.given },
      wanted,
      guess,
      [spec.min!, spec.max!],
      (values) => run(values).given,
    );
    if (!found.isMet) {
      this.refuse(d, 'No threshold within its range takes as much as it did; look at the level before it.');
      return { device: d, out: first.made.out };
    }
    return {
      device: this.setThresholds(d, params, found.values, {
        wanted,
        before: first.given,
        after: found.given,
      }),
      out: outOf(found.values, first.given),
    };
  }
  private setThresholds(
    d: Device,
    params: readonly string[],
    values: readonly number[],
    { wanted, before, after }: Record<'wanted' | 'before' | 'after', readonly number[]>,
  ): Device {
    return params.reduce((at, param, i) => {
      if (Math.abs(before[i] - wanted[i]) <= SAME_DB) return at;
      return this.set(at, param, values[i], {
        figure: 'gain reduction on the average (dB)',
        before: before[i],
        after: after[i],
        reason: `It would take ${decibels(before[i])} on the average; with the sound that it was made for it took ${decibels(wanted[i])}.`,
      });
    }, d);
  }
}

/** The thresholds of a device that are searched: one, or one for each band that compresses. */
function thresholdsOf(d: Device, was: DeviceFigures): string[] {
  if (!was.bands?.length) return d.params.threshold === undefined ? [] : ['threshold'];
  const bands = was.bands.map((_, i) => `b${i + 1}`);
  // one that is off takes nothing, whatever its threshold
  return bands.map((b) => `${b}.threshold`).filter((p) => d.params[p] !== undefined);
}

/** The remembered figures of each device: by its own id, by the id that it had in the preset, or by order. */
function partnersOf(line: Track, devices: readonly DeviceFigures[]): Map<Id, DeviceFigures> {
  const out = new Map<Id, DeviceFigures>();
  const free = new Set(devices);
  const own = devicesIn(line.chain).filter((d) => worksByLevel(d));
  const pair = (d: Device, found: DeviceFigures | undefined) => {
    if (!found || out.has(d.id) || !free.has(found)) return;
    out.set(d.id, found);
    free.delete(found);
  };
  for (const d of own) {
    pair(
      d,
      devices.find((f) => f.id === d.id),
    );
  }
  for (const d of own) {
    const local = line.origin?.ids?.[d.id] ?? d.origin?.local;
    pair(
      d,
      devices.find((f) => f.id === local),
    );
  }
  for (const d of own) {
    if (d.state === 'on') {
      pair(
        d,
        [...free].find((f) => f.type === d.type),
      );
    }
  }
  return out;
}

/** Under which id a device was measured: its own, that of the preset, or that of the one in its place. */
function knownBy(line: Track, was: LineReference): (id: Id) => Id {
  const measured = new Set([
    ...was.devices.map((f) => f.id),
    ...Object.keys(was.values).map((p) => p.split('/')[0]),
  ]);
  const byId = new Map(devicesIn(line.chain).map((d) => [d.id, d]));
  return (id) => {
    const local = line.origin?.ids?.[id] ?? byId.get(id)?.origin?.local;
    return [id, local].find((x) => x !== undefined && measured.has(x)) ?? id;
  };
}

/** A line with what is on of a plan. */
export function applyFit(line: Track, steps: readonly FitStep[]): Track {
  const on = steps.filter((s) => s.on);
  const own = on.find((s) => s.device === null);
  const chain = mapDevices(line.chain, (d) => {
    const mine = on.filter((s) => s.device === d.id);
    if (!mine.length) return d;
    return { ...d, params: { ...d.params, ...Object.fromEntries(mine.map((s) => [s.param, s.to])) } };
  });
  return { ...line, chain, ...(own ? { inputTrim: own.to } : {}) };
}
