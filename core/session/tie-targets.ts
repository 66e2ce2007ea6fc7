import { DEVICE_TYPES, valueIn } from '../devices/index.ts';
import { toggle } from '../devices/spec.ts';
import type { ParamSpec } from '../model/param.ts';
import { fromPosition, tidy, toPosition } from '../model/units.ts';
import {
  DESK,
  LINE,
  MAX_LEVEL,
  MIN_LEVEL,
  type Device,
  type Id,
  type Rack,
  type Slot,
  type Tie,
} from '../model/types.ts';
import { findSlot, racksIn, walkSlots } from './slots.ts';

/** What a handle can be tied to: the values and switches of what is in a rack, of its line, and of the listening. */

export const BLEND_SPEC: ParamSpec = {
  id: 'blend',
  label: 'Blend',
  group: 'Rack',
  kind: 'number',
  unit: '%',
  min: 0,
  max: 100,
  default: 50,
  taper: 'linear',
  step: 1,
};
export const STRAND_LEVEL: ParamSpec = {
  id: 'level',
  label: 'Level',
  group: 'Strand',
  kind: 'number',
  unit: 'dB',
  min: MIN_LEVEL,
  max: MAX_LEVEL,
  default: 0,
  taper: 'level',
  step: 0.1,
};
export const STRAND_PAN: ParamSpec = {
  id: 'pan',
  label: 'Pan',
  group: 'Strand',
  kind: 'number',
  unit: 'pan',
  min: -100,
  max: 100,
  default: 0,
  taper: 'linear',
  step: 1,
};

/** Whether a device or rack is on; off is bypassed. What is inactive stays so. */
const ON = toggle('state', 'on', 'Chain', true);
const MUTE = toggle('mute', 'mute', 'Line', false);
const SOLO = toggle('solo', 'solo', 'Line', false);
const MONO = toggle('mono', 'mono check', 'Listening', false);
/** Switches of what is not in the rack: of the line that it stands on, and of what only the person hears. */
const OUTSIDE: { slot: Id; spec: ParamSpec; label: string }[] = [
  { slot: LINE, spec: MUTE, label: 'This line · mute' },
  { slot: LINE, spec: SOLO, label: 'This line · solo' },
  { slot: DESK, spec: MONO, label: 'Listening · mono check' },
];

export interface TieTarget {
  label: string;
  spec: ParamSpec;
  /** present value; a switch counts as 0 or 1 */
  value: number;
  slot: Id;
  param: string;
  /** why it has no effect now, in words */
  hint?: string;
}

const chainOf = (x: Rack | readonly Slot[]): readonly Slot[] => ('kind' in x ? [x] : x);

/** A device's name, with its number where the chain has several of that name. */
function namer(chain: readonly Slot[]): (d: Device) => string {
  const devices = [...walkSlots(chain)].filter((s) => s.kind === 'device');
  return (d) => {
    const twins = devices.filter((x) => x.name === d.name);
    return twins.length > 1 ? `${d.name} ${twins.findIndex((x) => x.id === d.id) + 1}` : d.name;
  };
}

/** The numbers of a device; those that do nothing as it is set come with a hint. */
function numbersOf(d: Device, name: string): TieTarget[] {
  const type = DEVICE_TYPES[d.type];
  return type.params
    .filter((spec) => spec.kind === 'number')
    .map((spec) => ({
      label: `${name} · ${spec.label}`,
      spec,
      value: valueIn(d, spec) as number,
      slot: d.id,
      param: spec.id,
      ...((type.used?.(d.params, spec.id) ?? true) ? {} : { hint: `${spec.group} is off` }),
    }));
}

/**
 * Everything in a chain or rack that a handle can move, with its present value: numbers of devices, blends of racks,
 * level and pan of strands. What does nothing now (a band that is off) is offered with a hint, after the rest.
 */
export function tieTargets(where: Rack | readonly Slot[]): TieTarget[] {
  const out: TieTarget[] = [];
  const nameOf = namer(chainOf(where));
  const visit = (s: Slot, within: string) => {
    if (s.kind === 'device') {
      out.push(...numbersOf(s, within + nameOf(s)));
      return;
    }
    const isParallel = s.strands.length > 1;
    const mine: Pick<Tie, 'slot' | 'param'>[] = isParallel ? [{ slot: s.id, param: 'blend' }] : [];
    out.push(...mine.map((tie) => tieTarget(where, tie)!));
    for (const strand of s.strands) {
      if (isParallel) {
        out.push(...['level', 'pan'].map((param) => tieTarget(where, { slot: strand.id, param })!));
      }
      for (const x of strand.chain) visit(x, isParallel ? `${strand.name} · ` : within);
    }
  };
  for (const s of chainOf(where)) visit(s, '');
  return [...out.filter((t) => !t.hint), ...out.filter((t) => t.hint)];
}

/**
 * The switches that a handle of a rack can flip: devices and racks on or bypassed, switches of devices, mute and solo
 * of strands and of the line, mono check.
 */
