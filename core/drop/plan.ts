import { compile, CompileError } from '../engine/compile.ts';
import { createDevice, createTrack, freeName, masterOf, placeFor, trackOf } from '../session/create.ts';
import { clone } from '../model/json.ts';
import { randomIds, type IdMaker } from '../model/ids.ts';
import { dropDeadTies } from '../session/handles.ts';
import {
  chainAt,
  devicesIn,
  mapSlots,
  placeOf as placeIn,
  renewLanes,
  renewSlot,
  slotIds,
  withChainAt,
} from '../session/slots.ts';
import type {
  Id,
  LooseEnd,
  Origin,
  ParamValue,
  Parts,
  Preset,
  Problem,
  Session,
  Slot,
  Track,
} from '../model/types.ts';
import { movedAddress, movedNotes, movedParams, planAdaptations, planPorts, planStandIns } from './adapt.ts';
import { instrumentFor, planEnds, usesEnd } from './ends.ts';
import { LEFT_OUT } from './forms.ts';
import { partsOf } from './parts.ts';

export type Place =
  | { kind: 'new'; index?: number; folder?: Id | null }
  /** the preset makes up the whole session: for a starter in an empty one */
  | { kind: 'whole' }
  /**
   * `container`: the line itself or a strand on it, for “at”; `slot`: the device or rack whose place is
   * taken, for “swap”
   */
  | {
      kind: 'onto';
      track: Id;
      chain: 'replace' | 'append' | 'before' | 'at' | 'swap';
      at?: number;
      container?: Id;
      slot?: Id;
    };

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
 * Works out what dropping a preset would do: new tracks with fresh ids, ranked choices for every loose end
 * and the one taken, renames, adaptations with reasons, problems. Changes nothing.
 * The same session, preset, options and `keep` give the same plan.
 */
