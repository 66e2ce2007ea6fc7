import { compile, CompileError } from '../engine/compile.ts';
import { DEVICE_TYPES } from '../devices/index.ts';
import { createDevice, createTrack, freeName, masterOf, placeFor, trackOf } from '../model/create.ts';
import { clone, hashOf } from '../model/json.ts';
import { randomIds, type IdMaker } from '../model/ids.ts';
import { NOTES, formatValue, noteFor, noteMs } from '../model/units.ts';
import { controllerName, controllersIn, dropDeadTies, freeController } from '../model/handles.ts';
import { chainAt, devicesIn, mapSlots, placeOf as placeIn, racksIn, renewSlot, slotIds, withChainAt } from '../model/slots.ts';
import type { Id, LooseEnd, Origin, ParamValue, Parts, Preset, Problem, Session, Slot, Track } from '../model/types.ts';
import { isUsed } from './capture.ts';
import { LEFT_OUT } from './forms.ts';

export type Place =
  | { kind: 'new'; index?: number; folder?: Id | null }
  /** the preset makes up the whole session: for a starter in an empty one */
  | { kind: 'whole' }
  /** `container`: the line itself or a strand on it, for “at”; `slot`: the device or rack whose place is taken, for “swap” */
  | { kind: 'onto'; track: Id; chain: 'replace' | 'append' | 'before' | 'at' | 'swap'; at?: number; container?: Id; slot?: Id };

export type ChoiceKind = 'track' | 'spare' | 'empty' | 'master' | 'open';

export interface Choice {
  id: string;
  kind: ChoiceKind;
  track?: Id;
  label: string;
  reason: string;
  score: number;
}

export interface EndPlan {
  end: LooseEnd;
  choices: Choice[];
  chosen: string;
  /** made by the person, not proposed */
  decided: boolean;
}

export interface Adaptation {
  /** place in the preset's content, such as "t1/dev4/time" */
  path: string;
  label: string;
  from: ParamValue;
  to: ParamValue;
  fromText: string;
  toText: string;
  reason: string;
  on: boolean;
}

/** A third-party device that this program cannot run, and the built-in one that may stand in for it. */
export interface StandIn {
  /** place in the preset's content, such as "t1/dev4" */
  path: string;
  label: string;
  name: string;
  type: string;
  typeLabel: string;
  reason: string;
  on: boolean;
}

/** A hardware input or output by name, and which name it gets here. */
export interface PortPlan {
  side: 'input' | 'output';
  port: string;
  choices: string[];
  /** null: left unconnected */
  chosen: string | null;
  reason: string;
}

export interface DropPlan {
  preset: { id: string; version: number; hash: string; name: string };
  drop: Id;
  place: Place;
  parts: Parts;
  /** local id in the preset → id in the session, for tracks, devices, sends and spares */
  ids: Record<Id, Id>;
  ends: EndPlan[];
  /** full tracks as they will be added, ties made */
  tracks: Track[];
  spares: Track[];
  /** for a drop onto a line: the line as it will be */
  target: Track | null;
  renames: { local: Id; from: string; to: string }[];
  adaptations: Adaptation[];
  standIns: StandIn[];
  ports: PortPlan[];
  /** what changes by itself and needs no decision, for the person to know */
  facts: string[];
  problems: Problem[];
}

export interface PlanOptions {
  place?: Place;
  /** loose end id → choice id */
  ties?: Record<Id, string>;
  parts?: Parts;
  /** path of an adaptation → whether it is made; all are when left out */
  adapt?: Record<string, boolean>;
  /** path of a third-party device → whether the built-in one takes its place; none does when left out */
  standIns?: Record<string, boolean>;
  /** "input/Mic 1" → the port's name here, or null for none */
  ports?: Record<string, string | null>;
  /** false: what arrives does not remember a preset (borrowed from a session) */
  origin?: boolean;
  /** for a repeatable plan */
  ids?: IdMaker;
  /** ids of an earlier plan of the same drop, so that re-planning keeps them */
  keep?: Pick<DropPlan, 'ids' | 'drop'>;
}

