import { DEVICE_TYPES } from '../devices/index.ts';
import { createTrack, trackOf } from '../session/create.ts';
import { clone, hashOf, same } from '../model/json.ts';
import { unprint } from '../session/print.ts';
import { devicesIn, findSlot, mapSlots, renewLanes, renewSlot, slotIds } from '../session/slots.ts';
import type {
  Device,
  Id,
  LooseEnd,
  Parts,
  Preset,
  PresetContent,
  Requirements,
  Session,
  Slot,
  StarterSettings,
  Track,
} from '../model/types.ts';
import { SONG_PARTS, USUAL_PARTS } from './parts.ts';

export interface PresetDraft {
  content: PresetContent;
  reference: { tempo: number; sampleRate: number };
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
  /** the master may be among the tracks: a whole session is saved */
  whole?: boolean;
}

/**
 * Makes a preset's content from tracks of a session. Connections inside the selection stay connections; every
 * one that leaves it becomes a loose end that names the far side, unless it is cut. Ids become
 * local and depend on the order only, so that capturing the same settings twice gives the same content hash.
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
  const byId = new Map(session.tracks.map((t) => [t.id, t]));
  const ids: Record<Id, Id> = Object.fromEntries(chosen.map((t, i) => [t.id, `t${i + 1}`]));
  const inside = new Set(chosen.map((t) => t.id));
  const ends: LooseEnd[] = [];
  const spares: Track[] = [];
  const leaving: Leaving[] = [];
  const made = new Map<string, Id | null>();
  const spareOfFar = new Map<Id, Id>();
  const count = counter();
  const named = (old: Id, prefix: string) => (ids[old] = count(prefix));

  /** The id that stands for a track: its own inside, a loose end's outside, null when it is cut or gone. */
  const tie = (kind: LooseEnd['kind'], id: Id, own: Track): Id | null => {
    if (inside.has(id)) return ids[id];
    const far = byId.get(id);
    if (!far) return null;
    const key = `${kind}:${id}`;
    const known = leaving.find((x) => x.key === key);
    if (known) {
      if (!known.from.includes(own.name)) known.from.push(own.name);
      return made.get(key)!;
    }
    const canSpare = far.role === 'return' || far.role === 'bus';
    const choice = options.ends?.[key] ?? (canSpare && options.spares !== false ? 'spare' : 'keep');
    leaving.push({ key, kind, far: id, label: far.name, role: far.role, from: [own.name], canSpare, choice });
    if (choice === 'cut') {
      made.set(key, null);
      return null;
    }
    const end: LooseEnd = {
      id: count('end'),
      kind,
      track: ids[own.id],
      label: far.name,
      role: far.role,
      channels: far.channels,
    };
    if (choice === 'spare' && canSpare) {
      let spare = spareOfFar.get(id);
      if (!spare) {
        const copy = spareOf(far, named);
        spares.push(copy);
        spareOfFar.set(id, (spare = copy.id));
      }
      end.spare = spare;
    }
    ends.push(end);
    made.set(key, end.id);
    return end.id;
  };

  const trackParts: Record<Id, Parts> = {};
  const tracks = chosen.map((t): Track => {
    const own = options.trackParts?.[t.id];
    if (own && !same(own, parts)) trackParts[ids[t.id]] = [...own];
    const has = (p: Parts[number]) => (own ?? parts).includes(p);
    const out: Track = { ...createTrack(t.role, { id: ids[t.id], channels: t.channels }), name: t.name };
    if (has('chain')) {
      out.chain = t.chain.map((d) => localSlot(d, named, (k) => (has('keys') ? tie('key', k, t) : null)));
    }
    if (has('sends')) {
      out.sends = t.sends.flatMap((s) => {
        const to = tie('send', s.to, t);
        return to ? [{ ...clone(s), id: named(s.id, 'snd'), to }] : [];
      });
    }
    if (has('level')) Object.assign(out, { level: t.level, polarity: t.polarity });
    if (has('pan')) out.pan = t.pan;
    if (has('output')) {
      const to = t.output.kind === 'track' ? tie('output', t.output.track, t) : null;
      out.output =
        t.output.kind !== 'track' ? clone(t.output) : to ? { kind: 'track', track: to } : { kind: 'none' };
    }
    if (has('input')) {
      const far = t.input.kind === 'track' || t.input.kind === 'deviceOutput' ? t.input : null;
      const from = far ? tie('input', far.track, t) : null;
      out.input = !far ? clone(t.input) : from ? { ...far, track: from } : { kind: 'none' };
    }
    if (has('folder') && t.folder) out.folder = tie('folder', t.folder, t);
    if (has('colour')) out.colour = t.colour;
    if (has('note')) out.note = t.note;
    out.soloSafe = t.soloSafe;
    out.state = t.state;
    if (has('clips')) {
      out.clips = t.clips.map((c) => ({ ...clone(c), id: named(c.id, 'clp') }));
      if (t.notes?.length) out.notes = t.notes.map((c) => ({ ...clone(c), id: named(c.id, 'nts') }));
    }
    if (has('automation') && t.automation?.length) {
      out.automation = renewLanes(
        t.automation,
        (old) =>
          old === t.id
            ? out.id
            : [...slotIds(t.chain), ...t.sends.map((s) => s.id)].includes(old)
              ? ids[old]
              : undefined,
        named,
      );
    }
    return out;
  });
  // an instrument that stays outside is known by its track alone
  for (const t of tracks) {
    if (t.input.kind === 'deviceOutput') {
      t.input = { ...t.input, slot: t.input.track.startsWith('end') ? '' : (ids[t.input.slot] ?? '') };
    }
  }
  const used = new Set(tracks.flatMap((t) => t.clips.map((c) => c.media)));
  const content: PresetContent = {
    tracks,
    parts: [...parts],
    looseEnds: ends,
    spares,
    media: session.media.filter((m) => used.has(m.id)).map(clone),
    ...(Object.keys(trackParts).length ? { trackParts } : {}),
  };
  if (options.whole) content.session = settingsOf(session);
  return {
    content,
    reference: { tempo: session.tempo, sampleRate: session.sampleRate },
    requirements: requirementsOf(content),
    hash: hashOf(content),
    leaving,
    ids,
  };
}

