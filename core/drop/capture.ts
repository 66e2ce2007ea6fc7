import { DEVICE_TYPES, isUsed } from '../devices/index.ts';
import { clone, hashOf, same } from '../model/json.ts';
import type {
  Id,
  LooseEnd,
  Parts,
  Preset,
  PresetContent,
  PresetReference,
  Requirements,
  Session,
  StarterSettings,
  Track,
} from '../model/types.ts';
import type { MixVersion, PrintPlan } from '../model/print.ts';
import { mediaIn } from '../session/media.ts';
import { headingsUnder } from '../edit/headings.ts';
import { createTrack, trackOf } from '../session/create.ts';
import { planUnder } from '../session/print-plan.ts';
import { unprint } from '../session/print.ts';
import { walkSlots, devicesIn, findSlot } from '../session/slots.ts';
import { kindOf } from './kinds/index.ts';
import { takeSlot } from './parts/chain.ts';
import { IN_CHAIN, PARTS, USUAL_PARTS } from './parts/index.ts';
import type { Taking } from './parts/part.ts';

export interface PresetDraft {
  content: PresetContent;
  reference: PresetReference;
  requirements: Requirements;
  hash: string;
}

export type EndChoice = 'keep' | 'spare' | 'cut';

/** A connection that leaves the selection, and what becomes of it. */
export interface Leaving {
  /** under this name a choice is given: kind and far track */
  key: string;
  kind: LooseEnd['kind'];
  far: Id;
  label: string;
  role: Track['role'];
  /** names of the chosen tracks that it leaves from */
  from: string[];
  canSpare: boolean;
  choice: EndChoice;
}

export interface Captured extends PresetDraft {
  leaving: Leaving[];
  /** id in the session → id in the preset, spares included */
  ids: Record<Id, Id>;
}

export interface CaptureOptions {
  parts?: Parts;
  /** track id → its own choice of parts */
  trackParts?: Record<Id, Parts>;
  /** false: leave the far sides behind; default: returns and buses one step away travel along as spares */
  spares?: boolean;
  /** what becomes of single connections, by the key of `leaving` */
  ends?: Record<string, EndChoice>;
  /** how these lines are printed travels along */
  print?: boolean;
  /** the master may be among the tracks: a whole session is saved */
  whole?: boolean;
}

/**
 * Makes a preset's content from tracks of a session. Connections inside the selection stay connections; every
 * one that leaves it becomes a loose end that names the far side, unless it is cut. Ids become local and
 * depend on the order only, so that capturing the same settings twice gives the same content hash.
 * What was printed is saved as it was before.
 * @throws when nothing was chosen, or the master together with other tracks
 */
export function capture(printed: Session, trackIds: Id[], options: CaptureOptions = {}): Captured {
  const session = unprint(printed);
  const parts = options.parts ?? USUAL_PARTS;
  const wanted = new Set(trackIds);
  const chosen = session.tracks.filter((t) => wanted.has(t.id));
  if (chosen.length === 0) throw new Error('Choose at least one track to save.');
  if (!options.whole && chosen.length > 1 && chosen.some((t) => t.role === 'master')) {
    throw new Error(
      'The master can be saved alone, or with everything as a starter, but not among other tracks.',
    );
  }
  const x = beginCapture(session, chosen, options);
  const tracks = chosen.map((t) => takeTrack(t, x, options.trackParts?.[t.id] ?? parts));
  for (const t of tracks) for (const p of PARTS) p.settle?.(t, x);
  const own = chosen.flatMap((t) => {
    const choice = options.trackParts?.[t.id];
    return choice && !same(choice, parts) ? [[x.ids[t.id], [...choice]] as [Id, Parts]] : [];
  });
  const used = mediaIn([...tracks, ...x.spares]);
  const content: PresetContent = {
    tracks,
    parts: [...parts],
    looseEnds: x.ends,
    spares: x.spares,
    media: session.media.filter((m) => used.has(m.id)).map(clone),
    ...(own.length ? { trackParts: Object.fromEntries(own) } : {}),
  };
  if (options.whole) content.session = settingsOf(session, x.ids);
  else if (options.print) Object.assign(content, ofTheseLines(session.print, x.ids));
  return {
    content,
    reference: { tempo: session.tempo, sampleRate: session.sampleRate },
    requirements: requirementsOf(content),
    hash: hashOf(content),
    leaving: x.leaving,
    ids: x.ids,
  };
}