/**
 * Works out what dropping a preset would do: new tracks with fresh ids, ranked choices for every loose end and the one taken, renames, adaptations with reasons, problems. Changes nothing.
 * The same session, preset, options and `keep` give the same plan.
 */
export function planDrop(session: Session, preset: Preset, options: PlanOptions = {}): DropPlan {
  const ids = options.ids ?? randomIds;
  const c = preset.content;
  const place: Place = options.place ?? { kind: 'new' };
  const own = new Set([...c.parts, ...Object.values(c.trackParts ?? {}).flat()]);
  const parts = (options.parts ?? (place.kind === 'onto' ? ['chain', 'sends', 'keys'] : [...own])).filter((p) => own.has(p));
  const map: Record<Id, Id> = {};
  const fresh = (local: Id, prefix: string) => (map[local] ??= options.keep?.ids[local] ?? ids(prefix));
  const drop = options.keep?.drop ?? ids('drop');
  const problems: Problem[] = [];
  const facts: string[] = [];

  const arriving = place.kind === 'onto' ? c.tracks.slice(0, 1) : c.tracks;
  const needed = c.looseEnds.filter((e) => arriving.some((t) => usesEnd(t, e, parts)));
  const ends = planEnds(session, preset, needed, options.ties ?? {}, place);
  const renames: DropPlan['renames'] = [];
  const names = place.kind === 'whole' ? [] : session.tracks.map((t) => t.name);
  const rename = (local: Id, name: string) => {
    const to = freeName(name, names);
    if (to !== name) renames.push({ local, from: name, to });
    names.push(to);
    return to;
  };

  const spares: Track[] = [];
  const tied: Record<Id, Id | null> = {};
  for (const e of ends) {
    const choice = e.choices.find((x) => x.id === e.chosen)!;
    tied[e.end.id] = choice.kind === 'track' || choice.kind === 'master' ? choice.track! : choice.kind === 'open' ? null : bring(e.end, choice.kind);
  }
  function bring(end: LooseEnd, kind: 'spare' | 'empty'): Id {
    const local = kind === 'spare' ? end.spare! : `empty-${end.id}`;
    const known = map[local];
    if (known && spares.some((t) => t.id === known)) return known;
    const source = kind === 'spare' ? c.spares.find((s) => s.id === end.spare)! : createTrack(end.role === 'master' ? 'bus' : end.role, { id: local, name: end.label, channels: end.channels });
    const t: Track = { ...clone(source), id: fresh(local, 'trk'), name: rename(local, source.name), output: { kind: 'track', track: masterOf(session).id } };
    spares.push(t);
    return t.id;
  }

  const adaptations = planAdaptations(session, preset, arriving, parts, ends, options.adapt ?? {}, facts);
  const standIns = planStandIns([...arriving.filter((t) => partsOf(preset, t, parts).includes('chain')), ...c.spares.filter((x) => map[x.id])], options.standIns ?? {});
  const ports = planPorts(session, preset, arriving, parts, options.ports ?? {});
  const portFor = (side: PortPlan['side'], port: string) => ports.find((x) => x.side === side && x.port === port)?.chosen ?? null;
  const adapted = (track: Id, slot: Slot): Slot => mapSlots([clone(slot)], (d) => {
    if (d.kind === 'rack') return { ...d, handles: d.handles.map((h) => { const a = adaptations.find((x) => x.on && x.path === `${track}/${h.id}/cc`); return a ? { ...h, cc: a.to as number } : h; }) };
    const instead = standIns.find((x) => x.on && x.path === `${track}/${d.id}`);
    if (instead) return createDevice(instead.type, {}, { id: d.id, name: d.name, state: d.state, key: d.key });
    const out = { ...d, params: { ...d.params } };
    for (const a of adaptations) if (a.on && a.path.startsWith(`${track}/${d.id}/`)) out.params[a.path.slice(track.length + d.id.length + 2)] = a.to;
    return out;
  })[0];

  const master = masterOf(session);
  // a session keeps its own master: what went to the preset's goes there
  const staysOut = (t: Track) => t.role === 'master' && place.kind === 'new' && c.tracks.length > 1;
  for (const t of arriving) if (staysOut(t)) map[t.id] = master.id; else fresh(t.id, 'trk');
  const originOf = (local: Id): Origin => ({ preset: preset.id, version: preset.version, hash: preset.hash, name: preset.name, drop, local });
  /** The uppermost origin: with what it takes to tell later what was changed here. */
  const rootOrigin = (local: Id, track: Id, named: Id[], takes: Parts, renamed?: string): Origin => ({
    ...originOf(local), parts: takes, ids: Object.fromEntries(named.flatMap((x) => (map[x] ? [[map[x], x]] : []))),
    adapted: { ...openEnds(local, named, takes), ...Object.fromEntries(standIns.filter((x) => x.on && x.path.startsWith(track + '/') && named.includes(x.path.split('/')[1])).map((x) => [`${x.path.split('/')[1]}/type`, x.type])), ...Object.fromEntries(adaptations.filter((x) => x.on && x.path.startsWith(track + '/') && named.includes(x.path.split('/')[1])).map((x) => [x.path.slice(track.length + 1), x.to])), ...(renamed ? { name: renamed } : {}) },
  });
  /** Keys that listen to their own input and sends that stay out because their end was left open. */
  const openEnds = (local: Id, named: Id[], takes: Parts): Record<string, string> => {
    const t = [...c.tracks, ...c.spares].find((x) => x.id === local) ?? c.tracks[0];
    return Object.fromEntries([
      ...devicesIn(t.chain).flatMap((d) => (named.includes(d.id) && d.key.kind === 'track' && !(takes.includes('keys') && end(d.key.track)) ? [[`${d.id}/key`, 'own']] : [])),
      ...t.sends.flatMap((s) => (takes.includes('sends') && !end(s.to) ? [[s.id, LEFT_OUT]] : [])),
    ]);
  };
  const remember = options.origin !== false;
  const end = (id: Id): Id | null => (id in tied ? tied[id] : (map[id] ?? null));
  const slotFor = (t: Track, slot: Slot, keys: boolean): Slot => {
    // local ids are needed for the origins, so keys and origins come before the ids
    const local = mapSlots([adapted(t.id, slot)], (d) => {
      const out: Slot = remember ? { ...d, origin: originOf(d.id) } : { ...d };
      if (out.kind === 'device' && out.key.kind === 'track') {
        const to = keys ? end(out.key.track) : null;
        out.key = to ? { ...out.key, track: to } : { kind: 'own' };
      }
      return out;
    })[0];
    return renewSlot(local, fresh);
  };
  const sendsFor = (t: Track) => t.sends.flatMap((s) => {
    const to = end(s.to);
    return to ? [{ ...clone(s), id: fresh(s.id, 'snd'), to }] : [];
  });
  for (const [i, s] of spares.entries()) {
    const local = c.spares.find((x) => map[x.id] === s.id);
    if (!local) continue;
    const chain = local.chain.map((d) => slotFor(local, d, false));
    spares[i] = { ...s, chain, ...(remember ? { origin: rootOrigin(local.id, local.id, [local.id, ...idsIn(local)], SPARE_PARTS, s.name === local.name ? undefined : s.name) } : {}) };
  }

  let target: Track | null = null;
  const tracks: Track[] = [];
  if (place.kind !== 'onto') {
    const home: Track['output'] = { kind: 'track', track: place.kind === 'whole' ? (map[masterIn(c)] ?? master.id) : master.id };
    for (const t of c.tracks) {
      if (staysOut(t)) { if (t.chain.length) facts.push(`“${session.name}” keeps its own master; the ${t.chain.length === 1 ? 'device' : `${t.chain.length} devices`} of the preset’s stay${t.chain.length === 1 ? 's' : ''} out.`); continue; }
      const takes = partsOf(preset, t, parts);
      const has = (p: Parts[number]) => takes.includes(p);
      const isMaster = t.role === 'master' && place.kind !== 'whole';
      const name = rename(t.id, t.name);
      const out: Track = { ...clone(t), id: map[t.id], role: isMaster ? 'bus' : t.role, name, sends: has('sends') ? sendsFor(t) : [], chain: has('chain') ? t.chain.map((d) => slotFor(t, d, has('keys'))) : [] };
      if (t.role === 'master' && !isMaster) out.output = t.output.kind === 'hardware' ? t.output : { kind: 'none' };
      else if (t.output.kind === 'track') { const to = end(t.output.track); out.output = to ? { kind: 'track', track: to } : { kind: 'none' }; }
      else if (t.output.kind === 'hardware') { const port = portFor('output', t.output.port); out.output = port ? { kind: 'hardware', port } : home; }
      else out.output = has('output') && !isMaster ? { kind: 'none' } : home;
      if (t.input.kind === 'track') { const from = end(t.input.track); out.input = from ? { ...t.input, track: from } : { kind: 'none' }; }
      else if (t.input.kind === 'hardware') { const port = portFor('input', t.input.port); out.input = port ? { kind: 'hardware', port } : { kind: 'none' }; }
      out.folder = t.folder ? end(t.folder) : place.kind === 'new' ? (place.folder ?? null) : null;
      out.clips = has('clips') ? t.clips.map((k) => ({ ...clone(k), id: fresh(k.id, 'clp') })) : [];
      if (remember) out.origin = rootOrigin(t.id, t.id, [t.id, ...idsIn(t)], takes, name === t.name ? undefined : name);
      tracks.push(out);
    }
  } else {
    const before = trackOf(session, place.track);
    if (!before) throw new Error('The line that the preset was to be dropped onto is not in this session any more.');
    const t = c.tracks[0];
    const has = (p: Parts[number]) => partsOf(preset, t, parts).includes(p);
    map[t.id] = before.id;
    target = { ...before };
    const whole = place.chain === 'replace';
    if (has('chain')) {
      const chain = t.chain.map((d) => slotFor(t, d, has('keys'))).map((x, i) => (whole || !remember ? x : { ...x, origin: rootOrigin(t.chain[i].id, t.id, slotIds([t.chain[i]]), ['chain', ...(has('keys') ? ['keys' as const] : [])]) }));
      const swapped = place.chain === 'swap' && place.slot ? placeIn(before, place.slot) : null;
      if (place.chain === 'swap' && !swapped) throw new Error('The device or rack that was to be replaced is not on this line any more.');
      const container = swapped?.container ?? (place.chain === 'at' ? (place.container ?? before.id) : before.id);
      if (!chainAt(before, container)) throw new Error('The strand that the preset was to be dropped into is not on this line any more.');
      target = withChainAt(before, container, (was) => {
        if (swapped) return was.flatMap((x) => (x.id === place.slot ? chain : [x]));
        const at = place.chain === 'at' ? Math.min(place.at ?? 0, was.length) : place.chain === 'before' ? 0 : was.length;
        return place.chain === 'replace' ? chain : [...was.slice(0, at), ...chain, ...was.slice(at)];
      });
      target = { ...target, chain: dropDeadTies(target.chain) };
    }
    if (has('sends')) {
      const add = sendsFor(t);
      target.sends = [...before.sends.filter((s) => !add.some((x) => x.to === s.to)), ...add];
      const same = before.sends.length - (target.sends.length - add.length);
      if (same > 0) facts.push(`${same === 1 ? 'A send' : `${same} sends`} of “${before.name}” to the same place ${same === 1 ? 'takes' : 'take'} the preset’s values.`);
    }
    if (has('level')) Object.assign(target, { level: t.level, polarity: t.polarity });
    if (has('pan')) target.pan = t.pan;
    if (has('output') && before.role !== 'master' && t.output.kind === 'track') { const to = end(t.output.track); if (to) target.output = { kind: 'track', track: to }; }
    if (has('colour')) target.colour = t.colour;
    if (has('note')) target.note = t.note;
    if (has('name')) { const free = freeName(t.name, session.tracks.filter((x) => x.id !== before.id).map((x) => x.name)); if (free !== t.name) renames.push({ local: t.id, from: t.name, to: free }); target.name = free; }
    if (whole && has('chain')) { if (remember) target.origin = rootOrigin(t.id, t.id, [t.id, ...idsIn(t)], partsOf(preset, t, parts), has('name') && target.name !== t.name ? target.name : undefined); else delete target.origin; }
    if (t.channels !== before.channels && has('chain')) facts.push(`The preset was made on a ${width(t.channels)} track; “${before.name}” is ${width(before.channels)}. Every device here plays both.`);
  }
  if (preset.reference.sampleRate !== session.sampleRate) facts.push(`Saved at ${preset.reference.sampleRate / 1000} kHz, dropped at ${session.sampleRate / 1000} kHz: values are in dB, Hz and ms, so they stay as they are.`);

  const plan: DropPlan = { preset: { id: preset.id, version: preset.version, hash: preset.hash, name: preset.name }, drop, place, parts, ids: map, ends, tracks, spares, target, renames, adaptations, standIns, ports, facts, problems };
  try { compile(placeDrop(session, plan)); } catch (e) {
    if (!(e instanceof CompileError)) throw e;
    problems.push({ path: '', rule: 'loop', message: `This drop would make a loop. ${e.message}` });
  }
  return plan;
}

