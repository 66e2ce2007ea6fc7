import {
  addHeading,
  duplicateTracks,
  inside,
  intoFolder,
  moveTracks,
  newFolder,
  onTracks,
  removeTracks,
  stateOfChains,
  stepTracks,
  withContent,
  type Edit,
  type Id,
  type SlotState,
  type Track,
} from '../../../core/index.ts';
import { copyWith } from '../../document/copying.ts';
import { useSession } from '../../document/doc.ts';
import { useUi } from '../../ui/window.ts';
import { useLineView } from './view.ts';

/** The lines that a key or a menu works on: those that are chosen together, or the one that is selected. */
export function inHand(): Track[] {
  const session = useSession();
  if (session.many.length > 1) return session.many;
  return session.track ? [session.track] : [];
}
/** The same for a line's own menu: all that are chosen, where it is one of them. */
export const inHandWith = (track: Track): Track[] => {
  const { many } = useSession();
  return many.length > 1 && many.some((t) => t.id === track.id) ? many : [track];
};

/** How they are called in a sentence. */
export const wordsFor = (lines: readonly Track[]): string =>
  lines.length === 1 ? lines[0].name : `${lines.length} lines`;
const idsOf = (lines: readonly Track[]): Id[] => lines.map((t) => t.id);
/** A folder stands for what lies in it. */
const whole = (lines: readonly Track[]): Id[] => {
  const masters = lines.filter((t) => t.role === 'master').map((t) => t.id);
  return [...withContent(useSession().doc!, idsOf(lines)), ...masters];
};
const without = (lines: readonly Track[], ...roles: Track['role'][]) =>
  lines.filter((t) => !roles.includes(t.role));

const edit = (label: string, lines: readonly Track[], change: Edit): boolean =>
  useSession().edit(`${label}: ${wordsFor(lines)}`, change);

/** On when all have it, so that one press more takes it away again. */
export function flip(key: 'mute' | 'solo', lines: readonly Track[]): void {
  const own = key === 'solo' ? without(lines, 'midi') : lines;
  const isOn = own.every((t) => t[key]);
  const words = { mute: ['Mute', 'Unmute'], solo: ['Solo', 'Unsolo'] }[key];
  edit(
    words[Number(isOn)],
    own,
    onTracks(whole(own), () => ({ [key]: !isOn })),
  );
}
export function flipActive(lines: readonly Track[]): void {
  const own = without(lines, 'master');
  const isOff = own.every((t) => t.state === 'inactive');
  const state = isOff ? 'on' : 'inactive';
  edit(
    isOff ? 'Make active' : 'Make inactive',
    own,
    onTracks(whole(own), () => ({ state })),
  );
}
/** @param key edits with the same key are one step to undo */
export const setColour = (lines: readonly Track[], colours: readonly string[], key?: string): void => {
  const chosen = whole(lines);
  // a folder that stands for what is in it takes the first, and the count begins below it
  const folder = lines.length === 1 && lines[0].role === 'folder' ? lines[0].id : null;
  const ids = chosen.filter((id) => id !== folder);
  const colourOf = (id: Id) => colours[Math.max(0, ids.indexOf(id)) % colours.length];
  const change = onTracks(chosen, (t) => ({ colour: colourOf(t.id) }));
  useSession().edit(`Colour: ${wordsFor(lines)}`, change, key);
};
/** A state for the devices of all chains, or for those of one that are chosen; the same once more: on again. */
export function flipChains(lines: readonly Track[], to: SlotState, only?: readonly Id[]): void {
  const slots = lines.flatMap((t) => t.chain).filter((x) => !only || only.includes(x.id));
  const state = slots.length && slots.every((x) => x.state === to) ? 'on' : to;
  edit(`Devices ${state}`, lines, stateOfChains(idsOf(lines), state, only));
}

