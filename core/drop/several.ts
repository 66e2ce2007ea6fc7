import { placeOfNew, type NewLines } from '../edit/many.ts';
import { onTrack } from '../edit/on.ts';
import { createSend, createSession, freeName } from '../session/create.ts';
import { randomIds, type IdMaker } from '../model/ids.ts';
import type { Id, Preset, Session, Track } from '../model/types.ts';
import { applyDrop } from './apply.ts';
import { capture, createPreset, type CaptureOptions } from './capture.ts';
import { planDrop } from './plan.ts';
import type { DropPlan, PlanOptions } from './types.ts';
import type { IntactReport } from './verify.ts';

export interface Several {
  session: Session;
  drops: { preset: Preset; plan: DropPlan; report: IntactReport }[];
}

/**
 * Several drops as one: a preset onto many lines, or several presets at once. Each is planned in the session
 * that the ones before it left, so that a spare that the first brought is there for the second.
 * @throws DropRefused when one of them is not possible; then nothing has happened
 */
export function dropSeveral(session: Session, items: { preset: Preset; options?: PlanOptions }[]): Several {
  const drops: Several['drops'] = [];
  let now = session;
  for (const { preset, options } of items) {
    const plan = planDrop(now, preset, options);
    const r = applyDrop(now, plan, preset);
    drops.push({ preset, plan, report: r.report });
    now = r.session;
  }
  return { session: now, drops };
}

/**
 * New lines from one strip: each is the strip, with its own name and input; what else is asked for comes on top.
 * @param asked `output`: null leaves it where the strip goes; `colour`: '' keeps the strip's
 * @throws DropRefused when the strip cannot be dropped; then nothing has happened
 */
export function linesFromStrip(
  session: Session,
  preset: Preset,
  asked: Omit<NewLines, 'devices'>,
): { session: Session; ids: Id[] } {
  const ids: Id[] = [];
  let now = session;
  asked.names.forEach((name, i) => {
    const index = placeOfNew(now, asked);
    const plan = planDrop(now, preset, { place: { kind: 'new', index, folder: asked.folder } });
    const taken = now.tracks.map((t) => t.name);
    const id = plan.tracks[0].id;
    now = onTrack(id, (t) => lineAsked(t, asked, i, freeName(name, taken)))(
      applyDrop(now, plan, preset).session,
    );
    ids.push(id);
  });
  return { session: now, ids };
}

function lineAsked(t: Track, asked: Omit<NewLines, 'devices'>, i: number, name: string): Partial<Track> {
  const port = asked.inputs[i] ?? null;
  const more = asked.sends.filter((to) => !t.sends.some((x) => x.to === to));
  return {
    name,
    ...(asked.colour ? { colour: asked.colour } : {}),
    ...(port !== null && t.role === 'audio' ? { input: { kind: 'hardware' as const, port } } : {}),
    ...(asked.output ? { output: { kind: 'track' as const, track: asked.output } } : {}),
    sends: [...t.sends, ...more.map((to) => createSend(to, { level: -18 }))],
  };
}

/**
 * A new session from a preset: a starter makes all of it; another preset is dropped into an empty session at
 * the tempo and rate that it was saved at, its spares brought along.
 */
export function startSession(
  preset: Preset,
  over: Partial<Pick<Session, 'name' | 'tempo' | 'sampleRate' | 'bitDepth'>> = {},
  ids: IdMaker = randomIds,
): { session: Session; plan: DropPlan; report: IntactReport } {
  const set = preset.content.session;
  const { tempo, sampleRate } = preset.reference;
  const empty = createSession(
    { name: preset.name, tempo, sampleRate, ...set, ...(set ? { meter: [...set.meter] } : {}), ...over },
    ids,
  );
  const plan = planDrop(empty, preset, { place: { kind: set ? 'whole' : 'new' }, ids });
  const { session, report } = applyDrop(empty, plan, preset);
  return { session, plan, report };
}

/**
 * Lines of another session, to be dropped like a preset; what is dropped with `origin: false` remembers no
 * preset, since there is none.
 */
export function borrow(from: Session, trackIds: Id[], options: CaptureOptions = {}): Preset {
  const draft = capture(from, trackIds, options);
  const names = draft.content.tracks.map((t) => t.name);
  return createPreset(draft, {
    id: 'borrowed',
    name: names.length > 2 ? `${names[0]} and ${names.length - 1} more` : names.join(' and '),
  });
}

/**
 * Whether a drop can go ahead without a look: nothing is adapted, missing or open, and every loose end has
 * one clear counterpart.
 */
export function nothingToDecide(plan: DropPlan): boolean {
  return (
    !plan.problems.length &&
    !plan.adaptations.length &&
    !plan.standIns.length &&
    plan.ports.every((p) => p.chosen === p.port) &&
    plan.units.every((u) => u.chosen === `unit/${u.wanted.unit.id}` || u.chosen === 'keep') &&
    plan.ends.every((e) => {
      const [first, second] = e.choices;
      return (
        first.id === e.chosen &&
        (first.score >= 90 ||
          (first.score >= 80 && !(second && second.kind === 'track' && second.score === first.score)))
      );
    })
  );
}
