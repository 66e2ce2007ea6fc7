import { clean } from './kernels/index.ts';
import type { ParamSpec } from '../model/param.ts';
import type { Device, Params } from '../model/types.ts';
import type { LivePorts } from './live.ts';
import type { Sound } from './sounds.ts';
import type { InstrumentType, PatternLayer } from './instrument-type.ts';
import type { Picture } from './pictures/picture.ts';

export interface DeviceContext {
  /** Hz */
  sampleRate: number;
  /** bpm */
  tempo: number;
  /** frames; no block is longer */
  maxBlock: number;
  /** real ports, where the engine plays on an interface */
  live?: LivePorts;
  /** sounds by media id, at the engine's rate; while playing, one may still be on its way */
  sounds?: ReadonlyMap<string, Sound>;
}

/**
 * Running state of one device. Buffers are planar Float64, processed in place; nothing is allocated while
 * processing.
 */
export interface Processor {
  /** New values. With `immediate` they hold from the next sample, otherwise they are reached smoothly. */
  set(params: Params, immediate: boolean): void;
  /** keyL and keyR are the detector's input: the device's own input when no key is tied. */
  process(l: Float64Array, r: Float64Array, n: number, keyL: Float64Array, keyR: Float64Array): void;
  /**
   * The same for a sound whose sides are one, with the costly part worked once. A processor that has this also has
   * `twin`.
   */
  processOne?(l: Float64Array, r: Float64Array, n: number): void;
  /** The same for a sound that is its own key and is known to be all finite numbers: it is not looked through again. */
  processClean?(l: Float64Array, r: Float64Array, n: number): void;
  /** From here on the sides may differ: the right one goes on from where the left one is. */
  twin?(): void;
  reset(): void;
  /** dB ≤ 0, the deepest gain reduction of the last block */
  reduction: number;
  /** dB, the detector's highest level in the last block */
  level: number;
  /**
   * further live figures, in the order of the type's `readings`: gain reduction per band, the sung note,
   * loudness …
   */
  readings?: Float64Array;
}

/** Ids of the values of a device that plays through hardware, and how its loop is measured. */
export interface HardwareLoop {
  /** the ports that it leaves by and comes back at */
  send: string;
  back: string;
  /** how long it takes there and back, ms; 0: not measured */
  roundTrip: string;
}

/** The panel that sets a device where the plain one, its values in groups, does not do. */
export type PanelKind = 'curve' | 'drums' | 'parts' | 'steps' | 'foreign';

/** What an earlier revision of a device's sound did otherwise; without `create` it can't be played any more. */
export interface EarlierSound extends Partial<
  Pick<DeviceType, 'create' | 'latency' | 'response' | 'curve' | 'work'>
> {
  /** what the next revision changed, as the end of “since then: …” */
  since: string;
  /** whether it sounds otherwise with these values; always when left out */
  differs?(params: Params): boolean;
}

export interface DeviceType {
  type: string;
  label: string;
  /**
   * counts the changes of its sound that were made on purpose; documents keep it for each device, so that what was
   * saved does not begin to sound otherwise unnoticed. 1 when left out
   */
  revision?: number;
  /** the sounds before the present one, the first one first */
  earlier?: readonly EarlierSound[];
  /** one sentence for menus and docs */
  summary: string;
  params: ParamSpec[];
  byId: Record<string, ParamSpec>;
  defaults: Params;
  /** can take its key from another track */
  hasKey: boolean;
  /** a sound whose sides are one comes out with sides that are one */
  keepsMono?: boolean;
  /** lets nothing through as long as its key is silent */
  shutByKey?: boolean;
  /** how the interface draws it: one that is there, or one of its own */
  picture: Picture;
  /**
   * work compared with an EQ of four bands in the SIMD kernels, on noise with the settings that it comes with, as
   * measured on one machine: for sharing renders over two workers
   */
  work: number;
  /** its gain reduction is worth seeing */
  reduces?: boolean;
  /**
   * how its work on a sum is divided into shares that add up again. linear: each share goes through one of its own;
   * gain: each share gets the gain that the whole makes (`key` hears the whole). What says neither cannot be divided.
   */
  shares?: 'linear' | 'gain';
  /** of one that shares a gain: whether it does with these values, and does not let its key be heard, say */
  sharesWith?(params: Params): boolean;
  /** the panel that sets it; the plain one when left out */
  panel?: PanelKind;
  /** names of the bands in use, of a device whose values `b1.…`, `b2.…` are shown as a table */
  bands?(params: Params): string[];
  /** stands for a device of another program: its state is kept, nothing can be set, sound passes through */
  foreign?: boolean;
  /** two sides that are the same come out different */
  makesSides?: boolean;
  /** does nothing where both sides are the same */
  needsSides?: boolean;
  /** how high it lets peaks go (dB), and the id of the value that says that it watches true peaks */
  ceiling?: { level(params: Params): number; truePeak: string };
  /** through hardware and back */
  loop?: HardwareLoop;
  /** the value (ms) of an echo's time, as long as it is set in ms */
  echo?(params: Params): string | null;
  /** the value that names the sound it plays with: a media id, or one of those that ship (see convolution/spaces.ts) */
  plays?: string;
  /** the value (%) that says how wet it is, of a device that stands fully wet on a return */
  wet?: string;
  /** labels of the processor's `readings` */
  readings?: readonly string[];
  /** how many of the readings mean something now; all when left out */
  shown?(params: Params): number;
  /** samples */
  latency(params: Params, sampleRate: number): number;
  /** transfer function at f (Hz) as [re, im], for linear devices without memory longer than a filter's */
  response?(params: Params, f: number, sampleRate: number): [number, number];
  /** static curve of a dynamics or clipping device: steady level out (dB) for a steady level in (dB) */
  curve?(level: number, params: Params): number;
  /**
   * whether a value matters with the others as they are (a band that is switched off has none); every value
   * matters when left out
   */
  used?(params: Params, id: string): boolean;
  /**
   * whether a list of its values names this one, where the id alone decides or one value makes another idle;
   * every used value when left out
   */
  listed?(params: Params, id: string): boolean;
  /** the note value that it follows the tempo by, when it is set in notes */
  noteSet?(params: Params): string | null;
  /** in a word or two, for telling buses apart: "plate reverb" */
  character?(d: { name: string; params: Params }): string;
  /** words in a third-party device's name that say that it does the same; the lower rank is asked first */
  alike?: { words: RegExp; rank: number };
  /** what it is when it plays notes: parts and outputs */
  instrument?: InstrumentType;
  /** what it is when it makes notes: its layers as they are set */
  pattern?(params: Params): PatternLayer[];
  /** the values that its processor runs with, where they are more than its own; the same object for the same device */
  running?(d: Device): Params;
  create(params: Params, ctx: DeviceContext): Processor;
}

