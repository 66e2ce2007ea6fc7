import type { Operation } from 'fast-json-patch';
import { headingsUnder } from '../edit/headings.ts';
import { bringMedia } from '../session/media.ts';
import { validateSession } from '../session/validate/index.ts';
import type { Preset, Session } from '../model/types.ts';
import { tieKey } from './ends.ts';
import { placeDrop } from './place.ts';
import { printAfter } from './print.ts';
import type { DropPlan } from './types.ts';
import { verifyDrop, type IntactReport } from './verify.ts';

/** A drop that was refused, with the sentences to show. */
export class DropRefused extends Error {
  constructor(readonly reasons: string[]) {
    super(reasons.join(' '));
    this.name = 'DropRefused';
  }
}

/**
 * Carries a plan out. The session that went in is not touched; `inverse` is the JSON Patch (RFC 6902) that
 * leads back to it.
 * Throws DropRefused when the plan has problems or the result would break a rule.
 */
export function applyDrop(
  session: Session,
  plan: DropPlan,
  preset: Preset,
): { session: Session; report: IntactReport; inverse: Operation[] } {
  if (plan.problems.length) throw new DropRefused(plan.problems.map((p) => p.message));
  const next = bringMedia(placeDrop(session, plan), preset.content.media);
  const headings = plan.place.kind === 'whole' && preset.content.session?.headings;
  if (headings) next.headings = headingsUnder(headings, plan.ids);
  const ties: Record<string, string> = {};
  for (const e of plan.ends) {
    const choice = e.choices.find((c) => c.id === e.chosen)!;
    if (choice.kind === 'track') ties[tieKey(preset, e.end)] = choice.track!;
  }
  if (Object.keys(ties).length) next.lastTies = { ...session.lastTies, ...ties };
  const print = printAfter(session, preset, plan);
  if (print) next.print = print;
  const problems = validateSession(next);
  if (problems.length) throw new DropRefused(problems.map((p) => p.message));
  return { session: next, report: verifyDrop(next, preset, plan), inverse: inverseOf(next, session) };
}

/**
 * The way back, by id: what was added is taken out, what was changed is put back whole, so that even the
 * order of keys is as it was.
 */
function inverseOf(after: Session, before: Session): Operation[] {
  const was = new Map(before.tracks.map((t) => [t.id, t]));
  const added = after.tracks.flatMap((t, i) => (was.has(t.id) ? [] : [i])).reverse();
  const out: Operation[] = added.map((i) => ({ op: 'remove', path: `/tracks/${i}` }));
  before.tracks.forEach((t, i) => {
    if (after.tracks.find((x) => x.id === t.id) !== t) {
      out.push({ op: 'replace', path: `/tracks/${i}`, value: t });
    }
  });
  if (after.media !== before.media) out.push({ op: 'replace', path: '/media', value: before.media });
  for (const key of ['lastTies', 'print'] as const) {
    if (after[key] === before[key]) continue;
    const path = `/${key}`;
    out.push(before[key] ? { op: 'replace', path, value: before[key] } : { op: 'remove', path });
  }
  return out;
}