/** What a print plan says of some lines; versions that differ from the mix elsewhere only are left out. */
function ofTheseLines(print: PrintPlan | undefined, ids: Record<Id, Id>): Pick<PresetContent, 'print'> {
  if (!print) return {};
  const plan = planUnder(print, ids);
  const differs = (v: MixVersion) => v.muted.length > 0 || Object.keys(v.levels).length > 0;
  const versions = plan.versions.filter(differs);
  return plan.stems.length || versions.length ? { print: { ...plan, versions } } : {};
}

/** A capture while it goes on: what was numbered, and what leaves. */
interface Capturing {
  options: CaptureOptions;
  inside: ReadonlySet<Id>;
  byId: ReadonlyMap<Id, Track>;
  ids: Record<Id, Id>;
  ends: LooseEnd[];
  spares: Track[];
  leaving: Leaving[];
  /** what stands for a connection that leaves, by its key; null: cut */
  standsFor: Map<string, Id | null>;
  spareOfFar: Map<Id, Id>;
  count: (prefix: string) => Id;
  named: (old: Id, prefix: string) => Id;
}

function beginCapture(session: Session, chosen: Track[], options: CaptureOptions): Capturing {
  const ids: Record<Id, Id> = Object.fromEntries(chosen.map((t, i) => [t.id, `t${i + 1}`]));
  const count = counter();
  return {
    options,
    inside: new Set(chosen.map((t) => t.id)),
    byId: new Map(session.tracks.map((t) => [t.id, t])),
    ids,
    ends: [],
    spares: [],
    leaving: [],
    standsFor: new Map(),
    spareOfFar: new Map(),
    count,
    named: (old, prefix) => (ids[old] = count(prefix)),
  };
}

function counter(): (prefix: string) => Id {
  const n: Record<string, number> = {};
  return (p) => `${p}${(n[p] = (n[p] ?? 0) + 1)}`;
}

function takeTrack(t: Track, x: Capturing, parts: Parts): Track {
  const plain = createTrack(t.role, { id: x.ids[t.id], channels: t.channels });
  const out: Track = { ...plain, name: t.name, soloSafe: t.soloSafe, state: t.state };
  const c: Taking = {
    has: (part) => parts.includes(part),
    tie: (kind, far) => tieFrom(t, kind, far, x),
    named: x.named,
    ids: x.ids,
    inChain: IN_CHAIN,
  };
  for (const p of PARTS) if (c.has(p.id)) p.take?.(t, out, c);
  if (x.options.whole && t.inputTrim) out.inputTrim = t.inputTrim;
  return out;
}

/** The id that stands for a track: its own inside, a loose end's outside, null when it is cut or gone. */
function tieFrom(own: Track, kind: LooseEnd['kind'], id: Id, x: Capturing): Id | null {
  if (x.inside.has(id)) return x.ids[id];
  const far = x.byId.get(id);
  if (!far) return null;
  const key = `${kind}:${id}`;
  const known = x.leaving.find((l) => l.key === key);
  if (!known) x.standsFor.set(key, endFor(own, kind, far, x));
  else if (!known.from.includes(own.name)) known.from.push(own.name);
  return x.standsFor.get(key)!;
}

/** A new loose end to a track outside, with its spare where one travels along. */
function endFor(own: Track, kind: LooseEnd['kind'], far: Track, x: Capturing): Id | null {
  const key = `${kind}:${far.id}`;
  const canSpare = far.role === 'return' || far.role === 'bus';
  const usual: EndChoice = canSpare && x.options.spares !== false ? 'spare' : 'keep';
  const choice = x.options.ends?.[key] ?? usual;
  const { name: label, role, channels } = far;
  x.leaving.push({ key, kind, far: far.id, label, role, from: [own.name], canSpare, choice });
  if (choice === 'cut') return null;
  const end: LooseEnd = { id: x.count('end'), kind, track: x.ids[own.id], label, role, channels };
  if (choice === 'spare' && canSpare) end.spare = spareFor(far, x);
  x.ends.push(end);
  return end.id;
}

function spareFor(far: Track, x: Capturing): Id {
  const known = x.spareOfFar.get(far.id);
  if (known) return known;
  const spare = spareOf(far, x);
  x.spares.push(spare);
  x.spareOfFar.set(far.id, spare.id);
  return spare.id;
}

