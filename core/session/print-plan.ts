import type { Id } from '../model/basic.ts';
import type { PrintPlan } from '../model/print.ts';

/**
 * A print plan under other ids, as it travels with a starter and comes into a session; what has no id there is left
 * out, and a stem without lines with it.
 */
export function planUnder(plan: PrintPlan, ids: Readonly<Record<Id, Id>>): PrintPlan {
  const known = (list: readonly Id[]) => list.flatMap((id) => ids[id] ?? []);
  const { marks: _ofOneSong, ...rest } = plan;
  return {
    ...rest,
    stems: plan.stems
      .map((stem) => ({ ...stem, lines: known(stem.lines) }))
      .filter((stem) => stem.lines.length > 0),
    versions: plan.versions.map((version) => ({
      ...version,
      muted: known(version.muted),
      levels: Object.fromEntries(
        Object.entries(version.levels).flatMap(([id, db]) => (ids[id] ? [[ids[id], db]] : [])),
      ),
    })),
    off: known(plan.off),
    // a part or a mark of one song says nothing of the next
    range: null,
  };
}
