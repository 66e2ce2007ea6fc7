import { createDevice, createSend, createTrack, freeName, masterOf, placeFor } from '../session/create.ts';
import { waysIn } from '../session/reach.ts';
import { mapDevices, mapSlots } from '../session/slots.ts';
import { randomIds } from '../model/ids.ts';
import type { Id, Input, Params, Role, Send, Session, SlotState, Track } from '../model/types.ts';
import { ledHeadings } from './headings.ts';
import { destinations, removeTrack } from './tracks.ts';
import type { Edit } from './on.ts';

/** Lines that are made in one step. */
export interface NewLines {
  names: readonly string[];
  role: Role;
  channels: 1 | 2;
  /** hardware inputs by name, one a line; null: none */
  inputs: readonly (string | null)[];
  /** null: the master */
  output: Id | null;
  folder: Id | null;
  colour: string;
  /** types of devices that each begins with */
  devices: readonly string[];
  /** buses and returns that each sends to, at −18 dB */
  sends: readonly Id[];
}

/**
 * New lines, alike but for name and input, in one step: where lines of their role begin, or at the end of the folder.
 * @param begins the values that a new device of a type begins with, where they are not the factory's
 */
export function addLines(
  asked: NewLines,
  begins: (type: string) => Params = () => ({}),
): { edit: Edit; ids: Id[] } {
  const ids = asked.names.map(() => randomIds('trk'));
  const edit: Edit = (s) => {
    const taken = s.tracks.map((t) => t.name);
    const made = ids.map((id, i) => {
      const t = newLine(s, asked, i, id, begins);
      t.name = freeName(t.name, taken);
      taken.push(t.name);
      return t;
    });
    return { ...s, tracks: spliced(s.tracks, placeOfNew(s, asked), made) };
  };
  return { edit, ids };
}

/** Where new lines begin: where those of their role do, or at the end of their folder. */
export const placeOfNew = (s: Session, { folder, role }: Pick<NewLines, 'folder' | 'role'>): number =>
  folder ? endOfFolder(s, folder) : placeFor(s, role);

function newLine(s: Session, asked: NewLines, i: number, id: Id, begins: (type: string) => Params): Track {
  const { role, channels, colour, folder, names, devices, sends } = asked;
  const port = asked.inputs[i] ?? null;
  const takesSound = role === 'audio';
  return createTrack(role, {
    id,
    name: names[i],
    channels,
    colour,
    folder,
    input: port !== null && takesSound ? { kind: 'hardware', port } : { kind: 'none' },
    output: role === 'midi' ? { kind: 'none' } : { kind: 'track', track: asked.output ?? masterOf(s).id },
    chain: role === 'midi' ? [] : devices.map((type) => createDevice(type, begins(type))),
    sends: role === 'midi' ? [] : sends.map((to) => createSend(to, { level: -18 })),
  });
}

/** Lines put in at a place; the master stays last. */
function spliced(tracks: readonly Track[], at: number, put: readonly Track[]): Track[] {
  const out = [...tracks];
  out.splice(
    Math.min(
      at,
      out.findIndex((t) => t.role === 'master'),
    ),
    0,
    ...put,
  );
  return out;
}

/** A folder's lines, and theirs, in the order of the session. */
export function inside(s: Session, folder: Id): Track[] {
  const within = new Set([folder]);
  // a line may stand above the folder that it lies in
  for (let found = -1; found !== within.size;) {
    found = within.size;
    for (const t of s.tracks) if (t.folder && within.has(t.folder)) within.add(t.id);
  }
  return s.tracks.filter((t) => t.id !== folder && within.has(t.id));
}
/** Place behind the last line of a folder. */
function endOfFolder(s: Session, folder: Id): number {
  const last = inside(s, folder).at(-1)?.id ?? folder;
  return s.tracks.findIndex((t) => t.id === last) + 1;
}

/** Chosen lines with all that lies in chosen folders, in the order of the session; never the master. */
export function withContent(s: Session, ids: readonly Id[]): Id[] {
  const all = new Set(ids);
  for (const id of ids) for (const t of inside(s, id)) all.add(t.id);
  return s.tracks.filter((t) => all.has(t.id) && t.role !== 'master').map((t) => t.id);
}

/**
 * Moves lines, and what lies in them where they are folders, before another one (null: to the end), into its folder or
 * out of theirs.
 * @param folder where the outermost of them lie from then on; left out: where they were
 */
export const moveTracks =
  (ids: readonly Id[], before: Id | null, folder?: Id | null): Edit =>
  (s) => {
    const moving = new Set(withContent(s, ids));
    if (!moving.size || (before !== null && moving.has(before))) return s;
    if (folder && moving.has(folder)) return s;
    const put = s.tracks
      .filter((t) => moving.has(t.id))
      .map((t) => {
        const isOutermost = folder !== undefined && !(t.folder && moving.has(t.folder));
        return isOutermost && t.folder !== folder ? { ...t, folder } : t;
      });
    const rest = s.tracks.filter((t) => !moving.has(t.id));
    const at = before === null ? rest.length : rest.findIndex((t) => t.id === before);
    return ledHeadings(s, { ...s, tracks: spliced(rest, at < 0 ? rest.length : at, put) }, moving);
  };

