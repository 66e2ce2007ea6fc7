import { DEVICE_TYPES, valueIn } from '../devices/index.ts';
import type { ParamSpec } from '../model/param.ts';
import { moveHandle, setIn } from './handles.ts';
import { STRAND_LEVEL, STRAND_PAN, tieTarget, tieTargets } from './tie-targets.ts';
import { findSlot, mapSlots, racksIn, walkSlots } from './slots.ts';
import { fromPosition, tidy, toPosition } from '../model/units.ts';
import type { Id, Lane, LanePoint, Tie, Track } from '../model/types.ts';

/**
 * What a lane moves: words, the table entry of the value, and what it is without the lane. A switch counts as
 * 0 or 1.
 */
export interface LaneTarget {
  label: string;
  spec: ParamSpec;
  value: number;
  of: Id;
  param: string;
}

/** Table entries of a line's own values, of its sends and of handles. */
export const LEVEL: ParamSpec = { ...STRAND_LEVEL, group: 'Line' };
export const SEND_LEVEL: ParamSpec = { ...LEVEL, id: 'send', label: 'Send level', default: -18 };
export const PAN: ParamSpec = { ...STRAND_PAN, group: 'Line' };
export const HANDLE_VALUE: ParamSpec = {
  id: 'value',
  label: 'Handle',
  group: 'Rack',
  kind: 'number',
  unit: '%',
  min: 0,
  max: 100,
  default: 0,
  taper: 'linear',
  step: 0.5,
};
const MUTE: ParamSpec = { id: 'mute', label: 'Mute', group: 'Line', kind: 'switch', default: false };
const RATE = 48000;

/**
 * Whether a device's value moves its latency: what delays a path is planned for a whole session and can't
 * change along the song.
 */
function shiftsTime(type: string, params: Record<string, unknown>, spec: ParamSpec): boolean {
  const at = (v: unknown) => DEVICE_TYPES[type].latency({ ...params, [spec.id]: v } as never, RATE);
  return spec.kind === 'switch' ? at(true) !== at(false) : at(spec.min) !== at(spec.max);
}

/**
 * Everything on a track that a lane can move, with its present value: level, pan and mute; the level of its
 * sends; numbers and switches of devices, blends, strands and handles. Not what changes a device's latency.
 * @param nameOf the name of a send's far side
 */
export function laneTargets(t: Track, nameOf: (id: Id) => string = (id) => id): LaneTarget[] {
  const out: LaneTarget[] = [];
  const add = (of: Id, param: string) => {
    const x = laneTarget(t, { of, param }, nameOf);
    if (x) out.push(x);
  };
  for (const p of ['level', 'pan', 'mute']) add(t.id, p);
  for (const s of t.sends) add(s.id, 'level');
  for (const r of racksIn(t.chain)) for (const h of r.handles) add(h.id, 'value');
  for (const x of tieTargets(t.chain)) if (!x.hint) add(x.slot, x.param);
  for (const s of walkSlots(t.chain)) {
    if (s.kind !== 'device') continue;
    const type = DEVICE_TYPES[s.type];
    for (const p of type.params) {
      if (p.kind === 'switch' && (type.used?.(s.params, p.id) ?? true)) add(s.id, p.id);
    }
  }
  return out;
}

/** Whether a lane of a handle moves one of its ties along: what switches a device on or off is for hands alone. */
export const followsLane = (t: Track, tie: Tie): boolean =>
  tieTarget(t.chain, tie)?.spec.kind === 'number' ||
  laneTarget(t, { of: tie.slot, param: tie.param }) !== null;

