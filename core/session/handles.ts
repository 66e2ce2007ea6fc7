import { DEVICE_TYPES } from '../devices/index.ts';
import type { ParamSpec } from '../model/param.ts';
import { mapSlots, racksIn, walkSlots } from './slots.ts';
import { tieTarget } from './tie-targets.ts';
import { fromPosition, tidy, toPosition } from '../model/units.ts';
import {
  DESK,
  LINE,
  type Device,
  type Handle,
  type Id,
  type Rack,
  type Session,
  type Slot,
  type Strand,
  type Tie,
  type Track,
} from '../model/types.ts';
import { power, twoTo } from '../model/power.ts';

/**
 * Controller numbers that MIDI 1.0 leaves undefined: where a handle's number is moved to when its own is
 * taken.
 */
export const FREE_CONTROLLERS = [...range(20, 31), ...range(85, 90), ...range(102, 119), 3, 9, 14, 15];
function range(a: number, b: number): number[] {
  return Array.from({ length: b - a + 1 }, (_, i) => a + i);
}

/** Names of the controllers that MIDI 1.0 gives one. */
export const CONTROLLER_NAMES: Record<number, string> = {
  1: 'modulation',
  2: 'breath',
  4: 'foot',
  5: 'portamento time',
  7: 'channel volume',
  8: 'balance',
  10: 'pan',
  11: 'expression',
  64: 'damper pedal',
  65: 'portamento',
  66: 'sostenuto',
  67: 'soft pedal',
};
export const controllerName = (cc: number): string =>
  `CC ${cc}${CONTROLLER_NAMES[cc] ? ` (${CONTROLLER_NAMES[cc]})` : ''}`;

export const strandsIn = (rack: Rack): Strand[] => racksIn([rack]).flatMap((r) => r.strands);

/**
 * Share 0…1 of the way after the curve: the exponent is 2^(curve/50), so 100 is the fourth power and −100 the
 * fourth root.
 */
export const bend = (share: number, curve: number): number =>
  power(Math.min(1, Math.max(0, share)), twoTo(curve / 50));

/**
 * What a tied parameter stands at when its handle is at `value` %: along the parameter's own taper, snapped
 * to its step.
 */
export function tieValue(spec: ParamSpec, tie: Pick<Tie, 'from' | 'to' | 'curve'>, value: number): number {
  const p = bend(value / 100, tie.curve);
  if (spec.kind === 'switch') return p < 0.5 ? tie.from : tie.to;
  if (p === 0) return tie.from;
  if (p === 1) return tie.to;
  return tidy(
    spec,
    fromPosition(
      spec,
      toPosition(spec, tie.from) + p * (toPosition(spec, tie.to) - toPosition(spec, tie.from)),
    ),
  );
}

/**
 * Where a handle stands (%) when one of its values is at `value`: the inverse of `tieValue`; at the nearer end of a
 * value outside the tie's range.
 */
export function tiePosition(spec: ParamSpec, tie: Pick<Tie, 'from' | 'to' | 'curve'>, value: number): number {
  if (spec.kind === 'switch') return value === tie.to ? 100 : 0;
  const [a, b] = [toPosition(spec, tie.from), toPosition(spec, tie.to)];
  if (a === b) return 0;
  const share = Math.min(1, Math.max(0, (toPosition(spec, value) - a) / (b - a)));
  return Math.round(power(share, 1 / twoTo(tie.curve / 50)) * 1000) / 10;
}

/**
 * The rack with a handle at a value (0–100 %) and everything inside the rack that it is tied to moved along.
 * @param along which of its ties move; all when left out
 */
export function moveHandle(
  rack: Rack,
  handle: Id,
  value: number,
  along: (tie: Tie) => boolean = () => true,
): Rack {
  const h = rack.handles.find((x) => x.id === handle);
  if (!h) return rack;
  let out: Rack = { ...rack, handles: rack.handles.map((x) => (x.id === handle ? { ...x, value } : x)) };
  for (const tie of h.ties.filter(along)) {
    const t = tieTarget(out, tie);
    if (t) out = setIn([out], tie, tieValue(t.spec, tie, value))[0] as Rack;
  }
  return out;
}

