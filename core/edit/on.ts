import { bringMedia } from '../session/media.ts';
import { mapSlots } from '../session/slots.ts';
import { turnOnLine } from '../session/handles.ts';
import type {
  Device,
  Handle,
  Id,
  Lane,
  MediaRef,
  ParamValue,
  Rack,
  Send,
  Session,
  Slot,
  SlotState,
  Strand,
  Track,
} from '../model/types.ts';

/**
 * Edits of a session as pure functions: a session in, a new one out, everything that did not change shared.
 */
export type Edit = (s: Session) => Session;

export const onTrack =
  (id: Id, change: Partial<Track> | ((t: Track) => Partial<Track>)): Edit =>
  (s) => ({
    ...s,
    tracks: s.tracks.map((t) =>
      t.id === id ? { ...t, ...(typeof change === 'function' ? change(t) : change) } : t,
    ),
  });

/** Changes one slot wherever it stands in a track's chain, inside racks too. */
export const onSlot = (track: Id, slot: Id, change: (s: Slot) => Slot): Edit =>
  onTrack(track, (t) => ({ chain: mapSlots(t.chain, (x) => (x.id === slot ? change(x) : x)) }));

export const onDevice = (
  track: Id,
  device: Id,
  change: Partial<Device> | ((d: Device) => Partial<Device>),
): Edit =>
  onSlot(track, device, (d) =>
    d.kind === 'device' ? { ...d, ...(typeof change === 'function' ? change(d) : change) } : d,
  );

export const onRack = (track: Id, rack: Id, change: Partial<Rack> | ((r: Rack) => Partial<Rack>)): Edit =>
  onSlot(track, rack, (r) =>
    r.kind === 'rack' ? { ...r, ...(typeof change === 'function' ? change(r) : change) } : r,
  );

export const onStrand = (track: Id, rack: Id, strand: Id, change: Partial<Strand>): Edit =>
  onRack(track, rack, (r) => ({
    strands: r.strands.map((x) => (x.id === strand ? { ...x, ...change } : x)),
  }));

export const onHandle = (track: Id, rack: Id, handle: Id, change: Partial<Handle>): Edit =>
  onRack(track, rack, (r) => ({
    handles: r.handles.map((x) => (x.id === handle ? { ...x, ...change } : x)),
  }));

export const turnHandle = (track: Id, handle: Id, value: number): Edit =>
  onTrack(track, (t) => turnOnLine(t, handle, value));

export const setParam = (track: Id, device: Id, param: string, value: ParamValue): Edit =>
  onDevice(track, device, (d) => ({ params: { ...d.params, [param]: value } }));

export const setParams = (track: Id, device: Id, values: Record<string, ParamValue>): Edit =>
  onDevice(track, device, (d) => ({ params: { ...d.params, ...values } }));

/** A device plays with another sound from here on; the session has it then, too. */
export const setPlayed =
  (track: Id, device: Id, values: Record<string, ParamValue>, media: MediaRef): Edit =>
  (s) =>
    bringMedia(setParams(track, device, values)(s), [media]);

export const setState = (track: Id, slot: Id, state: SlotState): Edit =>
  onSlot(track, slot, (x) => ({ ...x, state }));

export const renameSlot = (track: Id, slot: Id, name: string): Edit =>
  onSlot(track, slot, (x) => ({ ...x, name }));

export const onSend = (track: Id, send: Id, change: Partial<Send>): Edit =>
  onTrack(track, (t) => ({ sends: t.sends.map((x) => (x.id === send ? { ...x, ...change } : x)) }));

export const onLane = (track: Id, lane: Id, change: Partial<Lane>): Edit =>
  onTrack(track, (t) => ({
    automation: (t.automation ?? []).map((l) => (l.id === lane ? { ...l, ...change } : l)),
  }));

/** Changes several lines at once. */
export const onTracks =
  (ids: readonly Id[], change: (t: Track) => Partial<Track>): Edit =>
  (s) => ({ ...s, tracks: s.tracks.map((t) => (ids.includes(t.id) ? { ...t, ...change(t) } : t)) });
