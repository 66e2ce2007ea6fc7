import { DEVICE_TYPES } from '../devices/index.ts';
import { createTrack, trackOf } from '../model/create.ts';
import { clone, hashOf } from '../model/json.ts';
import { devicesIn, findSlot, mapSlots, renewSlot } from '../model/slots.ts';
import type { Device, Id, LooseEnd, Parts, Preset, PresetContent, Requirements, Session, Slot, Track } from '../model/types.ts';
import { USUAL_PARTS } from './parts.ts';

export interface PresetDraft {
  content: PresetContent;
  reference: { tempo: number; sampleRate: number };
  requirements: Requirements;
  hash: string;
}

export interface CaptureOptions {
  parts?: Parts;
  /** false: leave the far sides behind; default: returns and buses one step away travel along as spares */
  spares?: boolean;
}

/**
 * Makes a preset's content from tracks of a session. Connections inside the selection stay connections; every one that leaves it becomes a loose end that names the far
 * side. Ids become local and depend on the order only, so that capturing the same settings twice gives the same content hash.
 */
export function capture(session: Session, trackIds: Id[], options: CaptureOptions = {}): PresetDraft {
  const parts = options.parts ?? USUAL_PARTS;
  const chosen = session.tracks.filter((t) => trackIds.includes(t.id));
  if (chosen.length === 0) throw new Error('Choose at least one track to save.');
  if (chosen.some((t) => t.role === 'master' && chosen.length > 1)) throw new Error('The master cannot be saved together with other tracks as a strip.');
  const local = new Map<Id, Id>(chosen.map((t, i) => [t.id, `t${i + 1}`]));
  const ends: LooseEnd[] = [];
  const spares: Track[] = [];
  const names = counter();

  const endFor = (kind: LooseEnd['kind'], far: Track): Id => {
    const known = ends.find((e) => e.kind === kind && e.label === far.name && e.role === far.role);
    if (known) return known.id;
    const end: LooseEnd = { id: names('end'), kind, track: '', label: far.name, role: far.role, channels: far.channels };
    if (options.spares !== false && (far.role === 'return' || far.role === 'bus')) {
      let spare = spares.find((s) => s.name === far.name && s.role === far.role);
      if (!spare) spares.push((spare = spareOf(far, names)));
      end.spare = spare.id;
    }
    ends.push(end);
    return end.id;
  };
  const tie = (kind: LooseEnd['kind'], id: Id, own: Id): Id => {
    const inside = local.get(id);
    if (inside) return inside;
    const far = trackOf(session, id);
    const end = far ? endFor(kind, far) : '';
    const e = ends.find((x) => x.id === end);
    if (e && !e.track) e.track = local.get(own)!;
    return end;
  };

  const tracks = chosen.map((t): Track => {
    const has = (p: Parts[number]) => parts.includes(p);
    const base = createTrack(t.role, { id: local.get(t.id)!, channels: t.channels });
    const out: Track = { ...base, name: t.name };
    if (has('chain')) out.chain = t.chain.map((d) => localSlot(d, names, (k) => (has('keys') ? tie('key', k, t.id) : '')));
    if (has('sends')) out.sends = t.sends.map((s) => ({ ...clone(s), id: names('snd'), to: tie('send', s.to, t.id) }));
    if (has('level')) Object.assign(out, { level: t.level, polarity: t.polarity });
    if (has('pan')) out.pan = t.pan;
    if (has('output') && t.output.kind === 'track') out.output = { kind: 'track', track: tie('output', t.output.track, t.id) };
    else if (has('output')) out.output = clone(t.output);
    if (has('input')) out.input = t.input.kind === 'track' ? { ...t.input, track: tie('input', t.input.track, t.id) } : clone(t.input);
    if (has('folder') && t.folder) out.folder = tie('folder', t.folder, t.id);
    if (has('colour')) out.colour = t.colour;
    if (has('note')) out.note = t.note;
    out.soloSafe = t.soloSafe;
    out.state = t.state;
    if (has('clips')) out.clips = t.clips.map((c) => ({ ...clone(c), id: names('clp') }));
    return out;
  });
  const used = new Set(tracks.flatMap((t) => t.clips.map((c) => c.media)));
  const content: PresetContent = { tracks, parts: [...parts], looseEnds: ends, spares, media: session.media.filter((m) => used.has(m.id)).map(clone) };
  return { content, reference: { tempo: session.tempo, sampleRate: session.sampleRate }, requirements: requirementsOf(content), hash: hashOf(content) };
}

