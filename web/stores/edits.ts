import {
  DEVICE_TYPES, DUPLICATE_PARTS, clone, createDevice, createSend, createTrack, freeName, masterOf, placeFor, randomIds,
  type Clip, type Device, type Id, type ParamValue, type Role, type Send, type Session, type SlotState, type Track,
} from '../../core/index.ts';

/** Edits of a session as pure functions: a session in, a new one out, everything that did not change shared. */
export type Edit = (s: Session) => Session;

export const onTrack = (id: Id, change: Partial<Track> | ((t: Track) => Partial<Track>)): Edit => (s) =>
  ({ ...s, tracks: s.tracks.map((t) => (t.id === id ? { ...t, ...(typeof change === 'function' ? change(t) : change) } : t)) });

export const onDevice = (track: Id, device: Id, change: Partial<Device> | ((d: Device) => Partial<Device>)): Edit =>
  onTrack(track, (t) => ({ chain: t.chain.map((d) => (d.id === device ? { ...d, ...(typeof change === 'function' ? change(d) : change) } : d)) }));

export const setParam = (track: Id, device: Id, param: string, value: ParamValue): Edit => onDevice(track, device, (d) => ({ params: { ...d.params, [param]: value } }));
export const setParams = (track: Id, device: Id, values: Record<string, ParamValue>): Edit => onDevice(track, device, (d) => ({ params: { ...d.params, ...values } }));
export const setState = (track: Id, device: Id, state: SlotState): Edit => onDevice(track, device, { state });

export const onSend = (track: Id, send: Id, change: Partial<Send>): Edit => onTrack(track, (t) => ({ sends: t.sends.map((x) => (x.id === send ? { ...x, ...change } : x)) }));
export const addSend = (track: Id, to: Id): Edit => onTrack(track, (t) => ({ sends: [...t.sends, createSend(to, { level: -18 })] }));
export const removeSend = (track: Id, send: Id): Edit => onTrack(track, (t) => ({ sends: t.sends.filter((x) => x.id !== send) }));

export function addTrack(role: Role, over: Partial<Track> = {}, at?: number): { edit: Edit; id: Id } {
  const id = randomIds('trk');
  return {
    id,
    edit: (s) => {
      const t = createTrack(role, { output: { kind: 'track', track: masterOf(s).id }, ...over, id });
      t.name = freeName(over.name ?? t.name, s.tracks.map((x) => x.name));
      const tracks = [...s.tracks];
      tracks.splice(Math.min(at ?? placeFor(s, role), s.tracks.findIndex((x) => x.role === 'master')), 0, t);
      return { ...s, tracks };
    },
  };
}

/** A copy beside the original with the usual parts; sounds come along too when asked. */
export function duplicateTrack(id: Id, withClips: boolean): { edit: Edit; id: Id } {
  const fresh = randomIds('trk');
  return {
    id: fresh,
    edit: (s) => {
      const i = s.tracks.findIndex((t) => t.id === id);
      const t = s.tracks[i];
      const copy: Track = { ...clone(t), id: fresh, name: freeName(t.name, s.tracks.map((x) => x.name)), solo: false };
      copy.chain = copy.chain.map((d) => ({ ...d, id: randomIds('dev') }));
      copy.sends = DUPLICATE_PARTS.includes('sends') ? copy.sends.map((x) => ({ ...x, id: randomIds('snd') })) : [];
      copy.clips = withClips ? copy.clips.map((c) => ({ ...c, id: randomIds('clp') })) : [];
      const tracks = [...s.tracks];
      tracks.splice(i + 1, 0, copy);
      return { ...s, tracks };
    },
  };
}