/**
 * A whole session as a starter: its settings and every track, the master too. Sounds stay behind unless asked
 * for.
 */
export const captureStarter = (session: Session, clips = false): Captured =>
  capture(
    session,
    session.tracks.map((t) => t.id),
    { whole: true, parts: clips ? [...USUAL_PARTS, ...SONG_PARTS] : USUAL_PARTS },
  );

const settingsOf = (s: Session): StarterSettings => ({
  sampleRate: s.sampleRate,
  bitDepth: s.bitDepth,
  tempo: s.tempo,
  meter: [...s.meter],
  panLaw: s.panLaw,
  setupId: s.setupId,
  note: s.note,
  ...(s.setup ? { setup: clone(s.setup) } : {}),
});

/**
 * Makes a *device* or *rack* preset's content from one slot of a chain: a track with nothing but that slot.
 * Keys from elsewhere become loose ends.
 * @throws when the slot is not on the track
 */
export function captureSlot(
  session: Session,
  trackId: Id,
  slotId: Id,
): Captured & { kind: 'device' | 'rack' } {
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
  const draft = capture(
    { ...session, tracks: session.tracks.map((x) => (x.id === t.id ? carrier : x)) },
    [t.id],
    { parts: ['chain', 'keys'], spares: false },
  );
  return { ...draft, kind: slot.kind };
}

/** A preset from a draft; `over` brings name, category, id, version. */
export function createPreset(
  { content, reference, requirements, hash }: PresetDraft,
  over: Pick<Preset, 'id' | 'name'> & Partial<Preset>,
): Preset {
  return {
    format: 'rope-shelf/preset',
    kind: content.session ? 'starter' : content.tracks.length > 1 ? 'rig' : 'strip',
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

function counter(): (prefix: string) => Id {
  const n: Record<string, number> = {};
  return (p) => `${p}${(n[p] = (n[p] ?? 0) + 1)}`;
}

/**
 * A slot with local ids, without its origin; keys go through `key`, which gives a track's or a loose end's
 * id, or nothing.
 */
function localSlot(slot: Slot, named: (old: Id, prefix: string) => Id, key: (id: Id) => Id | null): Slot {
  return mapSlots([renewSlot(clone(slot), named)], (s) => {
    const out = { ...s };
    delete out.origin;
    if (out.kind === 'device' && out.key.kind === 'track') {
      const end = key(out.key.track);
      out.key = end ? { ...out.key, track: end } : { kind: 'own' };
    }
    return out;
  })[0];
}

/**
 * A copy of a bus or return that stands on its own: no sends, no keys from elsewhere, no clips; its output
 * goes to the master where it lands.
 */
function spareOf(t: Track, named: (old: Id, prefix: string) => Id): Track {
  const out = clone(t);
  delete out.origin;
  delete out.automation;
  return {
    ...out,
    id: named(t.id, 'spare'),
    chain: t.chain.map((d) => localSlot(d, named, () => null)),
    sends: [],
    clips: [],
    folder: null,
    input: { kind: 'none' },
    output: { kind: 'none' },
    mute: false,
    solo: false,
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

/** Values that are switched off with their band say nothing about the sound. */
export const isUsed = (d: Device, param: string): boolean =>
  DEVICE_TYPES[d.type]?.used?.(d.params, param) ?? true;
