import type { Control, Unit, UnitUse } from '../model/hardware.ts';
import type { ParamSpec } from '../model/param.ts';
import { formatValue, fromPosition, toPosition } from '../model/units.ts';

/** A control as the table of a device's value, for fields, texts and tapers. */
export const controlSpec = (c: Control): ParamSpec => ({
  id: c.id,
  label: c.label,
  group: 'Panel',
  kind: 'number',
  unit: c.unit,
  min: c.min,
  max: c.max,
  default: c.default,
  taper: c.taper,
  ...(c.labels || c.steps ? { step: 1 } : {}),
});

/** Where a control stands, in words with its unit. */
export function positionText(c: Control, position: number): string {
  if (c.labels) return c.labels[position] ?? String(position);
  return formatValue(controlSpec(c), position);
}

/** The position of a control that is nearest to a value: within its range, on one of its steps. */
export function nearestPosition(c: Control, value: number): number {
  const held = Math.min(c.max, Math.max(c.min, value));
  if (c.labels) return Math.round(held);
  if (!c.steps?.length) return held;
  const far = (x: number) =>
    c.taper === 'log' || (c.min > 0 && c.max / c.min > 8) ? Math.abs(Math.log(x / held)) : Math.abs(x - held);
  return c.steps.reduce((best, x) => (far(x) < far(best) ? x : best));
}

/** Where every control of a unit stands: as set, otherwise at rest. */
export const positionsOf = (use: Pick<UnitUse, 'unit' | 'positions'>): Record<string, number> =>
  Object.fromEntries(use.unit.panel.map((c) => [c.id, use.positions[c.id] ?? c.default]));

/** One control of the unit that a preset has, and what became of it on another. */
export interface Carried {
  control: string;
  from: string;
  /** null: the other unit has nothing of the kind */
  to: string | null;
  exact: boolean;
}

/** Whether two controls of panels can stand for each other at all. */
const alike = (a: Control, b: Control): boolean => a.unit === b.unit && !!a.labels === !!b.labels;
const meansSame = (a: Control, b: Control): boolean => !!a.means && a.means === b.means;

/** What two controls may have in common, the surest first: both sides of a stereo panel set the same, each its own. */
const COMMON: readonly ((a: Control, b: Control) => boolean)[] = [
  (a, b) => a.id === b.id && meansSame(a, b),
  meansSame,
  (a, b) => a.id === b.id && (a.labels?.length ?? 0) === (b.labels?.length ?? 0),
  (a, b) => a.label === b.label,
];

/** The controls of another panel that mean the same as those of a first one: each for one of them at most. */
function counterparts(panel: readonly Control[], other: readonly Control[]): Map<Control, Control> {
  const found = new Map<Control, Control>();
  const taken = new Set<Control>();
  for (const haveInCommon of COMMON) {
    for (const c of panel) {
      if (found.has(c)) continue;
      const to = other.find((x) => !taken.has(x) && alike(c, x) && haveInCommon(c, x));
      if (!to) continue;
      found.set(c, to);
      taken.add(to);
    }
  }
  return found;
}

const plain = (label: string): string => label.trim().toLowerCase();
/** Whether a scale has no marks but numbers of its own, which say nothing on another one. */
const isOtherScale = (a: Control, b: Control): boolean =>
  a.unit === '' && !a.labels && (a.min !== b.min || a.max !== b.max);

/**
 * Where a control has to stand to do what another one does: a switch by the names of its positions, a scale that is only
 * numbered by the share of its way, all others by their value.
 * @returns null where no position has that name
 */
function samePosition(from: Control, stands: number, to: Control): number | null {
  if (from.labels && to.labels) {
    const name = plain(from.labels[stands] ?? '');
    const at = to.labels.findIndex((label) => plain(label) === name);
    return at < 0 ? null : at;
  }
  if (!isOtherScale(from, to)) return stands;
  return fromPosition(controlSpec(to), toPosition(controlSpec(from), stands));
}

/** The positions of one unit's panel on another's, as far as they mean the same there; what has no match is at rest. */
export function carryPositions(
  from: Pick<UnitUse, 'unit' | 'positions'>,
  to: Unit,
): { positions: Record<string, number>; carried: Carried[] } {
  const stands = positionsOf(from);
  const positions: Record<string, number> = Object.fromEntries(to.panel.map((c) => [c.id, c.default]));
  const pairs = counterparts(from.unit.panel, to.panel);
  const carried = from.unit.panel.map((c): Carried => {
    const text = positionText(c, stands[c.id]);
    const other = pairs.get(c);
    if (!other) return { control: c.label, from: text, to: null, exact: false };
    const same = samePosition(c, stands[c.id], other);
    const position = nearestPosition(other, same ?? other.default);
    positions[other.id] = position;
    return {
      control: c.label,
      from: text,
      to: positionText(other, position),
      exact: position === same && !isOtherScale(c, other),
    };
  });
  return { positions, carried };
}
