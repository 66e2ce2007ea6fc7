import { DEVICE_TYPES } from '../../devices/index.ts';
import { matchHardware, type UnitChoice } from '../../hardware/match.ts';
import { unitsUsed } from '../../hardware/studio.ts';
import type { UnitUse } from '../../model/hardware.ts';
import { same } from '../../model/json.ts';
import type { Device, Input, Track } from '../../model/types.ts';
import { createDevice } from '../../session/create.ts';
import { devicesIn } from '../../session/slots.ts';
import type { Changed, UnitPlan } from '../types.ts';
import type { AdaptationKind, Adapting } from './adaptation.ts';

/** Units of hardware are matched to those of the studio that the session is in; all of a drop at once. */
export const hardware: AdaptationKind = {
  id: 'hardware',

  plan(c) {
    const wanted = c.sounding
      .filter((t) => c.has(t, 'hardware'))
      .flatMap(unitsOn)
      .filter((w) => !w.isInput || (c.arriving.includes(w.line) && c.has(w.line, 'input')));
    if (!wanted.length) return;
    const studio = c.session.setup?.studio ?? null;
    const matches = matchHardware(
      wanted.map((w) => w.use),
      studio,
      takenIn(c),
      (place) => wanted[place].isInput,
    );
    matches.forEach((match, i) => {
      const { path, label } = wanted[i];
      const asked = c.options.units?.[path];
      const known = match.choices.some((x) => x.id === asked);
      c.out.units.push({ ...match, path, label, chosen: known ? asked! : match.chosen });
    });
  },

  slot(slot, home, plan) {
    if (slot.kind !== 'device' || !slot.hardware) return slot;
    const plans = plansOf(plan, home, slot);
    if (!plans.length) return slot;
    return adapted(slot, plans);
  },

  remember(t, named, plan) {
    const own = devicesIn(t.chain).filter((d) => d.hardware && named.includes(d.id));
    return Object.fromEntries(
      own.flatMap((d) => {
        const plans = plansOf(plan, t, d);
        if (!plans.length) return [];
        const now = adapted(d, plans);
        if (now.type !== d.type) {
          const values = Object.entries(now.params).map(([id, v]) => [`${d.id}/${id}`, v]);
          return [[`${d.id}/type`, now.type], ...values];
        }
        const changed = same(now.hardware, d.hardware)
          ? []
          : [[`${d.id}/hardware`, JSON.stringify(now.hardware)]];
        return now.state === d.state ? changed : [...changed, [`${d.id}/state`, now.state]];
      }),
    );
  },

  replaced(path, found, plan) {
    const standIn = plan.units.find((u) => u.path.startsWith(`${path}/`) && choiceOf(u).kind === 'stand-in');
    const device = standIn && choiceOf(standIn).device;
    if (!device || found?.type !== device.type) return null;
    return {
      wanted: standIn.wanted.unit.name,
      found: DEVICE_TYPES[device.type].label,
      reason: choiceOf(standIn).reason,
    };
  },
};

/** Units that other lines of the session use; those of a line whose chain goes are free. */
function takenIn(c: Adapting): Set<string> {
  const goes = c.place.kind === 'onto' && c.place.chain === 'replace' ? c.place.track : null;
  const used = unitsUsed(c.session).filter(({ track }) => track.id !== goes);
  return new Set(used.map(({ use }) => use.unit.id));
}

/** A unit of a line: of one of its devices, or before its input. */
export interface UnitOn {
  use: UnitUse;
  line: Track;
  isInput: boolean;
  path: string;
  label: string;
}

/** The path under which a unit before a line's input is planned. */
export const inputPath = (t: Pick<Track, 'id'>, use: UnitUse): string => `${t.id}/input/${use.id}`;

export const unitsOn = (t: Track): UnitOn[] => [
  ...devicesIn(t.chain).flatMap((d) =>
    (d.hardware?.units ?? []).map((use) => ({
      use,
      line: t,
      isInput: false,
      path: `${t.id}/${d.id}/${use.id}`,
      label: `${t.name} · ${d.name} · ${use.unit.name}`,
    })),
  ),
  ...unitsBefore(t.input).map((use) => ({
    use,
    line: t,
    isInput: true,
    path: inputPath(t, use),
    label: `${t.name} · input · ${use.unit.name}`,
  })),
];
export const unitsBefore = (input: Input): UnitUse[] =>
  input.kind === 'hardware' ? (input.units ?? []) : [];

/** A hardware input with what was chosen for the units before it. */
export function inputHere<T extends Input>(t: Track, input: T, plan: Pick<Changed, 'units'>): T {
  if (input.kind !== 'hardware' || !input.units) return input;
  const units = input.units.flatMap((use) => {
    const planned = plan.units.find((u) => u.path === inputPath(t, use));
    if (!planned) return [use];
    return choiceOf(planned).use ?? [];
  });
  const { units: _was, ...rest } = input;
  return (units.length ? { ...rest, units } : rest) as T;
}

const plansOf = (plan: Pick<Changed, 'units'>, home: Track, d: Device): UnitPlan[] =>
  plan.units.filter((u) => u.path.startsWith(`${home.id}/${d.id}/`));

/** What was chosen for a unit. */
export const choiceOf = (u: UnitPlan): UnitChoice => u.choices.find((c) => c.id === u.chosen)!;

/** A device with what was chosen for its units. */
function adapted(d: Device, plans: UnitPlan[]): Device {
  const choices = plans.map(choiceOf);
  const standIn = choices.find((c) => c.kind === 'stand-in');
  if (standIn) {
    const { type, params } = standIn.device!;
    return createDevice(type, params, { id: d.id, name: d.name, state: d.state, key: d.key });
  }
  const units = choices.flatMap((c) => (c.use && c.kind !== 'print' ? [c.use] : []));
  if (choices.some((c) => c.kind === 'print')) return { ...d, state: 'inactive' };
  const kept = choices.every((c) => c.kind === 'keep' || sameUse(c, plans));
  // what was measured there says nothing of other units here
  return { ...d, hardware: { ...d.hardware!, units, measured: kept ? d.hardware!.measured : null } };
}

const sameUse = (c: UnitChoice, plans: UnitPlan[]): boolean =>
  !!c.use && plans.some((u) => same(u.wanted.unit, c.use!.unit));