/** A line with one of its handles at a value: what is in the rack moves, and the line's own switches. */
export function turnOnLine(track: Track, handle: Id, value: number): Track {
  const rack = racksIn(track.chain).find((r) => r.handles.some((h) => h.id === handle));
  if (!rack) return track;
  const chain = mapSlots(track.chain, (s) => (s.id === rack.id ? moveHandle(s as Rack, handle, value) : s));
  const { ties } = rack.handles.find((h) => h.id === handle)!;
  const switches = ties.filter((tie) => tie.slot === LINE);
  const own = switches.map((tie) => [tie.param, tieValue(tieTarget(rack, tie)!.spec, tie, value) >= 0.5]);
  return { ...track, chain, ...Object.fromEntries(own) };
}

/** What a handle at its present value makes of the listening: whether mono check is on; null when it is not tied. */
export function monoOf(handle: Handle): boolean | null {
  const tie = handle.ties.find((t) => t.slot === DESK && t.param === 'mono');
  return tie ? (handle.value >= 50 ? tie.to : tie.from) >= 0.5 : null;
}

/**
 * The chain with one value changed that a tie or a lane names: of a device, a rack's blend, a strand's level
 * or pan; switches are off under a half. What is inactive stays so.
 */
export function setIn(chain: Slot[], at: Pick<Tie, 'slot' | 'param'>, v: number | boolean): Slot[] {
  const isOn = typeof v === 'boolean' ? v : v >= 0.5;
  return mapSlots(chain, (s) => {
    if (s.id === at.slot && at.param === 'state') {
      const state = isOn ? 'on' : 'bypassed';
      return s.state === 'inactive' || s.state === state ? s : { ...s, state };
    }
    if (s.kind === 'device') return s.id === at.slot ? withValue(s, at.param, v) : s;
    if (s.id === at.slot) {
      return s.blend.position === v ? s : { ...s, blend: { ...s.blend, position: v as number } };
    }
    const i = s.strands.findIndex((x) => x.id === at.slot);
    const value = at.param === 'mute' || at.param === 'solo' ? isOn : v;
    return i < 0
      ? s
      : { ...s, strands: s.strands.map((x, k) => (k === i ? { ...x, [at.param]: value } : x)) };
  });
}

/** A device with one value, in the kind that its table says; the same object where it has it. */
function withValue(d: Device, param: string, v: number | boolean): Device {
  const isSwitch = DEVICE_TYPES[d.type]?.byId[param]?.kind === 'switch';
  const value = isSwitch && typeof v === 'number' ? v >= 0.5 : v;
  return d.params[param] === value ? d : { ...d, params: { ...d.params, [param]: value } };
}

/** Which handles move a value, in the racks around it: for showing who moves it, and for conflicts. */
export function moversOf(
  racks: readonly Rack[],
  slot: Id,
  param: string,
): { rack: Rack; handle: Handle; tie: Tie }[] {
  return racks.flatMap((rack) =>
    rack.handles.flatMap((handle) =>
      handle.ties.filter((t) => t.slot === slot && t.param === param).map((tie) => ({ rack, handle, tie })),
    ),
  );
}

export interface HandleConflict {
  kind: 'value' | 'controller';
  text: string;
  handles: { track: Id; rack: Id; handle: Id; name: string; tie?: Id; link?: string }[];
}

