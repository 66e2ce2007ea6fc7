import type { ParamSpec } from '../../model/param.ts';
import type { Device, ParamValue, Slot, Track } from '../../model/types.ts';
import { formatValue } from '../../model/units.ts';
import type { Changed, Explanation } from '../types.ts';
import { adaptationAt, type Adapting } from './adaptation.ts';

/** Tells that one value of a device changes on arrival, and why. */
export function adaptValue(
  c: Adapting,
  t: Track,
  d: Device,
  spec: ParamSpec,
  to: ParamValue,
  reason: string,
): void {
  const from = d.params[spec.id];
  const path = `${t.id}/${d.id}/${spec.id}`;
  c.out.adaptations.push({
    path,
    label: `${t.name} · ${d.name} · ${spec.label}`,
    from,
    to,
    fromText: formatValue(spec, from),
    toText: formatValue(spec, to),
    reason,
    on: c.options.adapt?.[path] ?? true,
  });
}

/** A device with the values that were adapted by their paths. */
export function withAdapted(slot: Slot, home: Track, plan: Changed): Slot {
  if (slot.kind === 'rack') return slot;
  const at = `${home.id}/${slot.id}/`;
  const own = plan.adaptations.filter((a) => a.on && a.path.startsWith(at));
  if (!own.length) return slot;
  const values = Object.fromEntries(own.map((a) => [a.path.slice(at.length), a.to]));
  return { ...slot, params: { ...slot.params, ...values } };
}

/** Everything that was adapted within a track by its path, for its origin. */
export function rememberAdapted(
  t: Track,
  named: readonly string[],
  plan: Changed,
): Record<string, ParamValue> {
  const own = plan.adaptations.filter(
    (a) => a.on && a.path.startsWith(`${t.id}/`) && named.includes(a.path.split('/')[1]),
  );
  return Object.fromEntries(own.map((a) => [a.path.slice(t.id.length + 1), a.to]));
}

/** Why a value is what the plan made of it. */
export function explainAdapted(
  t: Track,
  d: Device,
  param: string,
  found: ParamValue | undefined,
  plan: Changed,
): Explanation | null {
  const a = adaptationAt(plan, `${t.id}/${d.id}/${param}`);
  return a && found === a.to ? { verdict: 'adapted', reason: a.reason } : null;
}