const noteLabel = (id: string) => NOTES.find((n) => n.id === id)?.label ?? id;
const width = (n: 1 | 2) => (n === 1 ? 'mono' : 'stereo');

/** The session with the plan carried out; shared with applyDrop. */
export function placeDrop(session: Session, plan: DropPlan): Session {
  if (plan.place.kind === 'whole') return { ...session, tracks: plan.tracks };
  let tracks = [...session.tracks];
  if (plan.target) tracks = tracks.map((t) => (t.id === plan.target!.id ? plan.target! : t));
  const draft = { ...session, tracks };
  if (plan.tracks.length && plan.place.kind === 'new') {
    const at = Math.min(plan.place.index ?? placeFor(draft, plan.tracks[0].role), tracks.findIndex((t) => t.role === 'master'));
    tracks.splice(at, 0, ...plan.tracks);
  }
  for (const s of plan.spares) tracks.splice(placeFor({ ...session, tracks }, s.role), 0, s);
  return { ...session, tracks };
}

/** What of a preset's track is meant: its own parts where it has them, and of these what was asked for. */
export const partsOf = (preset: Preset, t: Track, parts: Parts): Parts => (preset.content.trackParts?.[t.id] ?? preset.content.parts).filter((p) => parts.includes(p));

const SPARE_PARTS: Parts = ['chain', 'level', 'pan', 'colour', 'note'];
const masterIn = (c: Preset['content']): Id => c.tracks.find((t) => t.role === 'master')?.id ?? '';
const idsIn = (t: Track): Id[] => [...slotIds(t.chain), ...t.sends.map((s) => s.id)];

