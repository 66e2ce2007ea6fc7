import { carryPositions, positionText, positionsOf } from '../../hardware/positions.ts';
import type { HardwareUse, UnitUse } from '../../model/hardware.ts';
import { same } from '../../model/json.ts';
import type { Device } from '../../model/types.ts';
import { choiceOf } from '../adaptations/hardware.ts';
import type { Explanation, UnitPlan } from '../types.ts';
import type { DevicePart, Part, Reporting } from './part.ts';

function without(d: Device): Device {
  const { hardware: _hardware, ...rest } = d;
  return rest;
}

const unitNames = (h: HardwareUse | undefined): string =>
  h?.units.map((u) => u.unit.name).join(' → ') || 'a cable';

/** A unit and each of its positions, as the drop left them. */
export function reportUnit(
  at: string,
  label: string,
  want: UnitUse,
  found: UnitUse | undefined,
  c: Reporting,
): void {
  const plan = c.plan.units.find((u) => u.path === at);
  const here = `${label} · ${want.unit.name}`;
  c.row(`${at}/unit`, `${here} · unit`, want.unit.name, found?.unit.name, String, explainUnit(plan, found));
  if (!found) {
    const stands = positionsOf(want);
    for (const x of want.unit.panel) {
      c.leftOut(
        `${at}/${x.id}`,
        `${here} · ${x.label}`,
        positionText(x, stands[x.id]),
        'its unit is not here',
      );
    }
    return;
  }
  const { carried } = carryPositions(want, found.unit);
  const [wanted, is] = [positionsOf(want), positionsOf(found)];
  want.unit.panel.forEach((x, i) => {
    const [path, name] = [`${at}/${x.id}`, `${here} · ${x.label}`];
    const text = positionText(x, wanted[x.id]);
    if (carried[i].to === null) c.leftOut(path, name, text, `“${found.unit.name}” has no such control`);
    else if (same(want.unit, found.unit)) {
      c.row(path, name, wanted[x.id], is[x.id], (v) => positionText(x, v));
    } else tellCarried(path, name, text, carried[i].to!, carried[i].exact, c);
  });
}

function tellCarried(
  path: string,
  label: string,
  wanted: string,
  found: string,
  exact: boolean,
  c: Reporting,
): void {
  const reason = exact ? 'the same value on another panel' : 'the nearest position of another panel';
  c.tell({ path, label, wanted, found, verdict: exact ? 'tied' : 'adapted', reason });
}

/** Why another unit stands in the place of the preset's. */
function explainUnit(plan: UnitPlan | undefined, found: UnitUse | undefined): Explanation | null {
  if (!plan) return null;
  const choice = choiceOf(plan);
  if (!found) {
    const gone = choice.kind === 'open' || choice.kind === 'print';
    return gone ? { verdict: 'left out', reason: choice.reason } : null;
  }
  return choice.use?.unit.name === found.unit.name ? { verdict: 'tied', reason: choice.reason } : null;
}

const device: DevicePart = {
  take: (d, chosen) => (d.hardware && !chosen ? without(d) : d),

  put: (d, chosen) => (d.hardware && !chosen ? without(d) : d),

  report(t, want, found, c) {
    if (!want.hardware) return;
    const [at, label] = [`${t.id}/${want.id}`, `${t.name} · ${want.name}`];
    const saved = c.preset.content.trackParts?.[t.id] ?? c.preset.content.parts;
    if (!c.plan.parts.includes('hardware') || !saved.includes('hardware')) {
      c.leftOut(`${at}/hardware`, `${label} · hardware`, unitNames(want.hardware));
      return;
    }
    for (const use of want.hardware.units) {
      const there = found?.hardware?.units.find((u) => u.id === use.id);
      reportUnit(`${at}/${use.id}`, label, use, there, c);
    }
    if (!want.hardware.units.length) {
      c.row(
        `${at}/hardware`,
        `${label} · hardware`,
        unitNames(want.hardware),
        unitNames(found?.hardware),
        String,
      );
    }
  },

  differ(label, a, b, c) {
    if (!a.hardware && !b.hardware) return;
    c.value(`${label} · units`, unitNames(a.hardware), unitNames(b.hardware), String);
    for (const use of b.hardware?.units ?? []) {
      const other = a.hardware?.units.find((u) => u.id === use.id);
      if (!other) continue;
      const [x, y] = [positionsOf(other), positionsOf(use)];
      for (const control of use.unit.panel) {
        const text = (v: number) => positionText(control, v);
        c.value(`${label} · ${use.unit.name} · ${control.label}`, x[control.id], y[control.id], text);
      }
    }
  },

  dropped(d, adapted) {
    const written = adapted[`${d.id}/hardware`];
    const state = adapted[`${d.id}/state`] as Device['state'] | undefined;
    const now = state ? { ...d, state } : d;
    return typeof written === 'string' ? { ...now, hardware: JSON.parse(written) as HardwareUse } : now;
  },

  local: (d) => d,
  paired: (d) => d,
  write: (d) => d,

  adapted(raw, theirs, local): Record<string, string> {
    if (!theirs.hardware || same(raw.hardware, theirs.hardware)) return {};
    return { [`${local}/hardware`]: JSON.stringify(theirs.hardware) };
  },
};

/** Units that a line goes through outside the computer: inside the devices of a chain, like the keys. */
export const hardware: Part = {
  id: 'hardware',
  label: 'Hardware',
  help: 'units with the positions of their panels, and what was measured',
  section: 'devices',
  duplicated: true,
  device,
};
