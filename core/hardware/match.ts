import { DEVICE_TYPES } from '../devices/index.ts';
import type { Family, Studio, Unit, UnitUse } from '../model/hardware.ts';
import type { Id, Params } from '../model/types.ts';
import { NOMINAL_LABELS } from './levels.ts';
import { carryPositions, positionsOf, type Carried } from './positions.ts';

/** What may stand for a unit of a preset in another studio. */
export interface UnitChoice {
  /** “unit/<id>”, “keep”, “stand-in”, “print”, “open” */
  id: string;
  kind: 'unit' | 'keep' | 'stand-in' | 'print' | 'open';
  label: string;
  reason: string;
  score: number;
  /** of a unit: itself, and the positions that it gets */
  use?: UnitUse;
  /** of a stand-in: a built-in device with the values that mean the same */
  device?: { type: string; params: Params };
  /** control by control, what becomes of it */
  carried: Carried[];
}

export interface UnitMatch {
  wanted: UnitUse;
  /** the best first */
  choices: UnitChoice[];
  /** id of the one that is proposed; no unit is proposed twice */
  chosen: string;
}

/** The built-in device that does what a family of units does. */
const STAND_INS: Record<Family, string> = {
  preamp: 'trim',
  equaliser: 'eq',
  compressor: 'compressor',
  reverb: 'reverb',
  delay: 'delay',
  saturation: 'saturator',
  other: 'trim',
};

const FAMILY_ALONE = 40;
const SCORES = { own: 100, name: 90, family: 60, keep: 20, standIn: 30, print: 10, open: 5 };

/**
 * What stands for the units of a preset in a studio, ranked with reasons: the same unit, one of the same name, one of
 * the same family and width; else a built-in device with the values that mean the same, else printed at home first,
 * else left open. Units that are taken, and units that another of the list gets, are not proposed.
 * @param studio null: there is none here; the units stay as they are
 * @param taken ids of units that the session uses already
 * @param isInput whether the unit of that place stands before an input: what is recorded through it cannot be made up
 *   for by a device, nor printed at home
 */
export function matchHardware(
  wanted: readonly UnitUse[],
  studio: Studio | null,
  taken: ReadonlySet<Id> = new Set(),
  isInput: (place: number) => boolean = () => false,
): UnitMatch[] {
  const matches = wanted.map((use, place): UnitMatch => {
    const others = otherWays(use, studio).filter(
      ({ kind }) => !isInput(place) || kind === 'keep' || kind === 'open',
    );
    const choices = [...unitChoices(use, studio, taken), ...others];
    choices.sort((a, b) => b.score - a.score);
    return { wanted: use, choices, chosen: choices[0].id };
  });
  return assigned(matches, taken);
}

function unitChoices(use: UnitUse, studio: Studio | null, taken: ReadonlySet<Id>): UnitChoice[] {
  return (studio?.units ?? []).flatMap((unit): UnitChoice[] => {
    const found = likeness(use.unit, unit);
    if (!found) return [];
    const { positions, carried } = carryPositions(use, unit);
    const lost = carried.filter((c) => c.to === null).length;
    const busy = taken.has(unit.id);
    return [
      {
        id: `unit/${unit.id}`,
        kind: 'unit',
        label: unit.name,
        reason: busy ? `${found.reason}, but it is in use here already` : found.reason,
        score: found.score - lost - (busy ? SCORES.own : 0),
        use: { id: use.id, unit, positions },
        carried,
      },
    ];
  });
}

/** How alike two units are, and whether they run at another level; null: they do different things. */
function likeness(a: Unit, b: Unit): { score: number; reason: string } | null {
  const found = likenessOf(a, b);
  if (!found || a.nominal === b.nominal) return found;
  const level = `at ${NOMINAL_LABELS[b.nominal]} where it was ${NOMINAL_LABELS[a.nominal]}`;
  return { ...found, reason: `${found.reason}, ${level}` };
}