/** Whether a track of the preset leads to a loose end with one of the parts. */
function usesEnd(t: Track, e: LooseEnd, parts: Parts): boolean {
  if (!(e.kind === 'send' ? parts.includes('sends') : e.kind === 'key' ? parts.includes('keys') && parts.includes('chain') : parts.includes(e.kind))) return false;
  if (e.kind === 'send') return t.sends.some((s) => s.to === e.id);
  if (e.kind === 'key') return devicesIn(t.chain).some((d) => d.key.kind === 'track' && d.key.track === e.id);
  if (e.kind === 'folder') return t.folder === e.id;
  const far = e.kind === 'output' ? t.output : t.input;
  return far.kind === 'track' && far.track === e.id;
}

/** Choices for all loose ends; two far sides of one name do not land on the same track by themselves when there is a second that fits as well. */
function planEnds(session: Session, preset: Preset, ends: LooseEnd[], ties: Record<Id, string>, place: Place): EndPlan[] {
  const out: EndPlan[] = [];
  for (const e of ends) {
    const p = planEnd(session, preset, e, ties[e.id], place);
    const taken = out.filter((x) => x.end.kind === e.kind && x.end.label === e.label).map((x) => x.chosen);
    const first = p.choices.find((x) => x.id === p.chosen)!;
    if (!p.decided && first.kind === 'track' && taken.includes(first.id)) {
      const other = p.choices.find((x) => !taken.includes(x.id) && (x.kind === 'spare' || (x.kind === 'track' && x.score >= Math.min(60, first.score))));
      if (other) p.chosen = other.id;
    }
    out.push(p);
  }
  return out;
}

