import { DEVICE_TYPES } from '../devices/index.ts';
import { hashOf } from '../model/json.ts';
import type { Id, LooseEnd, Parts, Preset, Session, Slot, Track } from '../model/types.ts';
import { masterOf } from '../session/create.ts';
import { devicesIn } from '../session/slots.ts';
import { PARTS } from './parts/index.ts';
import type { EndKind, Part } from './parts/part.ts';
import type { Choice, EndPlan, Place } from './types.ts';
import { words } from './words.ts';

/** The part by which a loose end leaves. */
const partOf = (end: LooseEnd): Part & { end: EndKind } =>
  PARTS.find((p) => p.end?.kind === end.kind) as Part & { end: EndKind };

/** Whether a track of the preset leads to a loose end with one of the parts. */
export function usesEnd(t: Track, e: LooseEnd, parts: Parts): boolean {
  const { id, end } = partOf(e);
  return [id, ...(end.needs ?? [])].every((p) => parts.includes(p)) && end.leads(t).includes(e.id);
}

/**
 * Choices for all loose ends; two far sides of one name do not land on the same track by themselves when
 * there is a second that fits as well.
 */
export function planEnds(
  session: Session,
  preset: Preset,
  ends: LooseEnd[],
  ties: Record<Id, string>,
  place: Place,
): EndPlan[] {
  const out: EndPlan[] = [];
  for (const e of ends) {
    const p = planEnd(session, preset, e, ties[e.id], place);
    const twins = out.filter((x) => x.end.kind === e.kind && x.end.label === e.label);
    if (!p.decided) p.chosen = apartFrom(twins, p);
    out.push(p);
  }
  return out;
}

/** The choice that none of the twins has taken already, where one fits as well. */
function apartFrom(twins: EndPlan[], p: EndPlan): string {
  const taken = twins.map((x) => x.chosen);
  const first = p.choices.find((x) => x.id === p.chosen)!;
  if (first.kind !== 'track' || !taken.includes(first.id)) return p.chosen;
  const enough = Math.min(60, first.score);
  const fits = (x: Choice) => x.kind === 'spare' || (x.kind === 'track' && x.score >= enough);
  return p.choices.find((x) => !taken.includes(x.id) && fits(x))?.id ?? p.chosen;
}

/**
 * Ranked choices for one loose end: same content, the last choice in this session, same name, similar name or
 * sound and same role; then spare, empty, master, open.
 */
function planEnd(
  session: Session,
  preset: Preset,
  end: LooseEnd,
  wanted: string | undefined,
  place: Place,
): EndPlan {
  const spare = preset.content.spares.find((s) => s.id === end.spare);
  const choices = [
    ...tracksFor(session, preset, end, spare, place),
    ...withoutCounterpart(session, end, spare, place),
  ];
  choices.sort((a, b) => b.score - a.score);
  const decided = wanted !== undefined && choices.some((x) => x.id === wanted);
  return { end, choices, chosen: decided ? wanted : choices[0].id, decided };
}

/** Tracks of the session that it can be tied to. */
function tracksFor(
  session: Session,
  preset: Preset,
  end: LooseEnd,
  spare: Track | undefined,
  place: Place,
): Choice[] {
  const self = place.kind === 'onto' ? place.track : null;
  const { fits } = partOf(end).end;
  return session.tracks
    .filter((t) => t.id !== self && t.role !== 'master' && fits(t, end, preset))
    .map((t) => {
      const [score, reason] = likeness(session, preset, end, spare, t);
      return { id: `track:${t.id}`, kind: 'track', track: t.id, label: t.name, reason, score };
    });
}

/** What can be done without a track of the session: bring a copy, make an empty one, the master, leave it open. */
function withoutCounterpart(
  session: Session,
  end: LooseEnd,
  spare: Track | undefined,
  place: Place,
): Choice[] {
  const { canMake, toMaster, open } = partOf(end).end;
  const master = masterOf(session);
  const out: Choice[] = [];
  if (spare) {
    out.push({
      id: 'spare',
      kind: 'spare',
      label: `Bring “${spare.name}” along`,
      reason: 'a copy travels with the preset',
      score: 45,
    });
  }
  if (toMaster) {
    const was = end.role === 'master';
    out.push({
      id: 'master',
      kind: 'master',
      track: master.id,
      label: master.name,
      reason: was ? 'it went to the master' : 'straight to the master',
      score: was ? 95 : 30,
    });
  }
  if (canMake && end.role !== 'master') {
    out.push({
      id: 'empty',
      kind: 'empty',
      label: `Make an empty ${end.role} “${end.label}”`,
      reason: 'to be filled later',
      score: 20,
    });
  }
  out.push({
    id: 'open',
    kind: 'open',
    label: (place.kind === 'onto' && open.onto) || open.label,
    reason: open.reason ?? 'can be tied later',
    score: open.score ?? 10,
  });
  return out;
}

function likeness(
  session: Session,
  preset: Preset,
  end: LooseEnd,
  spare: Track | undefined,
  t: Track,
): [number, string] {
  if (spare && spare.chain.length > 0 && soundHash(spare) === soundHash(t)) {
    return [100, 'has exactly the same devices and values'];
  }
  if (session.lastTies?.[tieKey(preset, end)] === t.id) return [90, 'chosen last time in this session'];
  const [a, b] = [words(end.label), words(t.name)];
  const role = t.role === end.role;
  if (a.join(' ') === b.join(' ')) {
    return role ? [80, 'has the same name'] : [60, `has the same name, as a ${t.role}`];
  }
  const shared = a.filter((w) => b.includes(w));
  if (role && shared.length > 0) return [60 + Math.min(9, shared.length), `similar name and the same role`];
  if (role && spare && sketch(spare) && sketch(spare) === sketch(t)) {
    return [55, `the same kind of ${t.role} (${sketch(t)})`];
  }
  const named = `${/^[aeiou]/.test(t.role) ? 'an' : 'a'} ${t.role}`;
  // for a key or an input any track would do as well as any other: that is no reason to choose it
  return role && end.kind !== 'key' && end.kind !== 'input' ? [25, `also ${named}`] : [5, named];
}

/**
 * Devices with their values and states, racks with their strands: what makes two chains sound the same,
 * whatever their ids and names.
 */
const soundHash = (t: Track) => hashOf(t.chain.map(soundOf));
const soundOf = (d: Slot): unknown =>
  d.kind === 'device'
    ? [d.type, d.state, d.params, d.foreign ?? null]
    : [d.state, d.blend, d.strands.map((s) => [s.level, s.pan, s.mute, s.solo, s.chain.map(soundOf)])];
/** The devices that make the character, in a few words: "plate reverb". */
const sketch = (t: Track): string =>
  devicesIn(t.chain)
    .flatMap((d) => DEVICE_TYPES[d.type].character?.(d) ?? [])
    .join(' + ');

/**
 * Under which name a session remembers how a loose end was tied; the second of one name has its id behind it.
 */
export const tieKey = (preset: Preset, end: LooseEnd) => {
  const twin = preset.content.looseEnds.find((e) => e.kind === end.kind && e.label === end.label);
  return `${preset.id}/${end.kind}/${end.label}${twin && twin.id !== end.id ? `/${end.id}` : ''}`;
};
