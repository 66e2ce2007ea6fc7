import type { Id, Preset, Session } from '../model/types.ts';
import type { MixVersion, PrintPlan } from '../model/print.ts';
import { planPrint, sources } from '../print/plan.ts';
import { planUnder } from '../session/print-plan.ts';
import type { DropPlan, ReportRow } from './types.ts';

/** Local id → id in the session, also of what was not brought because something here stands for it. */
function idsHere(plan: Pick<DropPlan, 'ids' | 'ends'>): Record<Id, Id> {
  const stand = plan.ends.flatMap(({ end, choices, chosen }) => {
    const track = choices.find((c) => c.id === chosen)?.track;
    return end.spare && track ? [[end.spare, track]] : [];
  });
  return { ...Object.fromEntries(stand), ...plan.ids };
}

/** How a preset says that it is printed, with the lines that it has in the session; null: it says nothing. */
export function printOf(preset: Preset, plan: Pick<DropPlan, 'ids' | 'ends' | 'place'>): PrintPlan | null {
  const own = preset.content.print ?? preset.content.session?.print;
  return own && plan.place.kind !== 'onto' ? planUnder(own, idsHere(plan)) : null;
}

/**
 * How the session is printed after a drop: as before, with the stems and versions that arrive. A line that is in a stem
 * already stays there; a version of the same name has both. Where nothing plays yet, the arriving plan is the session's.
 */
export function printAfter(before: Session, preset: Preset, plan: DropPlan): PrintPlan | undefined {
  const arriving = printOf(preset, plan);
  if (!arriving) return before.print;
  if (plan.place.kind === 'whole' || (!before.print && !sources(before).length)) return arriving;
  const now = before.print ?? planPrint(before);
  const taken = new Set(now.stems.flatMap((stem) => stem.lines));
  const stems = arriving.stems.map((stem) => ({
    ...stem,
    id: `${plan.drop}-${stem.id}`,
    lines: stem.lines.filter((id) => !taken.has(id)),
  }));
  return {
    ...now,
    stems: [...now.stems, ...stems.filter((stem) => stem.lines.length)],
    versions: versionsTogether(now.versions, arriving.versions, plan.drop),
    off: [...new Set([...now.off, ...arriving.off])],
  };
}

function versionsTogether(
  now: readonly MixVersion[],
  arriving: readonly MixVersion[],
  drop: Id,
): MixVersion[] {
  const joined = now.map((version) => {
    const same = arriving.find((v) => v.name === version.name);
    if (!same) return version;
    const muted = [...new Set([...version.muted, ...same.muted])];
    return { ...version, muted, levels: { ...same.levels, ...version.levels } };
  });
  const others = arriving.filter((v) => !now.some((x) => x.name === v.name));
  return [...joined, ...others.map((v) => ({ ...v, id: `${drop}-${v.id}` }))];
}

/** What a drop adds to the print plan, in a sentence; nothing when it adds nothing. */
export function printFacts(before: Session, preset: Preset, plan: DropPlan): string[] {
  const arriving = printOf(preset, plan);
  if (!arriving || plan.place.kind === 'whole') return [];
  const names = [...arriving.stems, ...arriving.versions].map((x) => `“${x.name}”`);
  const what = before.print ? 'the print plan' : 'a print plan';
  return names.length ? [`${names.join(', ')} ${names.length > 1 ? 'come' : 'comes'} into ${what}.`] : [];
}

/** Rows of the intact report: each stem, with the lines that it is made of here. */
export function reportPrint(session: Session, preset: Preset, plan: DropPlan): ReportRow[] {
  const arriving = printOf(preset, plan);
  if (!arriving) return [];
  const nameOf = (id: Id) => session.tracks.find((t) => t.id === id)?.name ?? '—';
  const now = session.print?.stems ?? [];
  return arriving.stems.map((stem): ReportRow => {
    const there = now.filter((x) => x.name === stem.name && x.depth === stem.depth).flatMap((x) => x.lines);
    const missing = stem.lines.filter((id) => !there.includes(id));
    const isElsewhere = missing.every((id) => now.some((x) => x.lines.includes(id)));
    const row = {
      path: `print/${stem.id}`,
      label: `Print plan · stem “${stem.name}”`,
      wanted: stem.lines.map(nameOf).join(', '),
      found:
        stem.lines
          .filter((id) => there.includes(id))
          .map(nameOf)
          .join(', ') || '—',
    };
    if (!missing.length) return { ...row, verdict: 'intact' };
    return isElsewhere
      ? { ...row, verdict: 'adapted', reason: 'a line is in one stem: the one that it was in before' }
      : { ...row, verdict: 'unexplained', reason: 'nothing explains this difference' };
  });
}