/** Ranked choices for one loose end: same content, the last choice in this session, same name, similar name or sound and same role; then spare, empty, master, open. */
function planEnd(session: Session, preset: Preset, end: LooseEnd, wanted: string | undefined, place: Place): EndPlan {
  const spare = preset.content.spares.find((s) => s.id === end.spare);
  const self = place.kind === 'onto' ? place.track : null;
  const choices: Choice[] = [];
  const master = masterOf(session);
  for (const t of session.tracks) {
    if (t.id === self || t.role === 'master' || !fits(end, t)) continue;
    const [score, reason] = likeness(session, preset, end, spare, t);
    choices.push({ id: `track:${t.id}`, kind: 'track', track: t.id, label: t.name, reason, score });
  }
  if (spare) choices.push({ id: 'spare', kind: 'spare', label: `Bring “${spare.name}” along`, reason: 'a copy travels with the preset', score: 45 });
  if (end.kind === 'output') choices.push({ id: 'master', kind: 'master', track: master.id, label: master.name, reason: end.role === 'master' ? 'it went to the master' : 'straight to the master', score: end.role === 'master' ? 95 : 30 });
  if (end.kind === 'send' || end.kind === 'output' || end.kind === 'folder') {
    if (end.role !== 'master') choices.push({ id: 'empty', kind: 'empty', label: `Make an empty ${end.role} “${end.label}”`, reason: 'to be filled later', score: 20 });
  }
  const openText = { send: 'Leave the send out', output: 'No output', key: 'Listen to its own input', input: 'No input', folder: 'No folder' }[end.kind];
  choices.push({ id: 'open', kind: 'open', label: openText, reason: end.kind === 'key' ? 'nothing here looks like its key' : 'can be tied later', score: end.kind === 'folder' ? 35 : 10 });
  choices.sort((a, b) => b.score - a.score);
  const decided = wanted !== undefined && choices.some((x) => x.id === wanted);
  return { end, choices, chosen: decided ? wanted : choices[0].id, decided };
}

