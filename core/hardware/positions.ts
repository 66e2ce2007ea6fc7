import type { Control, Unit, UnitUse } from '../model/hardware.ts';
import type { ParamSpec } from '../model/param.ts';
import { formatValue } from '../model/units.ts';

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

const same = (a: Control, b: Control): boolean =>
  a.id === b.id && a.unit === b.unit && (a.labels?.length ?? 0) === (b.labels?.length ?? 0);

/** The control of another panel that means the same: by what it sets, by its id, by its label. */
function counterpart(c: Control, panel: readonly Control[]): Control | undefined {
  const alike = (x: Control) => x.unit === c.unit && !!x.labels === !!c.labels;
  return (
    (c.means ? panel.find((x) => x.means === c.means && alike(x)) : undefined) ??
    panel.find((x) => same(c, x)) ??
    panel.find((x) => x.label === c.label && alike(x))
  );
}

/** The positions of one unit's panel on another's, as far as they mean the same there. */
export function carryPositions(
  from: Pick<UnitUse, 'unit' | 'positions'>,
  to: Unit,
): { positions: Record<string, number>; carried: Carried[] } {
  const stands = positionsOf(from);
  const positions: Record<string, number> = Object.fromEntries(to.panel.map((c) => [c.id, c.default]));
  const carried = from.unit.panel.map((c): Carried => {
    const text = positionText(c, stands[c.id]);
    const other = counterpart(c, to.panel);
    if (!other) return { control: c.label, from: text, to: null, exact: false };
    const position = nearestPosition(other, stands[c.id]);
    positions[other.id] = position;
    return {
      control: c.label,
      from: text,
      to: positionText(other, position),
      exact: position === stands[c.id],
    };
  });
  return { positions, carried };
}
