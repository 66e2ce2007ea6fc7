import { compile, CompileError } from '../engine/compile.ts';
import { clone } from '../model/json.ts';
import { randomIds } from '../model/ids.ts';
import type { Id, LooseEnd, Origin, Parts, Preset, Problem, Session, Slot, Track } from '../model/types.ts';
import { createTrack, masterOf, trackOf } from '../session/create.ts';
import { findSlot, slotIds } from '../session/slots.ts';
import { adaptedBy, planAdaptations, rememberedOf } from './adaptations/index.ts';
import { planEnds, usesEnd } from './ends.ts';
import { IN_CHAIN, ONTO_PARTS, PARTS, partsOf } from './parts/index.ts';
import type { Putting, PuttingOnto } from './parts/part.ts';
import { trimPath } from './adaptations/fit.ts';
import { placeDrop } from './place.ts';
import { printFacts } from './print.ts';
import type { Changed, DropPlan, EndPlan, Place, PlanOptions } from './types.ts';

/**
 * Works out what dropping a preset would do: new tracks with fresh ids, ranked choices for every loose end
 * and the one taken, renames, adaptations with reasons, problems. Changes nothing.
 * The same session, preset, options and `keep` give the same plan.
 */
export function planDrop(session: Session, preset: Preset, options: PlanOptions = {}): DropPlan {
  const d = begin(session, preset, options);
  const spares = bringSpares(d);
  const changed = planAdaptations({
    session,
    preset,
    place: d.place,
    options,
    arriving: d.arriving,
    lines: d.place.kind === 'onto' ? [] : d.arriving.filter((t) => !staysOut(t, d)),
    sounding: [...d.arriving.filter((t) => takesOf(t, d).includes('chain')), ...sparesBrought(d)],
    ends: d.ends,
    brought: spares,
    target: d.before,
    has: (t, part) => takesOf(t, d).includes(part),
  });
  for (const t of d.arriving) nameArriving(t, d);
  const plan: DropPlan = {
    preset: { id: preset.id, version: preset.version, hash: preset.hash, name: preset.name },
    drop: d.drop,
    place: d.place,
    parts: d.parts,
    ids: d.ids,
    ends: d.ends,
    spares: spares.map((t) => finishSpare(t, d, changed)),
    tracks: d.place.kind === 'onto' ? [] : newTracks(d, changed),
    target: d.before && ontoLine(d.before, d, changed),
    ...changed,
    problems: [],
  };
  plan.facts.push(...printFacts(session, preset, plan));
  plan.problems.push(...loopsOf(session, plan));
  return plan;
}

/** A drop while it is worked out. */
interface Drop {
  session: Session;
  preset: Preset;
  options: PlanOptions;
  place: Place;
  parts: Parts;
  drop: Id;
  arriving: Track[];
  ends: EndPlan[];
  /** the line that the preset is dropped onto */
  before: Track | null;
  /** local id → id in the session */
  ids: Record<Id, Id>;
  /** loose end → where it goes; null: left open */
  tied: Record<Id, Id | null>;
  fresh: (local: Id, prefix: string) => Id;
}

/** Parts that a spare brings. */
const SPARE_PARTS: Parts = ['chain', 'hardware', 'level', 'pan', 'colour', 'note'];

function begin(session: Session, preset: Preset, options: PlanOptions): Drop {
  const make = options.ids ?? randomIds;
  const { content } = preset;
  const place: Place = options.place ?? { kind: 'new' };
  const own = new Set([...content.parts, ...Object.values(content.trackParts ?? {}).flat()]);
  const wanted = options.parts ?? (place.kind === 'onto' ? ONTO_PARTS : [...own]);
  const parts = wanted.filter((p) => own.has(p));
  const drop = options.keep?.drop ?? make('drop');
  const arriving = place.kind === 'onto' ? content.tracks.slice(0, 1) : content.tracks;
  const needed = content.looseEnds.filter((e) => arriving.some((t) => usesEnd(t, e, parts)));
  const ends = planEnds(session, preset, needed, options.ties ?? {}, place);
  const before = place.kind === 'onto' ? trackOf(session, place.track) : null;
  if (before === undefined) {
    throw new Error('The line that the preset was to be dropped onto is not in this session any more.');
  }
  const ids: Record<Id, Id> = {};
  const fresh = (local: Id, prefix: string) => (ids[local] ??= options.keep?.ids[local] ?? make(prefix));
  return { session, preset, options, place, parts, drop, arriving, ends, before, ids, tied: {}, fresh };
}