function fits(end: LooseEnd, t: Track): boolean {
  if (end.kind === 'folder') return t.role === 'folder';
  if (end.kind === 'send') return t.role === 'return' || t.role === 'bus' || t.role === 'folder';
  if (end.kind === 'output') return t.role === 'bus' || t.role === 'return' || t.role === 'folder';
  return true;
}

function likeness(session: Session, preset: Preset, end: LooseEnd, spare: Track | undefined, t: Track): [number, string] {
  if (spare && spare.chain.length > 0 && soundHash(spare) === soundHash(t)) return [100, 'has exactly the same devices and values'];
  if (session.lastTies?.[tieKey(preset, end)] === t.id) return [90, 'chosen last time in this session'];
  const [a, b] = [words(end.label), words(t.name)];
  const role = t.role === end.role;
  if (a.join(' ') === b.join(' ')) return role ? [80, 'has the same name'] : [60, `has the same name, as a ${t.role}`];
  const shared = a.filter((w) => b.includes(w));
  if (role && shared.length > 0) return [60 + Math.min(9, shared.length), `similar name and the same role`];
  if (role && spare && sketch(spare) && sketch(spare) === sketch(t)) return [55, `the same kind of ${t.role} (${sketch(t)})`];
  const named = `${/^[aeiou]/.test(t.role) ? 'an' : 'a'} ${t.role}`;
  // for a key or an input any track would do as well as any other: that is no reason to choose it
  return role && end.kind !== 'key' && end.kind !== 'input' ? [25, `also ${named}`] : [5, named];
}