/**
 * Makes a *device* or *rack* preset's content from one slot of a chain: a track with nothing but that slot. Keys from elsewhere become loose ends.
 * @throws when the slot is not on the track
 */
export function captureSlot(session: Session, trackId: Id, slotId: Id): PresetDraft & { kind: 'device' | 'rack' } {
  const t = trackOf(session, trackId);
  const slot = t && findSlot(t.chain, slotId);
  if (!t || !slot) throw new Error('The device is not on this line any more.');
  const carrier: Track = { ...createTrack(t.role === 'master' ? 'bus' : t.role, { id: t.id, name: slot.name, channels: t.channels, colour: t.colour }), chain: [{ ...slot, state: 'on' }] };
  const draft = capture({ ...session, tracks: session.tracks.map((x) => (x.id === t.id ? carrier : x)) }, [t.id], { parts: ['chain', 'keys'], spares: false });
  return { ...draft, kind: slot.kind };
}

/** A preset from a draft; `over` brings name, category, id, version. */
export function createPreset(draft: PresetDraft, over: Pick<Preset, 'id' | 'name'> & Partial<Preset>): Preset {
  return {
    format: 'rope-shelf/preset', kind: 'strip', category: '', tags: [], colour: draft.content.tracks[0].colour, note: draft.content.tracks[0].note, version: 1, parent: null,
    ...draft, ...over,
  };
}

function counter(): (prefix: string) => Id {
  const n: Record<string, number> = {};
  return (p) => `${p}${(n[p] = (n[p] ?? 0) + 1)}`;
}

/** A slot with local ids, without its origin; keys go through `key`, which gives a loose end or nothing. */
function localSlot(slot: Slot, names: (p: string) => Id, key: (id: Id) => Id): Slot {
  return mapSlots([renewSlot(clone(slot), (_old, prefix) => names(prefix))], (s) => {
    const out = { ...s };
    delete out.origin;
    if (out.kind === 'device' && out.key.kind === 'track') {
      const end = key(out.key.track);
      out.key = end ? { ...out.key, track: end } : { kind: 'own' };
    }
    return out;
  })[0];
}

/** A copy of a bus or return that stands on its own: no sends, no keys from elsewhere, no clips; its output goes to the master where it lands. */
function spareOf(t: Track, names: (p: string) => Id): Track {
  const out = clone(t);
  delete out.origin;
  return { ...out, id: names('spare'), chain: t.chain.map((d) => localSlot(d, names, () => '')), sends: [], clips: [], folder: null, input: { kind: 'none' }, output: { kind: 'none' }, mute: false, solo: false };
}

/** What a session needs to play this content. */
export function requirementsOf(c: PresetContent): Requirements {
  const devices = [...c.tracks, ...c.spares].flatMap((t) => devicesIn(t.chain));
  const tops = devices.flatMap((d) => (DEVICE_TYPES[d.type]?.params ?? []).filter((p) => p.unit === 'Hz' && isUsed(d, p.id)).map((p) => d.params[p.id] as number));
  return {
    devices: [...new Set(devices.map((d) => d.type))].sort(),
    foreign: [...new Set(devices.flatMap((d) => (d.foreign ? [d.foreign.identifier] : [])))].sort(),
    channels: [...new Set(c.tracks.map((t) => t.channels))].sort(),
    topFrequency: Math.max(0, ...tops),
  };
}

/** Values that are switched off with their band say nothing about the sound. */
export const isUsed = (d: Device, param: string): boolean => DEVICE_TYPES[d.type]?.used?.(d.params, param) ?? true;