/**
 * A copy of a bus or return that stands on its own: no sends, no keys from elsewhere, no clips; its output
 * goes to the master where it lands.
 */
function spareOf(t: Track, x: Capturing): Track {
  const out = clone(t);
  delete out.origin;
  delete out.automation;
  const c: Taking = { has: () => false, tie: () => null, named: x.named, ids: x.ids, inChain: IN_CHAIN };
  return {
    ...out,
    id: x.named(t.id, 'spare'),
    chain: t.chain.map((s) => takeSlot(s, c)),
    sends: [],
    clips: [],
    folder: null,
    input: { kind: 'none' },
    output: { kind: 'none' },
    mute: false,
    solo: false,
  };
}

const EVERYTHING = PARTS.map((part) => part.id);

/**
 * A whole session as a starter: its settings and every track, the master too. Sounds stay behind unless asked
 * for.
 */
export const captureStarter = (session: Session, clips = false): Captured =>
  capture(
    session,
    session.tracks.map((t) => t.id),
    { whole: true, parts: clips ? EVERYTHING : EVERYTHING.filter((part) => part !== 'clips') },
  );

const settingsOf = (s: Session, ids: Record<Id, Id>): StarterSettings => ({
  sampleRate: s.sampleRate,
  bitDepth: s.bitDepth,
  tempo: s.tempo,
  meter: [...s.meter],
  panLaw: s.panLaw,
  setupId: s.setupId,
  note: s.note,
  ...(s.setup ? { setup: clone(s.setup) } : {}),
  ...(s.print ? { print: planUnder(s.print, ids) } : {}),
  ...(s.headings ? { headings: headingsUnder(s.headings, ids) } : {}),
});

/**
 * Makes a *device* or *rack* preset's content from one slot of a chain, or a *patch* from one that goes through units
 * of hardware: a track with nothing but that slot.
 * Keys from elsewhere become loose ends.
 * @throws when the slot is not on the track
 */
export function captureSlot(
  session: Session,
  trackId: Id,
  slotId: Id,
): Captured & { kind: 'device' | 'rack' | 'patch' } {
  const t = trackOf(session, trackId);
  const slot = t && findSlot(t.chain, slotId);
  if (!t || !slot) throw new Error('The device is not on this line any more.');
  const carrier: Track = {
    ...createTrack(t.role === 'master' ? 'bus' : t.role, {
      id: t.id,
      name: slot.name,
      channels: t.channels,
      colour: t.colour,
    }),
    chain: [{ ...slot, state: 'on' }],
  };
  const isPatch = slot.kind === 'device' && slot.hardware !== undefined;
  const leaves = [...walkSlots([slot])].some((x) => x.kind === 'device' && x.hardware !== undefined);
  const parts: Parts = leaves ? ['chain', 'keys', 'hardware'] : ['chain', 'keys'];
  const draft = capture(
    { ...session, tracks: session.tracks.map((x) => (x.id === t.id ? carrier : x)) },
    [t.id],
    { parts, spares: false },
  );
  return { ...draft, kind: isPatch ? 'patch' : slot.kind };
}

/** A preset from a draft; `over` brings name, category, id, version. */
export function createPreset(
  { content, reference, requirements, hash }: PresetDraft,
  over: Pick<Preset, 'id' | 'name'> & Partial<Preset>,
): Preset {
  return {
    format: 'rope-shelf/preset',
    kind: kindOf(content),
    category: '',
    tags: [],
    colour: content.tracks[0].colour,
    note: content.tracks[0].note,
    version: 1,
    parent: null,
    content,
    reference,
    requirements,
    hash,
    ...over,
  };
}

/** What a session needs to play this content. */
export function requirementsOf(c: PresetContent): Requirements {
  const devices = [...c.tracks, ...c.spares].flatMap((t) => devicesIn(t.chain));
  const tops = devices.flatMap((d) =>
    (DEVICE_TYPES[d.type]?.params ?? [])
      .filter((p) => p.unit === 'Hz' && isUsed(d, p.id))
      .map((p) => d.params[p.id] as number),
  );
  return {
    devices: [...new Set(devices.map((d) => d.type))].sort(),
    foreign: [...new Set(devices.flatMap((d) => (d.foreign ? [d.foreign.identifier] : [])))].sort(),
    channels: [...new Set(c.tracks.map((t) => t.channels))].sort(),
    topFrequency: Math.max(0, ...tops),
  };
}
