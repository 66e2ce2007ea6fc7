import type { Id, Session } from '../model/types.ts';
import { halfOfAPair } from './rules/half-of-a-pair.ts';
import { outputEmpty } from './rules/output-empty.ts';
import { outputGone } from './rules/output-gone.ts';
import { outputTwice } from './rules/output-twice.ts';
import { outputUnheard } from './rules/output-unheard.ts';
import { outputsShared } from './rules/outputs-shared.ts';
import { outputsShifted } from './rules/outputs-shifted.ts';
import { outputsShort } from './rules/outputs-short.ts';
import { partOnMain } from './rules/part-on-main.ts';
import { instruments, prepare, type Checked, type Hit, type Rule } from './rule.ts';

/** Rules between parts and lines: what one remedy moves, another of these may find. */
export const OF_OUTPUTS: readonly Rule[] = [
  partOnMain,
  outputUnheard,
  outputEmpty,
  outputTwice,
  outputsShifted,
  halfOfAPair,
  outputGone,
  outputsShared,
];
const WEIGHT = { fault: 3, warning: 2, advice: 1 } as const;

/** Names one finding: the same for the same object and rule, whatever else changes. */
export const keyOf = (r: Rule, h: Hit): string =>
  [r.id, h.send ?? h.slot ?? h.track, ...(h.part ? [h.part] : [])].join('/');

/** What rules look at of a session when only one track's instruments and their lines are of interest. */
const checkedAt = (s: Session, home: Id): Checked => ({
  ...prepare({ ...s, tracks: [] }, null),
  session: s,
  instruments: instruments(s).filter((i) => i.track.id === home),
});
/** What is wrong there, each finding with its weight. */
const wrongIn = (c: Checked, rules = OF_OUTPUTS): Map<string, number> =>
  new Map(rules.flatMap((r) => r.find(c).map((h) => [keyOf(r, h), WEIGHT[r.severity]] as const)));
/** Laying a whole kit out takes a while: it is only asked of what would be offered. */
const isShort = (c: Checked): boolean => wrongIn(c, [outputsShort]).size > 0;

/**
 * Of the ways out of a finding the one that ends it, makes no other, and leaves least; of equal ones the first.
 * Null when none does: then only a person can decide.
 */
export function chooseRemedy(s: Session, r: Rule, h: Hit): { label: string; session: Session } | null {
  const t = s.tracks.find((x) => x.id === h.track)!;
  const home = t.input.kind === 'deviceOutput' ? t.input.track : t.id;
  const now = checkedAt(s, home);
  const before = wrongIn(now);
  const own = keyOf(r, h);
  const good = r.remedies!(s, h).flatMap(({ label, next }) => {
    const c = checkedAt(next(), home);
    const after = wrongIn(c);
    if (after.has(own) || [...after.keys()].some((k) => !before.has(k))) return [];
    return [{ label, session: c.session, c, left: [...after.values()].reduce((a, b) => a + b, 0) }];
  });
  // a stable sort: of equal ones the first stays first
  good.sort((a, b) => a.left - b.left);
  return good.find((x) => !isShort(x.c) || isShort(now)) ?? null;
}