const takesOf = (t: Track, d: Drop): Parts => partsOf(d.preset, t, d.parts);
/** A session keeps its own master: what went to the preset's goes there. */
const staysOut = (t: Track, d: Drop): boolean =>
  t.role === 'master' && d.place.kind === 'new' && d.preset.content.tracks.length > 1;
const spareLocally = (t: Track, d: Drop): Track | undefined =>
  d.preset.content.spares.find((s) => d.ids[s.id] === t.id);
const sparesBrought = (d: Drop): Track[] => d.preset.content.spares.filter((s) => d.ids[s.id]);

/** Ties every loose end; brings along, or makes, what was chosen for it. The tracks still have their local ids. */
function bringSpares(d: Drop): Track[] {
  const brought = new Map<Id, Track>();
  const bring = (end: LooseEnd, kind: 'spare' | 'empty'): Id => {
    const source =
      kind === 'spare' ? d.preset.content.spares.find((s) => s.id === end.spare)! : emptyFor(end);
    const id = d.fresh(source.id, 'trk');
    if (!brought.has(source.id)) brought.set(source.id, source);
    return id;
  };
  for (const { end, choices, chosen } of d.ends) {
    const choice = choices.find((x) => x.id === chosen)!;
    if (choice.kind === 'open') d.tied[end.id] = null;
    else d.tied[end.id] = choice.track ?? bring(end, choice.kind as 'spare' | 'empty');
  }
  return [...brought.values()];
}

function emptyFor(end: LooseEnd): Track {
  const role = end.role === 'master' ? 'bus' : end.role;
  return createTrack(role, { id: `empty-${end.id}`, name: end.label, channels: end.channels });
}

function nameArriving(t: Track, d: Drop): void {
  if (d.before) d.ids[t.id] = d.before.id;
  else if (staysOut(t, d)) d.ids[t.id] = masterOf(d.session).id;
  else d.fresh(t.id, 'trk');
}

const endOf = (local: Id, d: Drop): Id | null => (local in d.tied ? d.tied[local] : (d.ids[local] ?? null));

/** What a part needs to put a line of the preset into the session. */
function putting(t: Track, takes: Parts, d: Drop, changed: Changed, spare = false): Putting {
  const master = masterOf(d.session).id;
  const wholeMaster = d.preset.content.tracks.find((x) => x.role === 'master');
  const home = d.place.kind === 'whole' ? (d.ids[wholeMaster?.id ?? ''] ?? master) : master;
  return {
    session: d.session,
    place: d.place,
    adapted: adaptedBy(changed, spare),
    asBus: t.role === 'master' && d.place.kind !== 'whole',
    home: { kind: 'track', track: home },
    has: (part) => takes.includes(part),
    end: (local) => endOf(local, d),
    fresh: d.fresh,
    here: (local) => d.ids[local],
    comes: (slot) =>
      d.preset.content.tracks.some((x) => takesOf(x, d).includes('chain') && !!findSlot(x.chain, slot)),
    origin: (local) => (d.options.origin === false ? null : originOf(local, d)),
    facts: changed.facts,
    inChain: IN_CHAIN,
  };
}

const originOf = (local: Id, d: Drop): Origin => ({
  preset: d.preset.id,
  version: d.preset.version,
  hash: d.preset.hash,
  name: d.preset.name,
  drop: d.drop,
  local,
});

interface RootOf {
  /** the line or piece itself, and the track of the preset that it is of */
  local: Id;
  track: Track;
  named: Id[];
  takes: Parts;
  renamed?: string;
  spare?: boolean;
}

/** The uppermost origin: with what it takes to tell later what was changed here. */
function rootOrigin(r: RootOf, d: Drop, changed: Changed): Origin | null {
  if (d.options.origin === false) return null;
  const has = (part: Parts[number]) => r.takes.includes(part);
  const asked = { has, end: (local: Id) => endOf(local, d), renamed: r.renamed };
  const byParts = PARTS.map((p) => p.remember?.(r.track, r.named, asked) ?? {});
  const ids = r.named.flatMap((local) => (d.ids[local] ? [[d.ids[local], local]] : []));
  return {
    ...originOf(r.local, d),
    parts: r.takes,
    ids: Object.fromEntries(ids),
    adapted: Object.assign({}, ...byParts, rememberedOf(r.track, r.named, changed, r.spare)),
  };
}