/** Completes a device type: index and defaults come from its table. */
export function defineDevice(d: Omit<DeviceType, 'byId' | 'defaults' | 'revision'>): DeviceType {
  // with nothing that every object has: a value called “constructor” is none
  const byId = Object.create(null) as Record<string, ParamSpec>;
  const defaults: Params = {};
  for (const p of d.params) {
    if (byId[p.id]) throw new Error(`${d.type}: the value “${p.id}” is listed twice.`);
    byId[p.id] = p;
    defaults[p.id] = p.default;
  }
  const earlier = d.earlier?.map((e) => ({ ...e, ...(e.create ? { create: guarding(e.create) } : {}) }));
  return {
    ...d,
    ...(earlier ? { earlier, revision: earlier.length + 1 } : {}),
    byId,
    defaults,
    create: guarding(d.create),
  };
}

const guarding =
  (create: DeviceType['create']): DeviceType['create'] =>
  (params, ctx) =>
    guarded(create(params, ctx));

/**
 * A processor that a sample which is no finite number does not spoil: what comes in is cleaned, and one whose
 * own sums ran over begins anew. What stays in a filter or an echo shows at the end of a block.
 */
function guarded(proc: Processor): Processor {
  const inner = proc.process.bind(proc);
  const end = (l: Float64Array, r: Float64Array, n: number) => {
    if (n === 0 || Number.isFinite(l[n - 1] + r[n - 1])) return;
    proc.reset();
    l.fill(0, 0, n);
    r.fill(0, 0, n);
  };
  proc.process = (l, r, n, keyL, keyR) => {
    clean(l, r, n);
    if (keyL !== l || keyR !== r) clean(keyL, keyR, n);
    inner(l, r, n, keyL, keyR);
    end(l, r, n);
  };
  proc.processClean = (l, r, n) => {
    inner(l, r, n, l, r);
    end(l, r, n);
  };
  return proc;
}

const range =
  (unit: ParamSpec['unit'], taper: ParamSpec['taper']) =>
  (
    id: string,
    label: string,
    group: string,
    min: number,
    max: number,
    def: number,
    more: Partial<ParamSpec> = {},
  ): ParamSpec => ({ id, label, group, kind: 'number', unit, min, max, default: def, taper, ...more });

export const decibels = range('dB', 'linear');
export const hertz = range('Hz', 'log');
export const percent = range('%', 'linear');
export const millis = range('ms', 'log');
export const toggle = (id: string, label: string, group: string, def: boolean, help?: string): ParamSpec => ({
  id,
  label,
  group,
  kind: 'switch',
  default: def,
  help,
});
export const choice = (
  id: string,
  label: string,
  group: string,
  choices: readonly { id: string; label: string }[],
  def: string,
  more: Partial<ParamSpec> = {},
): ParamSpec => ({ id, label, group, kind: 'choice', choices, default: def, ...more });
export const wholeNumber = (
  id: string,
  label: string,
  group: string,
  min: number,
  max: number,
  def: number,
  unit: ParamSpec['unit'],
  more: Partial<ParamSpec> = {},
): ParamSpec => ({
  id,
  label,
  group,
  kind: 'number',
  unit,
  min,
  max,
  default: def,
  taper: 'linear',
  step: 1,
  ...more,
});
export const words = (id: string, label: string, group: string, def: string, help?: string): ParamSpec => ({
  id,
  label,
  group,
  kind: 'text',
  default: def,
  help,
});