function likenessOf(a: Unit, b: Unit): { score: number; reason: string } | null {
  const level = a.nominal === b.nominal ? 3 : 0;
  if (a.id === b.id && a.name === b.name) return { score: SCORES.own + level, reason: 'the same unit' };
  if (a.name === b.name && a.family === b.family) {
    return { score: SCORES.name + level, reason: 'has the same name' };
  }
  if (a.family !== b.family) return null;
  const sameWidth = a.width === b.width;
  const width = sameWidth ? `also ${b.width}` : `${b.width} where it was ${a.width}`;
  const score = (sameWidth ? SCORES.family : FAMILY_ALONE) + level;
  return { score, reason: `a ${b.family} too, ${width}` };
}

/** What can be done without a unit. */
function otherWays(use: UnitUse, studio: Studio | null): UnitChoice[] {
  const { type, params, carried } = standInFor(use);
  const label = DEVICE_TYPES[type].label;
  const values = carried.filter((c) => c.to !== null).length;
  const ways: UnitChoice[] = [
    {
      id: 'stand-in',
      kind: 'stand-in',
      label: `${label} (built in)`,
      reason: `a built-in device with ${values} of ${carried.length} values carried over`,
      score: SCORES.standIn,
      device: { type, params },
      carried,
    },
    {
      id: 'print',
      kind: 'print',
      label: 'Print it at home first',
      reason: 'it stays in the line, switched off',
      score: SCORES.print,
      carried: [],
    },
    {
      id: 'open',
      kind: 'open',
      label: 'Leave it open: a cable',
      reason: 'nothing stands in its place',
      score: SCORES.open,
      carried: [],
    },
  ];
  const keep: UnitChoice = {
    id: 'keep',
    kind: 'keep',
    label: `Keep “${use.unit.name}”`,
    reason: studio
      ? `“${studio.name}” has no unit of the kind; it keeps its own`
      : 'no studio is chosen here',
    score: studio ? SCORES.keep : SCORES.own,
    use,
    carried: [],
  };
  return [...ways, keep];
}

/** A built-in device that does the same, with the values that mean the same. */
function standInFor(use: UnitUse): { type: string; params: Params; carried: Carried[] } {
  const type = STAND_INS[use.unit.family];
  const spec = DEVICE_TYPES[type];
  const stands = positionsOf(use);
  const params: Params = { ...spec.defaults };
  const carried = use.unit.panel.map((c): Carried => {
    const from = String(stands[c.id]);
    const value = c.means ? spec.byId[c.means] : undefined;
    if (value?.kind !== 'number') return { control: c.label, from, to: null, exact: false };
    const held = Math.min(value.max!, Math.max(value.min!, stands[c.id]));
    params[value.id] = held;
    return { control: c.label, from, to: String(held), exact: held === stands[c.id] };
  });
  return { type, params, carried };
}

/** Most units that every way of giving them out is tried for. */
const SMALL = 8;

/** Gives out the units so that none is used twice and the sum of scores is largest. */
function assigned(matches: UnitMatch[], taken: ReadonlySet<Id>): UnitMatch[] {
  let best: string[] = [];
  let most = -Infinity;
  let looked = 0;
  const options = matches.map((m) => {
    const units = m.choices.filter((c) => c.kind === 'unit' && !taken.has(c.use!.unit.id)).slice(0, SMALL);
    const other = m.choices.find((c) => c.kind !== 'unit')!;
    return [...units, other];
  });
  const tryOut = (i: number, used: Set<string>, ids: string[], sum: number): void => {
    if (i === matches.length) {
      if (sum > most) [most, best] = [sum, ids];
      return;
    }
    for (const c of options[i]) {
      if (c.kind === 'unit' && used.has(c.id)) continue;
      // many alike units in a large studio: the first good way is good enough
      if (++looked > 20000 && best.length) return;
      tryOut(i + 1, c.kind === 'unit' ? new Set([...used, c.id]) : used, [...ids, c.id], sum + c.score);
    }
  };
  tryOut(0, new Set(), [], 0);
  return matches.map((m, i) => ({ ...m, chosen: best[i] ?? m.chosen }));
}