export function switchTargets(rack: Rack): TieTarget[] {
  const ties: Pick<Tie, 'slot' | 'param'>[] = [];
  for (const s of walkSlots([rack])) {
    ties.push({ slot: s.id, param: ON.id });
    if (s.kind === 'device') {
      const toggles = DEVICE_TYPES[s.type].params.filter((p) => p.kind === 'switch');
      ties.push(...toggles.map((p) => ({ slot: s.id, param: p.id })));
    } else if (s.strands.length > 1) {
      ties.push(...s.strands.flatMap(({ id }) => ['mute', 'solo'].map((param) => ({ slot: id, param }))));
    }
  }
  ties.push(...OUTSIDE.map(({ slot, spec }) => ({ slot, param: spec.id })));
  return ties.map((tie) => tieTarget(rack, tie)!);
}

/** Table entry and words for what a tie moves; null when it is not in the chain or rack any more. */
export function tieTarget(where: Rack | readonly Slot[], tie: Pick<Tie, 'slot' | 'param'>): TieTarget | null {
  const chain = chainOf(where);
  const target = (label: string, spec: ParamSpec, value: number | boolean): TieTarget => ({
    label,
    spec,
    value: Number(value),
    slot: tie.slot,
    param: tie.param,
  });
  const outside = OUTSIDE.find((x) => x.slot === tie.slot && x.spec.id === tie.param);
  if (outside) return target(outside.label, outside.spec, false);
  const slot = findSlot(chain, tie.slot);
  if (slot && tie.param === ON.id) return target(`${slot.name} · on`, ON, slot.state === 'on');
  if (slot?.kind === 'device') {
    const spec = DEVICE_TYPES[slot.type]?.byId[tie.param];
    const isTied = spec?.kind === 'number' || spec?.kind === 'switch';
    return isTied
      ? target(`${namer(chain)(slot)} · ${spec.label}`, spec, valueIn(slot, spec) as number | boolean)
      : null;
  }
  if (slot?.kind === 'rack') {
    return tie.param === 'blend' ? target(`${slot.name} · blend`, BLEND_SPEC, slot.blend.position) : null;
  }
  const strand = racksIn(chain)
    .flatMap((r) => r.strands)
    .find((s) => s.id === tie.slot);
  const spec = [STRAND_LEVEL, STRAND_PAN, MUTE, SOLO].find((x) => x.id === tie.param);
  if (!strand || !spec) return null;
  return target(`${strand.name} · ${tie.param}`, spec, strand[tie.param as 'level' | 'mute']);
}

/** Lowest and highest value of a tie's end; a switch goes from 0 to 1. */
export const tieRange = (spec: ParamSpec): [number, number] =>
  spec.kind === 'switch' ? [0, 1] : [spec.min!, spec.max!];

/** How far either side of its present value a value is useful, as a share of its way, by unit (our own choice). */
const REACH: Partial<Record<NonNullable<ParamSpec['unit']>, number>> = { dB: 6, st: 12, ct: 50 };
/** the same as a factor, for what is heard by ratio: an octave, twice as long */
const FACTOR: Partial<Record<NonNullable<ParamSpec['unit']>, number>> = { Hz: 2, ms: 2, s: 2, ':1': 2, Q: 2 };

/** the least of that, as a share of the slider's way */
const LEAST = 0.05;

/** Half the width of a useful range, as a share of the slider's way. */
function halfWidth(spec: ParamSpec, value: number): number {
  const at = toPosition(spec, value);
  const wayTo = (v: number) => Math.abs(toPosition(spec, Math.min(spec.max!, Math.max(spec.min!, v))) - at);
  const [reach, factor] = [REACH[spec.unit ?? ''], FACTOR[spec.unit ?? '']];
  if (reach) return Math.max(LEAST, wayTo(value - reach), wayTo(value + reach));
  if (factor && value > 0) return Math.max(LEAST, wayTo(value / factor), wayTo(value * factor));
  return 0.25;
}

/**
 * The range that a fresh tie begins with: around the present value, inside the value's own range, never empty. A share
 * (%) has the whole of its range, a switch both of its places.
 * @param share where the handle stands, 0…1: the value stays as it is there, as far as its range allows
 */
export function usefulRange(
  { spec, value }: Pick<TieTarget, 'spec' | 'value'>,
  share: number,
): { from: number; to: number } {
  if (spec.kind === 'switch') {
    return share < 0.5 ? { from: value, to: 1 - value } : { from: 1 - value, to: value };
  }
  const at = toPosition(spec, value);
  if (spec.unit === '%' && Math.abs(at - share) < 1e-9) return { from: spec.min!, to: spec.max! };
  const half = halfWidth(spec, value);
  // as wide as the room on both sides allows; at an end of its range the window goes the other way
  const room = Math.min(share > 0 ? at / share : 1, share < 1 ? (1 - at) / (1 - share) : 1);
  const isSqueezed = room < half / 2;
  const width = isSqueezed ? half * 2 : Math.min(half * 2, room);
  const start = isSqueezed ? Math.min(1 - width, Math.max(0, at - share * width)) : at - share * width;
  const value1 = (position: number) => tidy(spec, fromPosition(spec, position));
  return { from: value1(start), to: value1(start + width) };
}