/** Devices with their values and states, racks with their strands: what makes two chains sound the same, whatever their ids and names. */
const soundHash = (t: Track) => hashOf(t.chain.map(soundOf));
const soundOf = (d: Slot): unknown => (d.kind === 'device' ? [d.type, d.state, d.params, d.foreign ?? null] : [d.state, d.blend, d.strands.map((s) => [s.level, s.pan, s.mute, s.solo, s.chain.map(soundOf)])]);
const NOISE_WORDS = new Set(['bus', 'return', 'the', 'a', 'fx', 'group']);
const words = (s: string) => {
  const all = s.toLowerCase().split(/[^\p{L}\p{N}]+/u).filter(Boolean);
  const telling = all.filter((w) => !NOISE_WORDS.has(w));
  return telling.length ? telling : all;
};

/** The devices that make the character, in a few words: "plate reverb". */
const sketch = (t: Track) => devicesIn(t.chain).filter((d) => d.type === 'reverb' || d.type === 'delay' || d.type === 'opaque')
  .map((d) => (d.type === 'reverb' ? `${String(d.params.type)} reverb` : d.type === 'opaque' ? d.name : 'delay')).join(' + ');

/** Under which name a session remembers how a loose end was tied; the second of one name has its id behind it. */
export const tieKey = (preset: Preset, end: LooseEnd) => {
  const twin = preset.content.looseEnds.find((e) => e.kind === end.kind && e.label === end.label);
  return `${preset.id}/${end.kind}/${end.label}${twin && twin.id !== end.id ? `/${end.id}` : ''}`;
};

/** Words in a third-party device's name that say what it does, and the built-in device that does the same. */
const KINDS: [RegExp, string][] = [
  [/de-?ess|sibil/i, 'deesser'], [/multi-?band/i, 'multiband'], [/limit|maxim/i, 'limiter'], [/comp|level(l)?er|squash|squeeze/i, 'compressor'], [/gate|expand/i, 'gate'], [/clip/i, 'clipper'],
  [/\beq\b|equal|filter|tone/i, 'eq'], [/verb|plate|hall|room|chamber/i, 'reverb'], [/delay|echo|slap/i, 'delay'], [/satur|tape|tube|drive|warm|distort/i, 'saturator'], [/chorus|flang|ensemble/i, 'chorus'],
  [/doubl/i, 'doubler'], [/tune|pitch corr/i, 'pitchcorrect'], [/pitch|shift|octav/i, 'pitchshift'], [/wid(e|th)|stereo|imag/i, 'width'], [/gain|trim|util/i, 'trim'],
];

function planStandIns(tracks: Track[], wanted: Record<string, boolean>): StandIn[] {
  return tracks.flatMap((t) => devicesIn(t.chain).flatMap((d): StandIn[] => {
    if (!d.foreign) return [];
    const name = d.foreign.name || d.name;
    const type = KINDS.find(([words, id]) => words.test(`${d.name} ${name}`) && DEVICE_TYPES[id])?.[1] ?? 'trim';
    const label = DEVICE_TYPES[type].label, path = `${t.id}/${d.id}`;
    return [{ path, label: `${t.name} · ${d.name}`, name, type, typeLabel: label, on: wanted[path] ?? false, reason: type === 'trim' ? 'its name does not say what it does; a Trim keeps its place' : `by its name the nearest built-in device is ${label}, with its factory values` }];
  }));
}

/** Hardware is known by name: the same name, a similar one, or it stays under its own name for another setup. */
function planPorts(session: Session, preset: Preset, tracks: Track[], parts: Parts, wanted: Record<string, string | null>): PortPlan[] {
  const out: PortPlan[] = [];
  for (const side of ['input', 'output'] as const) {
    const known = [...new Set(session.tracks.flatMap((t) => (t[side].kind === 'hardware' ? [(t[side] as { port: string }).port] : [])))];
    for (const t of tracks) {
      const far = t[side];
      if (far.kind !== 'hardware' || !partsOf(preset, t, parts).includes(side) || out.some((x) => x.side === side && x.port === far.port)) continue;
      const exact = known.includes(far.port), like = known.find((k) => words(k).some((w) => words(far.port).includes(w)));
      const key = `${side}/${far.port}`, chosen = key in wanted ? wanted[key] : exact ? far.port : (like ?? far.port);
      out.push({ side, port: far.port, choices: [...new Set([far.port, ...known])], chosen, reason: key in wanted ? 'your choice' : exact ? 'has the same name' : like ? 'similar name' : 'no other line here uses hardware of that name; it keeps its own' });
    }
  }
  return out;
}