export function planDrop(session: Session, preset: Preset, options: PlanOptions = {}): DropPlan {
  const ids = options.ids ?? randomIds;
  const c = preset.content;
  const place: Place = options.place ?? { kind: 'new' };
  const own = new Set([...c.parts, ...Object.values(c.trackParts ?? {}).flat()]);
  const parts = (options.parts ?? (place.kind === 'onto' ? ['chain', 'sends', 'keys'] : [...own])).filter(
    (p) => own.has(p),
  );
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
    tied[e.end.id] =
      choice.kind === 'track' || choice.kind === 'master'
        ? choice.track!
        : choice.kind === 'open'
          ? null
          : bring(e.end, choice.kind);
  }
  function bring(end: LooseEnd, kind: 'spare' | 'empty'): Id {
    const local = kind === 'spare' ? end.spare! : `empty-${end.id}`;
    const known = map[local];
    if (known && spares.some((t) => t.id === known)) return known;
    const source =
      kind === 'spare'
        ? c.spares.find((s) => s.id === end.spare)!
        : createTrack(end.role === 'master' ? 'bus' : end.role, {
            id: local,
            name: end.label,
            channels: end.channels,
          });
    const t: Track = {
      ...clone(source),
      id: fresh(local, 'trk'),
      name: rename(local, source.name),
      output: { kind: 'track', track: masterOf(session).id },
    };
    spares.push(t);
    return t.id;
  }

  const adaptations = planAdaptations(session, preset, arriving, parts, ends, options.adapt ?? {}, facts);
  const standIns = planStandIns(
    [
      ...arriving.filter((t) => partsOf(preset, t, parts).includes('chain')),
      ...c.spares.filter((x) => map[x.id]),
    ],
    options.standIns ?? {},
  );
  const ports = planPorts(session, preset, arriving, parts, options.ports ?? {});
  const portFor = (side: PortPlan['side'], port: string) =>
    ports.find((x) => x.side === side && x.port === port)?.chosen ?? null;
  const adapted = (track: Id, slot: Slot): Slot =>
    mapSlots([clone(slot)], (d) => {
      if (d.kind === 'rack') {
        return {
          ...d,
          handles: d.handles.map((h) => {
            const a = adaptations.find((x) => x.on && x.path === `${track}/${h.id}/cc`);
            return a ? { ...h, cc: a.to as number } : h;
          }),
        };
      }
      const instead = standIns.find((x) => x.on && x.path === `${track}/${d.id}`);
      if (instead) {
        return createDevice(instead.type, {}, { id: d.id, name: d.name, state: d.state, key: d.key });
      }
      const out = { ...d, params: { ...d.params } };
      const home = arriving.find((t) => t.id === track);
      if (home) Object.assign(out.params, movedParams(adaptations, home, d));
      for (const a of adaptations) {
        if (a.on && a.path.startsWith(`${track}/${d.id}/`)) {
          out.params[a.path.slice(track.length + d.id.length + 2)] = a.to;
        }
      }
      return out;
    })[0];

  const master = masterOf(session);
  // a session keeps its own master: what went to the preset's goes there
  const staysOut = (t: Track) => t.role === 'master' && place.kind === 'new' && c.tracks.length > 1;
  for (const t of arriving) {
    if (staysOut(t)) map[t.id] = master.id;
    else fresh(t.id, 'trk');
  }
  const originOf = (local: Id): Origin => ({
    preset: preset.id,
    version: preset.version,
    hash: preset.hash,
    name: preset.name,
    drop,
    local,
  });
  /** The uppermost origin: with what it takes to tell later what was changed here. */
  const rootOrigin = (local: Id, track: Id, named: Id[], takes: Parts, renamed?: string): Origin => ({
    ...originOf(local),
    parts: takes,
    ids: Object.fromEntries(named.flatMap((x) => (map[x] ? [[map[x], x]] : []))),
    adapted: {
      ...openEnds(local, named, takes),
      ...Object.fromEntries(
        standIns
          .filter((x) => x.on && x.path.startsWith(track + '/') && named.includes(x.path.split('/')[1]))
          .map((x) => [`${x.path.split('/')[1]}/type`, x.type]),
      ),
      ...Object.fromEntries(
        adaptations
          .filter((x) => x.on && x.path.startsWith(track + '/') && named.includes(x.path.split('/')[1]))
          .map((x) => [x.path.slice(track.length + 1), x.to]),
      ),
      ...movedHere(track, named),
      ...(renamed ? { name: renamed } : {}),
    },
  });
  const movedHere = (track: Id, named: Id[]) => {
    const t = arriving.find((x) => x.id === track);
    return Object.fromEntries(
      (t ? devicesIn(t.chain) : [])
        .filter((d) => named.includes(d.id))
        .flatMap((d) => Object.entries(movedParams(adaptations, t!, d)).map(([p, v]) => [`${d.id}/${p}`, v])),
    );
  };
  /** Keys that listen to their own input and sends that stay out because their end was left open. */
  const openEnds = (local: Id, named: Id[], takes: Parts): Record<string, string> => {
    const t = [...c.tracks, ...c.spares].find((x) => x.id === local) ?? c.tracks[0];
    return Object.fromEntries([
      ...devicesIn(t.chain).flatMap((d) =>
        named.includes(d.id) && d.key.kind === 'track' && !(takes.includes('keys') && end(d.key.track))
          ? [[`${d.id}/key`, 'own']]
          : [],
      ),
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
  const sendsFor = (t: Track) =>
    t.sends.flatMap((s) => {
      const to = end(s.to);
      return to ? [{ ...clone(s), id: fresh(s.id, 'snd'), to }] : [];
    });
  for (const [i, s] of spares.entries()) {
    const local = c.spares.find((x) => map[x.id] === s.id);
    if (!local) continue;
    const chain = local.chain.map((d) => slotFor(local, d, false));
    spares[i] = {
      ...s,
      chain,
      ...(remember
        ? {
            origin: rootOrigin(
              local.id,
              local.id,
              [local.id, ...idsIn(local)],
              SPARE_PARTS,
              s.name === local.name ? undefined : s.name,
            ),
          }
        : {}),
    };
  }

  let target: Track | null = null;
  const tracks: Track[] = [];
  if (place.kind !== 'onto') {
    const home: Track['output'] = {
      kind: 'track',
      track: place.kind === 'whole' ? (map[masterIn(c)] ?? master.id) : master.id,
    };
    for (const t of c.tracks) {
      if (staysOut(t)) {
        if (t.chain.length) {
          facts.push(
            `“${session.name}” keeps its own master; the ${t.chain.length === 1 ? 'device' : `${t.chain.length} devices`} of the preset’s stay${t.chain.length === 1 ? 's' : ''} out.`,
          );
        }
        continue;
      }
      const takes = partsOf(preset, t, parts);
      const has = (p: Parts[number]) => takes.includes(p);
      const isMaster = t.role === 'master' && place.kind !== 'whole';
      const name = rename(t.id, t.name);
      const out: Track = {
        ...clone(t),
        id: map[t.id],
        role: isMaster ? 'bus' : t.role,
        name,
        sends: has('sends') ? sendsFor(t) : [],
        chain: has('chain') ? t.chain.map((d) => slotFor(t, d, has('keys'))) : [],
      };
      if (t.role === 'master' && !isMaster) {
        out.output = t.output.kind === 'hardware' ? t.output : { kind: 'none' };
      } else if (t.output.kind === 'track') {
        const to = end(t.output.track);
        out.output = to ? { kind: 'track', track: to } : { kind: 'none' };
      } else if (t.output.kind === 'hardware') {
        const port = portFor('output', t.output.port);
        out.output = port ? { kind: 'hardware', port } : home;
      } else out.output = has('output') && !isMaster ? { kind: 'none' } : home;
      if (t.output.kind === 'midi') out.output = { ...t.output, ...movedAddress(adaptations, t.output) };
      if (t.input.kind === 'midi') out.input = { ...t.input, ...movedAddress(adaptations, t.input) };
      if (t.input.kind === 'track') {
        const from = end(t.input.track);
        out.input = from ? { ...t.input, track: from } : { kind: 'none' };
      } else if (t.input.kind === 'deviceOutput') {
        const x = t.input;
        const from = end(x.track);
        const far = from && trackOf(session, from);
        // an instrument of the session is the first one there that has the output
        const slot = x.slot ? fresh(x.slot, 'dev') : far ? instrumentFor(far, x.output) : null;
        out.input = from && slot ? { ...x, track: from, slot } : { kind: 'none' };
      } else if (t.input.kind === 'hardware') {
        const port = portFor('input', t.input.port);
        out.input = port ? { kind: 'hardware', port } : { kind: 'none' };
      }
      out.folder = t.folder ? end(t.folder) : place.kind === 'new' ? (place.folder ?? null) : null;
      delete out.notes;
      if (has('clips') && t.notes) {
        out.notes = movedNotes(adaptations, t)!.map((k) => ({ ...clone(k), id: fresh(k.id, 'nts') }));
      }
      out.clips = has('clips') ? t.clips.map((k) => ({ ...clone(k), id: fresh(k.id, 'clp') })) : [];
      delete out.automation;
      if (has('automation') && t.automation) {
        out.automation = renewLanes(t.automation, (old) => map[old], fresh);
      }
      if (remember) {
        out.origin = rootOrigin(t.id, t.id, [t.id, ...idsIn(t)], takes, name === t.name ? undefined : name);
      }
      tracks.push(out);
    }
  } else {
    const before = trackOf(session, place.track);
    if (!before) {
      throw new Error('The line that the preset was to be dropped onto is not in this session any more.');
    }
    const t = c.tracks[0];
    const has = (p: Parts[number]) => partsOf(preset, t, parts).includes(p);
    map[t.id] = before.id;
    target = { ...before };
    const whole = place.chain === 'replace';
    if (has('chain')) {
      const chain = t.chain
        .map((d) => slotFor(t, d, has('keys')))
        .map((x, i) =>
          whole || !remember
            ? x
            : {
                ...x,
                origin: rootOrigin(t.chain[i].id, t.id, slotIds([t.chain[i]]), [
                  'chain',
                  ...(has('keys') ? ['keys' as const] : []),
                ]),
              },
        );
      const swapped = place.chain === 'swap' && place.slot ? placeIn(before, place.slot) : null;
      if (place.chain === 'swap' && !swapped) {
        throw new Error('The device or rack that was to be replaced is not on this line any more.');
      }
      const container =
        swapped?.container ?? (place.chain === 'at' ? (place.container ?? before.id) : before.id);
      if (!chainAt(before, container)) {
        throw new Error('The strand that the preset was to be dropped into is not on this line any more.');
      }
      target = withChainAt(before, container, (was) => {
        if (swapped) return was.flatMap((x) => (x.id === place.slot ? chain : [x]));
        const at =
          place.chain === 'at'
            ? Math.min(place.at ?? 0, was.length)
            : place.chain === 'before'
              ? 0
              : was.length;
        return place.chain === 'replace' ? chain : [...was.slice(0, at), ...chain, ...was.slice(at)];
      });
      target = { ...target, chain: dropDeadTies(target.chain) };
    }
    if (has('sends')) {
      const add = sendsFor(t);
      target.sends = [...before.sends.filter((s) => !add.some((x) => x.to === s.to)), ...add];
      const same = before.sends.length - (target.sends.length - add.length);
      if (same > 0) {
        facts.push(
          `${same === 1 ? 'A send' : `${same} sends`} of “${before.name}” to the same place ${same === 1 ? 'takes' : 'take'} the preset’s values.`,
        );
      }
    }
    if (has('level')) Object.assign(target, { level: t.level, polarity: t.polarity });
    if (has('pan')) target.pan = t.pan;
    if (has('output') && before.role !== 'master' && t.output.kind === 'track') {
      const to = end(t.output.track);
      if (to) target.output = { kind: 'track', track: to };
    }
    if (has('colour')) target.colour = t.colour;
    if (has('note')) target.note = t.note;
    if (has('automation') && t.automation) {
      const add = renewLanes(t.automation, (old) => map[old], fresh);
      target.automation = [
        ...(before.automation ?? []).filter((l) => !add.some((x) => x.of === l.of && x.param === l.param)),
        ...add,
      ];
    }
    if (has('name')) {
      const free = freeName(
        t.name,
        session.tracks.filter((x) => x.id !== before.id).map((x) => x.name),
      );
      if (free !== t.name) renames.push({ local: t.id, from: t.name, to: free });
      target.name = free;
    }
    if (whole && has('chain')) {
      if (remember) {
        target.origin = rootOrigin(
          t.id,
          t.id,
          [t.id, ...idsIn(t)],
          partsOf(preset, t, parts),
          has('name') && target.name !== t.name ? target.name : undefined,
        );
      } else delete target.origin;
    }
    if (t.channels !== before.channels && has('chain')) {
      facts.push(
        `The preset was made on a ${width(t.channels)} track; “${before.name}” is ${width(before.channels)}. Every device here plays both.`,
      );
    }
  }
  if (
    [target, ...tracks].some((t) => t?.automation?.length) &&
    parts.includes('automation') &&
    place.kind !== 'whole' &&
    preset.reference.tempo !== session.tempo
  ) {
    facts.push(
      `Automation is kept in seconds: at ${session.tempo} bpm instead of ${preset.reference.tempo} it falls on other beats.`,
    );
  }
  if (preset.reference.sampleRate !== session.sampleRate) {
    facts.push(
      `Saved at ${preset.reference.sampleRate / 1000} kHz, dropped at ${session.sampleRate / 1000} kHz: values are in dB, Hz and ms, so they stay as they are.`,
    );
  }

  const plan: DropPlan = {
    preset: { id: preset.id, version: preset.version, hash: preset.hash, name: preset.name },
    drop,
    place,
    parts,
    ids: map,
    ends,
    tracks,
    spares,
    target,
    renames,
    adaptations,
    standIns,
    ports,
    facts,
    problems,
  };
  try {
    compile(placeDrop(session, plan));
  } catch (e) {
    if (!(e instanceof CompileError)) throw e;
    problems.push({ path: '', rule: 'loop', message: `This drop would make a loop. ${e.message}` });
  }
  return plan;
}

const width = (n: 1 | 2) => (n === 1 ? 'mono' : 'stereo');

/** The session with the plan carried out; shared with applyDrop. */
export function placeDrop(session: Session, plan: DropPlan): Session {
  if (plan.place.kind === 'whole') return { ...session, tracks: plan.tracks };
  let tracks = [...session.tracks];
  if (plan.target) tracks = tracks.map((t) => (t.id === plan.target!.id ? plan.target! : t));
  const draft = { ...session, tracks };
  if (plan.tracks.length && plan.place.kind === 'new') {
    const at = Math.min(
      plan.place.index ?? placeFor(draft, plan.tracks[0].role),
      tracks.findIndex((t) => t.role === 'master'),
    );
    tracks.splice(at, 0, ...plan.tracks);
  }
  for (const s of plan.spares) tracks.splice(placeFor({ ...session, tracks }, s.role), 0, s);
  return { ...session, tracks };
}

const SPARE_PARTS: Parts = ['chain', 'level', 'pan', 'colour', 'note'];
const masterIn = (c: Preset['content']): Id => c.tracks.find((t) => t.role === 'master')?.id ?? '';
const idsIn = (t: Track): Id[] => [...slotIds(t.chain), ...t.sends.map((s) => s.id)];