/** What a lane moves; null when it is gone or cannot be moved. */
export function laneTarget(
  t: Track,
  lane: Pick<Lane, 'of' | 'param'>,
  nameOf: (id: Id) => string = (id) => id,
): LaneTarget | null {
  const { of, param } = lane;
  const target = (label: string, spec: ParamSpec, value: number | boolean): LaneTarget => ({
    label,
    spec,
    value: Number(value),
    of,
    param,
  });
  if (of === t.id) {
    if (t.role === 'midi') return null;
    if (param === 'level') return target('Level', LEVEL, t.level);
    if (param === 'pan') return target('Pan', PAN, t.pan);
    if (param === 'mute') return target('Mute', MUTE, t.mute);
    return null;
  }
  const send = t.sends.find((s) => s.id === of);
  if (send) return param === 'level' ? target(`Send to ${nameOf(send.to)}`, SEND_LEVEL, send.level) : null;
  const rack = racksIn(t.chain).find((r) => r.handles.some((h) => h.id === of));
  if (rack) {
    return param === 'value'
      ? target(
          `${rack.name} · ${rack.handles.find((h) => h.id === of)!.name}`,
          HANDLE_VALUE,
          rack.handles.find((h) => h.id === of)!.value,
        )
      : null;
  }
  const slot = findSlot(t.chain, of);
  const known = slot?.kind === 'device' ? DEVICE_TYPES[slot.type]?.byId[param] : undefined;
  if (slot?.kind === 'device') {
    if (
      !known ||
      (known.kind !== 'number' && known.kind !== 'switch') ||
      shiftsTime(slot.type, slot.params, known)
    ) {
      return null;
    }
    return target(`${slot.name} · ${known.label}`, known, valueIn(slot, known) as number | boolean);
  }
  const x = tieTarget(t.chain, { slot: of, param });
  return x?.spec.kind === 'number' ? target(x.label, x.spec, x.value) : null;
}

/**
 * Value of points at a time in seconds: straight along the value's taper from one to the next, or held; NaN
 * when there are none.
 */
export function laneValue(spec: ParamSpec, points: readonly LanePoint[], at: number): number {
  if (points.length === 0) return NaN;
  // the last point that is not later
  let low = 0;
  let high = points.length;
  while (low < high) {
    const mid = (low + high) >> 1;
    if (points[mid].at <= at) low = mid + 1;
    else high = mid;
  }
  const a = points[low - 1];
  const b = points[low];
  if (!a) return b.value;
  if (!b || a.hold || spec.kind === 'switch' || a.value === b.value) return a.value;
  const share = (at - a.at) / (b.at - a.at);
  const from = toPosition(spec, a.value);
  return fromPosition(spec, from + share * (toPosition(spec, b.value) - from));
}

/**
 * The track as it stands at a time in seconds: every lane that is on has put its value in. The same object
 * when none does.
 */
export function automated(t: Track, at: number): Track {
  let out = t;
  for (const lane of t.automation ?? []) {
    const target = lane.on ? laneTarget(t, lane) : null;
    const v = target ? laneValue(target.spec, lane.points, at) : NaN;
    if (Number.isNaN(v)) continue;
    const value = target!.spec.kind === 'switch' ? v >= 0.5 : v;
    if (lane.of === t.id) out = { ...out, [lane.param]: value };
    else if (t.sends.some((s) => s.id === lane.of)) {
      out = { ...out, sends: out.sends.map((s) => (s.id === lane.of ? { ...s, level: v } : s)) };
    } else if (lane.param === 'value' && target!.spec === HANDLE_VALUE) {
      out = {
        ...out,
        chain: mapSlots(out.chain, (s) =>
          s.kind === 'rack' && s.handles.some((h) => h.id === lane.of)
            ? moveHandle(s, lane.of, v, (tie) => followsLane(t, tie))
            : s,
        ),
      };
    } else out = { ...out, chain: setIn(out.chain, { slot: lane.of, param: lane.param }, value) };
  }
  return out;
}

/**
 * Points in the order of time, values inside the range and on the value's step; of two at one time the later
 * given stays.
 */
export function tidyPoints(spec: ParamSpec, points: readonly LanePoint[]): LanePoint[] {
  const value = (v: number) => {
    if (spec.kind === 'switch') return v >= 0.5 ? 1 : 0;
    return tidy(spec, Math.min(spec.max!, Math.max(spec.min!, v)));
  };
  const byTime = new Map(
    points.map((p) => {
      const at = Math.max(0, Math.round(p.at * 1000) / 1000);
      return [at, { ...p, at, value: value(p.value) }];
    }),
  );
  return [...byTime.values()].sort((a, b) => a.at - b.at);
}