/** Values that two handles move, and controller numbers that move two handles, over a whole session. */
export function handleConflicts(session: Session): HandleConflict[] {
  const values = new Map<string, HandleConflict>();
  const numbers = new Map<number, HandleConflict>();
  for (const track of session.tracks) {
    for (const rack of racksIn(track.chain)) {
      for (const h of rack.handles) {
        for (const tie of h.ties) {
          const target = tieTarget(rack, tie);
          const key = `${tie.slot === LINE ? track.id : tie.slot}/${tie.param}`;
          const c = values.get(key) ?? {
            kind: 'value' as const,
            text: `${target?.label ?? 'A value'} on ${track.name} is moved by more than one handle: the last one that is moved wins.`,
            handles: [],
          };
          c.handles.push({ track: track.id, rack: rack.id, handle: h.id, name: h.name, tie: tie.id });
          values.set(key, c);
        }
        if (h.cc === null) continue;
        const c = numbers.get(h.cc) ?? {
          kind: 'controller' as const,
          text: `${controllerName(h.cc)} moves more than one handle.`,
          handles: [],
        };
        c.handles.push({ track: track.id, rack: rack.id, handle: h.id, name: h.name, link: h.link });
        numbers.set(h.cc, c);
      }
    }
  }
  // one control moves what was copied so on purpose
  const isLinked = ({ kind, handles: [{ link }, ...others] }: HandleConflict) =>
    kind === 'controller' && link !== undefined && others.every((h) => h.link === link);
  return [...values.values(), ...numbers.values()].filter((c) => c.handles.length > 1 && !isLinked(c));
}

/** How a knob takes a handle over that stands elsewhere: at once, when it passes it, or along with it. */
export type PickUp = 'jump' | 'pass' | 'scale';
/** % beside a handle within which a knob holds it */
const HELD = 1;

/**
 * Where a controller takes a handle.
 * @param was what the controller sent before (0–127); null when this is the first that is heard of it
 * @param now what it sends now
 * @returns %; null as long as the knob has not come to the handle
 */
export function takenTo(handle: Handle, pickUp: PickUp, was: number | null, now: number): number | null {
  if (handle.button === 'hold') return now >= 64 ? 100 : 0;
  if (handle.button === 'toggle') {
    if (now < 64 || (was ?? 0) >= 64) return null;
    return handle.value >= 50 ? 0 : 100;
  }
  const share = (v: number) => (Math.min(127, Math.max(0, v)) / 127) * 100;
  const [before, to, at] = [was === null ? null : share(was), share(now), handle.value];
  if (pickUp === 'jump' || Math.abs(to - at) <= HELD) return to;
  if (before === null) return null;
  if (Math.abs(before - at) <= HELD) return to;
  if (pickUp === 'pass') return (before - at) * (to - at) <= 0 ? to : null;
  // what is left of the knob's way takes the handle over what is left of its own
  if (to > before) return at + ((to - before) / (100 - before)) * (100 - at);
  return to < before ? at - ((before - to) / before) * at : null;
}

/**
 * The session with every handle that listens to a controller number moved to where a controller's value (0–127)
 * takes it; the same object when none moves.
 */
export function moveController(
  session: Session,
  cc: number,
  value: number,
  { pickUp = 'jump' as PickUp, was = null as number | null } = {},
): Session {
  let touched = false;
  const tracks = session.tracks.map((t) => {
    const handles = racksIn(t.chain).flatMap((r) => r.handles.filter((h) => h.cc === cc));
    return handles.reduce((line, h) => {
      const to = takenTo(h, pickUp, was, value);
      if (to === null) return line;
      touched = true;
      return turnOnLine(line, h.id, to);
    }, t);
  });
  return touched ? { ...session, tracks } : session;
}

/** The lowest undefined controller number that no handle of the session uses. */
export function freeController(taken: Iterable<number>): number | null {
  const used = new Set(taken);
  return FREE_CONTROLLERS.find((n) => !used.has(n)) ?? null;
}

export const controllersIn = (chains: readonly Slot[][]): number[] =>
  chains.flatMap((c) => racksIn(c).flatMap((r) => r.handles.flatMap((h) => (h.cc === null ? [] : [h.cc]))));

/** Ties whose far end is gone are taken off: after a device was removed or moved out. */
export function dropDeadTies(chain: Slot[]): Slot[] {
  return mapSlots(chain, (s) => {
    if (s.kind !== 'rack') return s;
    const inside = new Set<Id>([
      LINE,
      DESK,
      s.id,
      ...strandsIn(s).map((x) => x.id),
      ...[...walkSlots([s])].map((x) => x.id),
    ]);
    if (s.handles.every((h) => h.ties.every((t) => inside.has(t.slot)))) return s;
    return {
      ...s,
      handles: s.handles.map((h) => ({ ...h, ties: h.ties.filter((t) => inside.has(t.slot)) })),
    };
  });
}