/** Takes lines out of sight; they play on. */
export function hide(lines: readonly Track[]): void {
  const session = useSession();
  const ids = whole(without(lines, 'master'));
  const show = ids.every((id) => session.doc!.tracks.find((t) => t.id === id)?.hidden);
  if (
    !edit(
      show ? 'Show' : 'Hide',
      lines,
      onTracks(ids, () => ({ hidden: !show })),
    ) ||
    show
  ) {
    return;
  }
  if (!useLineView().showsHidden) session.select(null);
  useUi().say(`${wordsFor(lines)}: hidden. What plays there is heard as before.`, 'done', [
    session.undoing(),
  ]);
}
export function removeAll(lines: readonly Track[]): void {
  const session = useSession();
  const own = without(lines, 'master');
  const ids = whole(own);
  if (!ids.length || !edit('Delete', own, removeTracks(ids))) return;
  session.select(null);
  if (ids.length === own.length) return;
  const more = ids.length - own.length;
  useUi().say(`${wordsFor(own)} deleted, with ${more} ${more === 1 ? 'line' : 'lines'} inside.`, 'done', [
    session.undoing(),
  ]);
}
export function duplicateAll(lines: readonly Track[]): void {
  const session = useSession();
  const own = idsOf(without(lines, 'master'));
  const copies = duplicateTracks(session.doc!, own, useLineView().duplicateParts);
  copyWith(`Duplicate: ${wordsFor(lines)}`, copies.edit, () => session.selectAll(copies.ids));
}
export const step = (lines: readonly Track[], by: 1 | -1): boolean =>
  edit('Move', lines, stepTracks(idsOf(lines), by));

/** Lines moved into a folder, or out of theirs (null). */
export function putInto(lines: readonly Track[], folder: Id | null): void {
  edit(folder ? 'Into a folder' : 'Out of the folder', lines, intoFolder(idsOf(lines), folder));
}
/** Dragged lines let go in a gap: before a line (null: at the end), in the folder of what is around it. */
export function putBefore(lines: readonly Track[], before: Id | null, folder: Id | null): void {
  edit('Move', lines, moveTracks(idsOf(lines), before, folder));
}
/** A new folder around lines, ready to be named. */
export function makeFolder(lines: readonly Track[]): void {
  const session = useSession();
  const own = without(lines, 'master');
  if (!own.length) return;
  const { edit: change, id } = newFolder(idsOf(own), 'Folder');
  if (!edit('A folder for', own, change)) return;
  session.select(id);
  useLineView().naming = id;
}
/** A heading above a line, ready to be named. */
export function makeHeading(above: Track): void {
  const { edit: change, id } = addHeading(above.id);
  if (useSession().edit(`A heading above ${above.name}`, change)) useLineView().naming = id;
}

/** Ways to choose lines that have something in common, with how many there are. */
export function waysToChoose(): { label: string; ids: Id[] }[] {
  const session = useSession();
  const { tracks } = session.doc!;
  const like = session.track;
  const ways = [
    { label: 'All lines', is: (t: Track) => t.role !== 'master' },
    ...(like ? sameAs(like) : []),
    ...[...new Set(tracks.map((t) => t.role))].map((role) => ({
      label: ROLES[role],
      is: (t: Track) => t.role === role,
    })),
    { label: 'What is muted', is: (t: Track) => t.mute },
    { label: 'What is inactive', is: (t: Track) => t.state === 'inactive' },
  ];
  return ways.flatMap(({ label, is }) => {
    const ids = tracks.filter((t) => t.role !== 'master' && is(t)).map((t) => t.id);
    return ids.length ? [{ label, ids }] : [];
  });
}
const ROLES: Record<Track['role'], string> = {
  audio: 'Audio tracks',
  instrument: 'Instruments',
  midi: 'MIDI tracks',
  bus: 'Buses',
  return: 'Returns',
  folder: 'Folders',
  master: 'The master',
};
/** The name without the number behind it. */
const stem = (name: string): string => name.replace(/[\s_-]*\d+$/, '').toLowerCase();
const chainOf = (t: Track): string => t.chain.map((x) => (x.kind === 'device' ? x.type : x.kind)).join();
function sameAs(like: Track): { label: string; is: (t: Track) => boolean }[] {
  const { doc } = useSession();
  const within = like.role === 'folder' ? new Set(inside(doc!, like.id).map((t) => t.id)) : null;
  return [
    ...(within ? [{ label: `What lies in “${like.name}”`, is: (t: Track) => within.has(t.id) }] : []),
    { label: `Named like “${like.name}”`, is: (t: Track) => stem(t.name) === stem(like.name) },
    { label: `Coloured like “${like.name}”`, is: (t: Track) => t.colour === like.colour },
    ...(like.folder
      ? [{ label: `In the folder of “${like.name}”`, is: (t: Track) => t.folder === like.folder }]
      : []),
    ...(like.chain.length
      ? [{ label: `With the devices of “${like.name}”`, is: (t: Track) => chainOf(t) === chainOf(like) }]
      : []),
    ...(like.output.kind === 'track'
      ? [
          {
            label: `Going where “${like.name}” goes`,
            is: (t: Track) => JSON.stringify(t.output) === JSON.stringify(like.output),
          },
        ]
      : []),
  ];
}