const idsIn = (t: Track): Id[] => [t.id, ...slotIds(t.chain), ...t.sends.map((s) => s.id)];

/** A track that comes along for a loose end, as it will stand in the session. */
function finishSpare(source: Track, d: Drop, changed: Changed): Track {
  const renamed = adaptedBy(changed).name(source.id, source.name);
  const master = masterOf(d.session).id;
  const out: Track = {
    ...clone(source),
    id: d.ids[source.id],
    name: renamed,
    output: { kind: 'track', track: master },
  };
  if (!spareLocally(out, d)) return out;
  const c = putting(source, SPARE_PARTS, d, changed, true);
  for (const p of PARTS) if (SPARE_PARTS.includes(p.id)) p.put?.(source, out, c);
  const origin = rootOrigin(
    {
      local: source.id,
      track: source,
      named: idsIn(source),
      takes: SPARE_PARTS,
      renamed: renamed === source.name ? undefined : renamed,
      spare: true,
    },
    d,
    changed,
  );
  return origin ? { ...out, origin } : out;
}

/** The tracks of the preset as new lines. */
function newTracks(d: Drop, changed: Changed): Track[] {
  const out: Track[] = [];
  for (const t of d.preset.content.tracks) {
    if (staysOut(t, d)) tellMaster(t, d, changed);
    else out.push(newTrack(t, d, changed));
  }
  return out;
}

function tellMaster(t: Track, d: Drop, changed: Changed): void {
  if (!t.chain.length) return;
  const what = t.chain.length === 1 ? 'device' : `${t.chain.length} devices`;
  const stays = t.chain.length === 1 ? 'stays' : 'stay';
  changed.facts.push(`“${d.session.name}” keeps its own master; the ${what} of the preset’s ${stays} out.`);
}

function newTrack(t: Track, d: Drop, changed: Changed): Track {
  const takes = takesOf(t, d);
  const c = putting(t, takes, d, changed);
  const out: Track = { ...clone(t), id: d.ids[t.id], role: c.asBus ? 'bus' : t.role };
  for (const p of PARTS) p.put?.(t, out, c);
  const renamed = out.name === t.name ? undefined : out.name;
  const origin = rootOrigin({ local: t.id, track: t, named: idsIn(t), takes, renamed }, d, changed);
  if (origin) out.origin = origin;
  return out;
}

/** The line that is dropped onto, as it will be. */
function ontoLine(before: Track, d: Drop, changed: Changed): Track {
  const place = d.place as PuttingOnto['place'];
  const t = d.preset.content.tracks[0];
  const takes = takesOf(t, d);
  const has = (part: Parts[number]) => takes.includes(part);
  const pieceParts: Parts = ['chain', ...IN_CHAIN.map((p) => p.id).filter(has)];
  const c: PuttingOnto = {
    ...putting(t, takes, d, changed),
    place,
    before,
    pieceOrigin: (from: Track, slot: Slot) =>
      rootOrigin({ local: slot.id, track: from, named: slotIds([slot]), takes: pieceParts }, d, changed),
  };
  const out: Track = { ...before };
  const trim = changed.adaptations.find((a) => a.on && a.path === trimPath(t.id));
  if (trim && takes.includes('chain')) out.inputTrim = trim.to as number;
  for (const p of PARTS) if (has(p.id)) p.putOnto?.(t, out, c);
  if (place.chain !== 'replace' || !has('chain')) return out;
  const renamed = has('name') && out.name !== t.name ? out.name : undefined;
  const origin = rootOrigin({ local: t.id, track: t, named: idsIn(t), takes, renamed }, d, changed);
  const beside = has('sends') ? out.sends.filter((s) => before.sends.some((x) => x.id === s.id)) : [];
  if (origin) out.origin = beside.length ? { ...origin, beside: beside.map((s) => s.id) } : origin;
  else delete out.origin;
  return out;
}

/** A drop that would make the session feed itself is a problem to decide. */
function loopsOf(session: Session, plan: DropPlan): Problem[] {
  try {
    compile(placeDrop(session, plan));
    return [];
  } catch (e) {
    if (!(e instanceof CompileError)) throw e;
    return [{ path: '', rule: 'loop', message: `This drop would make a loop. ${e.message}` }];
  }
}