function planAdaptations(session: Session, preset: Preset, arriving: Track[], parts: Parts, ends: EndPlan[], adapt: Record<string, boolean>, facts: string[]): Adaptation[] {
  const out: Adaptation[] = [];
  const spares = preset.content.spares.filter((s) => ends.some((e) => e.chosen === 'spare' && e.end.spare === s.id));
  const tracks = [...arriving.filter((t) => partsOf(preset, t, parts).includes('chain')), ...spares];
  const [was, is] = [preset.reference.tempo, session.tempo];
  const top = session.sampleRate * 0.49;
  // what the preset moves with one controller on purpose stays together
  const taken = new Set(controllersIn(session.tracks.map((t) => t.chain))), moved = new Map<number, number | null>();
  for (const t of tracks) for (const rack of racksIn(t.chain)) for (const h of rack.handles) {
    if (h.cc === null || !taken.has(h.cc)) continue;
    if (!moved.has(h.cc)) moved.set(h.cc, freeController([...taken, ...controllersIn(tracks.map((x) => x.chain)), ...[...moved.values()].filter((v) => v !== null)]));
    const to = moved.get(h.cc)!;
    if (to === null) continue;
    const path = `${t.id}/${h.id}/cc`;
    out.push({ path, label: `${t.name} · ${rack.name} · ${h.name} · controller`, from: h.cc, to, fromText: controllerName(h.cc), toText: controllerName(to), reason: `${controllerName(h.cc)} already moves a handle in this session`, on: adapt[path] ?? true });
  }
  for (const t of tracks) for (const d of devicesIn(t.chain)) {
    const spec = DEVICE_TYPES[d.type];
    const add = (param: string, to: ParamValue, reason: string) => {
      const ps = spec.byId[param];
      const path = `${t.id}/${d.id}/${param}`;
      out.push({ path, label: `${t.name} · ${d.name} · ${ps.label}`, from: d.params[param], to, fromText: formatValue(ps, d.params[param]), toText: formatValue(ps, to), reason, on: adapt[path] ?? true });
    };
    for (const ps of spec.params) {
      const v = d.params[ps.id];
      // a value that the home session's own rate could not hold either is not this session's business
      if (ps.unit === 'Hz' && typeof v === 'number' && v > top && session.sampleRate < preset.reference.sampleRate && isUsed(d, ps.id)) add(ps.id, Math.max(ps.min!, Math.floor(top / 10) * 10), `over half the sample rate of ${session.sampleRate / 1000} kHz`);
      if (!ps.tempoBound || typeof v !== 'number' || was === is || !isUsed(d, ps.id)) continue;
      // a release only belongs to the tempo when something else sets its rhythm
      if (spec.hasKey && d.key.kind !== 'track') continue;
      const note = noteFor(v, was);
      if (!note) continue;
      const to = Number(noteMs(note, is).toFixed(3));
      if (to <= ps.max!) add(ps.id, to, `it was a ${noteLabel(note)} note at ${was} bpm; this session runs at ${is} bpm`);
      else facts.push(`${d.name} on ${t.name} stays at ${formatValue(ps, v)}: a ${noteLabel(note)} note at ${is} bpm is longer than it can be.`);
    }
    if (d.type === 'delay' && d.params.mode === 'note' && was !== is) {
      const n = String(d.params.note);
      facts.push(`${d.name} on ${t.name} follows the tempo: ${noteLabel(n)} was ${Math.round(noteMs(n, was))} ms and is ${Math.round(noteMs(n, is))} ms here.`);
    }
  }
  return out;
}
