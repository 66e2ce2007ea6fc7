import { bass, keys } from './keys.ts';
import { chorus } from './chorus.ts';
import { clipper } from './clipper.ts';
import { convolution } from './convolution.ts';
import { compressor } from './compressor.ts';
import { deesser } from './deesser.ts';
import { delay } from './delay.ts';
import { doubler } from './doubler.ts';
import { eq } from './eq.ts';
import { gate } from './gate.ts';
import { kit } from './kit.ts';
import { limiter } from './limiter.ts';
import { meter } from './meter.ts';
import { multiband } from './multiband.ts';
import { opaque } from './opaque.ts';
import { outboard } from './outboard.ts';
import { partsPlayer } from './parts.ts';
import { pattern } from './pattern.ts';
import { pitchCorrect } from './pitchcorrect.ts';
import { pitchShift } from './pitchshift.ts';
import { reverb } from './reverb.ts';
import { saturator } from './saturator.ts';
import { trim } from './trim.ts';
import { width } from './width.ts';
import type { ParamSpec } from '../model/param.ts';
import type { Device, ParamValue, Params } from '../model/types.ts';
import type { DeviceType, EarlierSound } from './spec.ts';

/**
 * Every device this program knows, by type, in the order of the interface's lists; a new one is one file and
 * one line here.
 */
const LIST = [
  trim,
  eq,
  compressor,
  gate,
  deesser,
  multiband,
  limiter,
  clipper,
  saturator,
  delay,
  reverb,
  convolution,
  doubler,
  chorus,
  width,
  pitchShift,
  pitchCorrect,
  outboard,
  meter,
  kit,
  partsPlayer,
  keys,
  bass,
  pattern,
  opaque,
];
/** By type. Without a prototype: “constructor” is no device. */
export const DEVICE_TYPES: Record<string, DeviceType> = Object.assign(
  Object.create(null) as Record<string, DeviceType>,
  Object.fromEntries(LIST.map((d) => [d.type, d])),
);

/** Those that a person can add. */
export const ADDABLE = LIST.filter((d) => !d.foreign);

/** The revision of its sound that a device was set with. */
export const revisionOf = (d: { revision?: number }): number => d.revision ?? 1;

/** The present revision of a type's sound. */
export const newestRevision = (type: string): number => DEVICE_TYPES[type]?.revision ?? 1;

/** The changes of its sound since the revision that a device was set with, as far as they are heard with its values. */
export const changesSince = (d: Device): EarlierSound[] =>
  (DEVICE_TYPES[d.type]?.earlier ?? [])
    .slice(revisionOf(d) - 1)
    .filter((change) => change.differs?.(d.params) ?? true);

const PLAYED = new Map<string, DeviceType>();
/**
 * The type of a device as it is played: by the revision of its sound that it was set with, where that can still be
 * played, otherwise by the present one.
 */
export function playedAs(d: { type: string; revision?: number }): DeviceType {
  const type = DEVICE_TYPES[d.type];
  const earlier = type.earlier?.[revisionOf(d) - 1];
  if (!earlier?.create) return type;
  const key = `${d.type} ${revisionOf(d)}`;
  const known = PLAYED.get(key);
  if (known) return known;
  const { since: _since, differs: _differs, ...sound } = earlier;
  const played = { ...type, ...sound };
  PLAYED.set(key, played);
  return played;
}

/** A device's value; one that its table got later counts as its default where a document does not have it yet. */
export const valueIn = (d: { params: Params }, spec: ParamSpec): ParamValue =>
  d.params[spec.id] ?? spec.default;

/** Whether a list of a device's values names one of them. */
export const isListed = (d: { type: string; params: Params }, param: string): boolean =>
  isUsed(d, param) && (DEVICE_TYPES[d.type]?.listed?.(d.params, param) ?? true);

/** Whether a value says anything about the sound: those that are switched off with their band do not. */
export const isUsed = (d: { type: string; params: Params }, param: string): boolean =>
  DEVICE_TYPES[d.type]?.used?.(d.params, param) ?? true;

/** The values that a device's processor runs with. */
export const runningParams = (d: Device): Params => DEVICE_TYPES[d.type].running?.(d) ?? d.params;
