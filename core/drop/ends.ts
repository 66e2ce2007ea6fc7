import { DEVICE_TYPES } from '../devices/index.ts';
import { masterOf } from '../session/create.ts';
import { instrumentsOn } from '../session/midi.ts';
import { hashOf } from '../model/json.ts';
import { devicesIn } from '../session/slots.ts';
import type { Id, LooseEnd, Parts, Preset, Session, Slot, Track } from '../model/types.ts';
import type { EndPlan, Choice, Place } from './plan.ts';

/** Whether a track of the preset leads to a loose end with one of the parts. */
export function usesEnd(t: Track, e: LooseEnd, parts: Parts): boolean {
  if (
    !(e.kind === 'send'
      ? parts.includes('sends')
      : e.kind === 'key'
        ? parts.includes('keys') && parts.includes('chain')
        : parts.includes(e.kind))
  ) {
    return false;
  }
  if (e.kind === 'send') return t.sends.some((s) => s.to === e.id);
  if (e.kind === 'key') return devicesIn(t.chain).some((d) => d.key.kind === 'track' && d.key.track === e.id);
  if (e.kind === 'folder') return t.folder === e.id;
  const far = e.kind === 'output' ? t.output : t.input;
  return (far.kind === 'track' || far.kind === 'deviceOutput') && far.track === e.id;
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
    const taken = out.filter((x) => x.end.kind === e.kind && x.end.label === e.label).map((x) => x.chosen);
    const first = p.choices.find((x) => x.id === p.chosen)!;
    if (!p.decided && first.kind === 'track' && taken.includes(first.id)) {
      const other = p.choices.find(
        (x) =>
          !taken.includes(x.id) &&
          (x.kind === 'spare' || (x.kind === 'track' && x.score >= Math.min(60, first.score))),
      );
      if (other) p.chosen = other.id;
    }
    out.push(p);
  }
  return out;
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
  const self = place.kind === 'onto' ? place.track : null;
  const choices: Choice[] = [];
  const outputs = end.kind === 'input' ? outputsOf(preset, end) : 0;
  const master = masterOf(session);
  for (const t of session.tracks) {
    if (
      t.id === self ||
      t.role === 'master' ||
      !fits(end, t) ||
      (outputs > 0 && !instrumentFor(t, outputs))
    ) {
      continue;
    }
    const [score, reason] = likeness(session, preset, end, spare, t);
    choices.push({ id: `track:${t.id}`, kind: 'track', track: t.id, label: t.name, reason, score });
  }
  if (spare) {
    choices.push({
      id: 'spare',
      kind: 'spare',
      label: `Bring “${spare.name}” along`,
      reason: 'a copy travels with the preset',
      score: 45,
    });
  }
  if (end.kind === 'output') {
    choices.push({
      id: 'master',
      kind: 'master',
      track: master.id,
      label: master.name,
      reason: end.role === 'master' ? 'it went to the master' : 'straight to the master',
      score: end.role === 'master' ? 95 : 30,
    });
  }
  if (end.kind === 'send' || end.kind === 'output' || end.kind === 'folder') {
    if (end.role !== 'master') {
      choices.push({
        id: 'empty',
        kind: 'empty',
        label: `Make an empty ${end.role} “${end.label}”`,
        reason: 'to be filled later',
        score: 20,
      });
    }
  }
  const openText = {
    send: 'Leave the send out',
    output: 'No output',
    key: 'Listen to its own input',
    input: 'No input',
    folder: 'No folder',
  }[end.kind];
  choices.push({
    id: 'open',
    kind: 'open',
    label: openText,
    reason: end.kind === 'key' ? 'nothing here looks like its key' : 'can be tied later',
    score: end.kind === 'folder' ? 35 : 10,
  });
  choices.sort((a, b) => b.score - a.score);
  const decided = wanted !== undefined && choices.some((x) => x.id === wanted);
  return { end, choices, chosen: decided ? wanted : choices[0].id, decided };
}

/**
 * The highest output that the preset's lines take of an instrument at a loose end; 0 when it is a plain
 * input.
 */
const outputsOf = (preset: Preset, end: LooseEnd): number =>
  Math.max(
    0,
    ...preset.content.tracks.map((t) =>
      t.input.kind === 'deviceOutput' && t.input.track === end.id ? t.input.output : 0,
    ),
  );
/** The first instrument on a track with at least that many outputs. */
export const instrumentFor = (t: Track, outputs: number): Id | null =>
  instrumentsOn(t).find((i) => DEVICE_TYPES[i.device.type].instrument!.outputs >= outputs)?.device.id ?? null;

function fits(end: LooseEnd, t: Track): boolean {
  if (end.kind === 'folder') return t.role === 'folder';
  if (end.kind === 'send') return t.role === 'return' || t.role === 'bus' || t.role === 'folder';
  if (end.kind === 'output') return t.role === 'bus' || t.role === 'return' || t.role === 'folder';
  return true;
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
const NOISE_WORDS = new Set(['bus', 'return', 'the', 'a', 'fx', 'group']);
export const words = (s: string) => {
  const all = s
    .toLowerCase()
    .split(/[^\p{L}\p{N}]+/u)
    .filter(Boolean);
  const telling = all.filter((w) => !NOISE_WORDS.has(w));
  return telling.length ? telling : all;
};

/** The devices that make the character, in a few words: "plate reverb". */
const sketch = (t: Track) =>
  devicesIn(t.chain)
    .filter((d) => d.type === 'reverb' || d.type === 'delay' || d.type === 'opaque')
    .map((d) =>
      d.type === 'reverb' ? `${String(d.params.type)} reverb` : d.type === 'opaque' ? d.name : 'delay',
    )
    .join(' + ');

/**
 * Under which name a session remembers how a loose end was tied; the second of one name has its id behind it.
 */
export const tieKey = (preset: Preset, end: LooseEnd) => {
  const twin = preset.content.looseEnds.find((e) => e.kind === end.kind && e.label === end.label);
  return `${preset.id}/${end.kind}/${end.label}${twin && twin.id !== end.id ? `/${end.id}` : ''}`;
};
