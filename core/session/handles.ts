import { DEVICE_TYPES } from '../devices/index.ts';
import type { ParamSpec } from '../model/param.ts';
import { findSlot, mapSlots, racksIn, walkSlots } from './slots.ts';
import { fromPosition, tidy, toPosition } from '../model/units.ts';
import {
  MAX_LEVEL,
  MIN_LEVEL,
  type Handle,
  type Id,
  type Rack,
  type Session,
  type Slot,
  type Strand,
  type Tie,
} from '../model/types.ts';
import { power, twoTo } from '../model/power.ts';

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

export interface TieTarget {
  label: string;
  spec: ParamSpec;
  value: number;
  slot: Id;
  param: string;
}

/**
 * Everything in a chain or rack that a handle can move, with its present value: number parameters of devices,
 * blends of racks, level and pan of strands.
 */
export function tieTargets(where: Rack | readonly Slot[]): TieTarget[] {
  const out: TieTarget[] = [];
  const visit = (s: Slot, within: string) => {
    if (s.kind === 'device') {
      const t = DEVICE_TYPES[s.type];
      for (const p of t.params) {
        if (p.kind === 'number' && (t.used?.(s.params, p.id) ?? true)) {
          out.push({
            label: `${within}${s.name} · ${p.label}`,
            spec: p,
            value: s.params[p.id] as number,
            slot: s.id,
            param: p.id,
          });
        }
      }
      return;
    }
    if (s.strands.length > 1) {
      out.push({
        label: `${s.name} · blend`,
        spec: BLEND_SPEC,
        value: s.blend.position,
        slot: s.id,
        param: 'blend',
      });
    }
    for (const st of s.strands) {
      if (s.strands.length > 1) {
        out.push(
          { label: `${st.name} · level`, spec: STRAND_LEVEL, value: st.level, slot: st.id, param: 'level' },
          { label: `${st.name} · pan`, spec: STRAND_PAN, value: st.pan, slot: st.id, param: 'pan' },
        );
      }
      for (const x of st.chain) visit(x, s.strands.length > 1 ? `${st.name} · ` : within);
    }
  };
  for (const s of chainOf(where)) visit(s, '');
  return out;
}

/** Table entry and words for what a tie moves; null when it is not in the chain or rack any more. */
export function tieTarget(where: Rack | readonly Slot[], tie: Pick<Tie, 'slot' | 'param'>): TieTarget | null {
  const chain = chainOf(where);
  const slot = findSlot(chain, tie.slot);
  if (slot?.kind === 'device') {
    const spec = DEVICE_TYPES[slot.type]?.byId[tie.param];
    return spec?.kind === 'number'
      ? {
          label: `${slot.name} · ${spec.label}`,
          spec,
          value: slot.params[tie.param] as number,
          slot: slot.id,
          param: tie.param,
        }
      : null;
  }
  if (slot?.kind === 'rack') {
    return tie.param === 'blend'
      ? {
          label: `${slot.name} · blend`,
          spec: BLEND_SPEC,
          value: slot.blend.position,
          slot: slot.id,
          param: 'blend',
        }
      : null;
  }
  const strand = racksIn(chain)
    .flatMap((r) => r.strands)
    .find((s) => s.id === tie.slot);
  if (!strand || (tie.param !== 'level' && tie.param !== 'pan')) return null;
  return {
    label: `${strand.name} · ${tie.param}`,
    spec: tie.param === 'level' ? STRAND_LEVEL : STRAND_PAN,
    value: strand[tie.param],
    slot: strand.id,
    param: tie.param,
  };
}

const chainOf = (x: Rack | readonly Slot[]): readonly Slot[] => ('kind' in x ? [x] : x);
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

/** The rack with a handle at a value (0–100 %) and everything that it is tied to moved along. */
export function moveHandle(rack: Rack, handle: Id, value: number): Rack {
  const h = rack.handles.find((x) => x.id === handle);
  if (!h) return rack;
  let out: Rack = { ...rack, handles: rack.handles.map((x) => (x.id === handle ? { ...x, value } : x)) };
  for (const tie of h.ties) {
    const t = tieTarget(out, tie);
    if (t) out = setTarget(out, tie, tieValue(t.spec, tie, value));
  }
  return out;
}

/** The rack with one tied value changed, wherever it is. */
const setTarget = (rack: Rack, at: Pick<Tie, 'slot' | 'param'>, v: number): Rack =>
  setIn([rack], at, v)[0] as Rack;

/**
 * The chain with one value changed that a tie or a lane names: of a device, a rack's blend, a strand's level
 * or pan.
 */
export function setIn(chain: Slot[], at: Pick<Tie, 'slot' | 'param'>, v: number | boolean): Slot[] {
  return mapSlots(chain, (s) => {
    if (s.kind === 'device') {
      return s.id === at.slot && s.params[at.param] !== v
        ? { ...s, params: { ...s.params, [at.param]: v } }
        : s;
    }
    if (s.id === at.slot) {
      return s.blend.position === v ? s : { ...s, blend: { ...s.blend, position: v as number } };
    }
    const i = s.strands.findIndex((x) => x.id === at.slot);
    return i < 0 ? s : { ...s, strands: s.strands.map((x, k) => (k === i ? { ...x, [at.param]: v } : x)) };
  });
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
  handles: { track: Id; rack: Id; handle: Id; name: string; tie?: Id }[];
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
          const key = `${tie.slot}/${tie.param}`;
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
        c.handles.push({ track: track.id, rack: rack.id, handle: h.id, name: h.name });
        numbers.set(h.cc, c);
      }
    }
  }
  return [...values.values(), ...numbers.values()].filter((c) => c.handles.length > 1);
}

/**
 * The session with every handle that listens to a controller number moved to a controller's value (0–127);
 * the same object when none does.
 */
export function moveController(session: Session, cc: number, value: number): Session {
  const share = (Math.min(127, Math.max(0, value)) / 127) * 100;
  let touched = false;
  const tracks = session.tracks.map((t) => {
    if (!racksIn(t.chain).some((r) => r.handles.some((h) => h.cc === cc))) return t;
    touched = true;
    return {
      ...t,
      chain: mapSlots(t.chain, (s) =>
        s.kind === 'rack'
          ? s.handles.filter((h) => h.cc === cc).reduce((r, h) => moveHandle(r, h.id, share), s)
          : s,
      ),
    };
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