/** Removes a track; whatever pointed to it is led on to where it went itself, sends and keys from and to it go. */
export const removeTrack = (id: Id): Edit => (s) => {
  const gone = s.tracks.find((t) => t.id === id);
  if (!gone || gone.role === 'master') return s;
  return {
    ...s,
    tracks: s.tracks.filter((t) => t.id !== id).map((t) => {
      let out = t;
      if (t.output.kind === 'track' && t.output.track === id) out = { ...out, output: gone.output.kind === 'track' ? gone.output : { kind: 'track', track: masterOf(s).id } };
      if (t.folder === id) out = { ...out, folder: gone.folder };
      if (t.input.kind === 'track' && t.input.track === id) out = { ...out, input: { kind: 'none' } };
      if (t.sends.some((x) => x.to === id)) out = { ...out, sends: t.sends.filter((x) => x.to !== id) };
      if (t.chain.some((d) => d.key.kind === 'track' && d.key.track === id)) out = { ...out, chain: t.chain.map((d) => (d.key.kind === 'track' && d.key.track === id ? { ...d, key: { kind: 'own' } } : d)) };
      return out;
    }),
    ...(s.lastTies ? { lastTies: Object.fromEntries(Object.entries(s.lastTies).filter(([, v]) => v !== id)) } : {}),
  };
};

/** Moves a track before another (null: to the end, above the master). */
export const moveTrack = (id: Id, before: Id | null): Edit => (s) => {
  const t = s.tracks.find((x) => x.id === id);
  if (!t || id === before || t.role === 'master') return s;
  const rest = s.tracks.filter((x) => x.id !== id);
  const at = before ? rest.findIndex((x) => x.id === before) : rest.length;
  const limit = rest.findIndex((x) => x.role === 'master');
  rest.splice(Math.min(at < 0 ? limit : at, limit), 0, t);
  return { ...s, tracks: rest };
};

export function addDevice(track: Id, type: string, at?: number): { edit: Edit; id: Id } {
  const id = randomIds('dev');
  return { id, edit: onTrack(track, (t) => { const chain = [...t.chain]; chain.splice(at ?? chain.length, 0, createDevice(type, {}, { id, name: DEVICE_TYPES[type].label })); return { chain }; }) };
}

export const removeDevice = (track: Id, device: Id): Edit => onTrack(track, (t) => ({ chain: t.chain.filter((d) => d.id !== device) }));

/** Moves a device to a place in a chain, its own or another track's. */
export const moveDevice = (from: Id, device: Id, to: Id, at: number): Edit => (s) => {
  const d = s.tracks.find((t) => t.id === from)?.chain.find((x) => x.id === device);
  if (!d) return s;
  const old = s.tracks.find((t) => t.id === from)!.chain.findIndex((x) => x.id === device);
  const place = from === to && at > old ? at - 1 : at;
  return { ...s, tracks: s.tracks.map((t) => {
    let chain = t.id === from ? t.chain.filter((x) => x.id !== device) : t.chain;
    if (t.id === to) { chain = [...chain]; chain.splice(place, 0, d); }
    return chain === t.chain ? t : { ...t, chain };
  }) };
};

export function duplicateDevice(track: Id, device: Id): { edit: Edit; id: Id } {
  const id = randomIds('dev');
  return { id, edit: onTrack(track, (t) => ({ chain: t.chain.flatMap((d) => (d.id === device ? [d, { ...clone(d), id }] : [d])) })) };
}

export const setClips = (track: Id, clips: Clip[], media: Session['media']): Edit => (s) =>
  onTrack(track, { clips })({ ...s, media: [...s.media, ...media.filter((m) => !s.media.some((x) => x.id === m.id))] });

/** Where a track may send to or go out to without feeding itself. */
export function destinations(s: Session, from: Track, forSend: boolean): Track[] {
  const feeds = (a: Id, b: Id, seen = new Set<Id>()): boolean => {
    if (a === b) return true;
    if (seen.has(a)) return false;
    seen.add(a);
    const t = s.tracks.find((x) => x.id === a);
    return !!t && ((t.output.kind === 'track' && feeds(t.output.track, b, seen)) || t.sends.some((x) => feeds(x.to, b, seen)));
  };
  return s.tracks.filter((t) => (forSend ? ['bus', 'return', 'folder'] : ['bus', 'return', 'folder', 'master']).includes(t.role) && !feeds(t.id, from.id));
}