/** Moves a line, and what lies in it, before another one (null: to the end, above the master). */
export const moveTrack = (id: Id, before: Id | null): Edit => moveTracks([id], before);

/** Moves lines one place up or down together, over a whole folder where one is in the way. */
export const stepTracks =
  (ids: readonly Id[], step: 1 | -1): Edit =>
  (s) => {
    const moving = withContent(s, ids);
    const [first, last] = [moving[0], moving.at(-1)].map((id) => s.tracks.findIndex((t) => t.id === id));
    const next = s.tracks[step < 0 ? first - 1 : last + 1];
    if (!next || next.role === 'master') return s;
    const before = step < 0 ? next.id : (s.tracks[last + 2]?.id ?? null);
    return moveTracks(ids, before)(s);
  };

/** Puts lines into a folder, at its end. */
export const intoFolder =
  (ids: readonly Id[], folder: Id | null): Edit =>
  (s) => {
    if (folder === null) return moveTracks(ids, s.tracks[afterFolder(s, ids)]?.id ?? null, null)(s);
    const others = ids.filter((id) => id !== folder && !inside(s, id).some((t) => t.id === folder));
    const moving = new Set(withContent(s, others));
    const rest = { ...s, tracks: s.tracks.filter((t) => !moving.has(t.id)) };
    return moveTracks(others, rest.tracks[endOfFolder(rest, folder)]?.id ?? null, folder)(s);
  };

/** Place behind the outermost folder that the last of these lines lies in. */
function afterFolder(s: Session, ids: readonly Id[]): number {
  let out = s.tracks.findLast((t) => ids.includes(t.id));
  for (let up = out; up?.folder; up = s.tracks.find((t) => t.id === up!.folder)) {
    out = s.tracks.find((t) => t.id === up!.folder) ?? out;
  }
  return out ? endOfFolder(s, out.id) : s.tracks.length;
}

/** Lines in a new folder that stands where the first of them stood. */
export function newFolder(ids: readonly Id[], name: string): { edit: Edit; id: Id } {
  const id = randomIds('trk');
  const edit: Edit = (s) => {
    const first = s.tracks.find((t) => ids.includes(t.id) && t.role !== 'master');
    if (!first) return s;
    const folder = createTrack('folder', {
      id,
      name: freeName(
        name,
        s.tracks.map((t) => t.name),
      ),
      folder: first.folder,
      output: { kind: 'track', track: masterOf(s).id },
    });
    const at = s.tracks.indexOf(first);
    return intoFolder(ids, id)({ ...s, tracks: spliced(s.tracks, at, [folder]) });
  };
  return { edit, id };
}

/** Removes lines, and what lies in them where they are folders; what pointed to them is led on. */
export const removeTracks =
  (ids: readonly Id[]): Edit =>
  (s) =>
    withContent(s, ids).reduce((now, id) => removeTrack(id)(now), s);

/** Removes a folder and keeps what lies in it. */
export const dissolve = (folder: Id): Edit => removeTrack(folder);

/** A state for every device and rack of lines' chains, at the top; `only` leaves the others alone. */
export const stateOfChains =
  (ids: readonly Id[], state: SlotState, only?: readonly Id[]): Edit =>
  (s) => ({
    ...s,
    tracks: s.tracks.map((t) => {
      if (!ids.includes(t.id)) return t;
      const chain = only
        ? mapSlots(t.chain, (x) => (only.includes(x.id) ? { ...x, state } : x))
        : t.chain.map((x) => ({ ...x, state }));
      return { ...t, chain };
    }),
  });

/** Changes what lines send to a bus or return; with `add` those that do not yet get a send, where it makes no loop. */
export const onSendsTo =
  (ids: readonly Id[], to: Id, change: Partial<Send>, add = false): Edit =>
  (s) => {
    const chosen = new Set(ids);
    const ways = waysIn(s);
    const sending = (t: Track): Track => {
      if (!chosen.has(t.id)) return t;
      if (t.sends.some((x) => x.to === to)) {
        return { ...t, sends: t.sends.map((x) => (x.to === to ? { ...x, ...change } : x)) };
      }
      const isOpen = add && destinations(s, t, true, ways).some((x) => x.id === to);
      return isOpen ? { ...t, sends: [...t.sends, createSend(to, { level: -18, ...change })] } : t;
    };
    return { ...s, tracks: s.tracks.map(sending) };
  };

function inputLed(input: Input, to: (id: Id) => Id): Input {
  if (input.kind === 'track') return { ...input, track: to(input.track) };
  return input.kind === 'deviceOutput' ? { ...input, track: to(input.track), slot: to(input.slot) } : input;
}

/** Connections of a line led to others: ids that a map names become what it says. */
export function led(t: Track, ids: ReadonlyMap<Id, Id>): Track {
  const to = (id: Id) => ids.get(id) ?? id;
  const { input, output } = t;
  return {
    ...t,
    folder: t.folder && to(t.folder),
    input: inputLed(input, to),
    output: output.kind === 'track' ? { ...output, track: to(output.track) } : output,
    sends: t.sends.map((x) => ({ ...x, to: to(x.to) })),
    chain: mapDevices(t.chain, (d) =>
      d.key.kind === 'track' ? { ...d, key: { ...d.key, track: to(d.key.track) } } : d,
    ),
  };
}
