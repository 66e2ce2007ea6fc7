import { Copy, FolderPlus, Package, PackagePlus, Pencil, Trash2, Upload } from '@lucide/vue';
import {
  COLOURS,
  addSend,
  destinations,
  moveTrack,
  onTrack,
  removeTrack,
  type Session,
  type Track,
} from '../../../core/index.ts';
import { useDefaults } from '../defaults/index.ts';
import { useSession } from '../../document/doc.ts';
import type { MenuEntry } from '../../ui/menu.ts';
import { duplicateLine } from './lines.ts';
import { useSheets } from '../../ui/sheets.ts';
import { chooseNotes } from './notes.ts';
import { chooseSound } from './sound.ts';
import { instrumentMenu } from '../kit/index.ts';
import { printMenu } from '../print/index.ts';
import { putDevice } from '../device/index.ts';

/** What only the row itself can do. */
interface LineActions {
  rename: () => void;
  save: () => void;
  drop: () => void;
}

/** All that can be done with a line; what only makes sense for some roles is left out for the others. */
export function lineMenu(track: Track, actions: LineActions): MenuEntry[] {
  const session = useSession().doc!;
  const isMaster = track.role === 'master';
  const onlyLines = (entries: () => MenuEntry[]) => (isMaster ? [] : entries());
  return [
    ...onlyLines(() => [{ label: 'Save to the shelf …', icon: Package, run: actions.save }]),
    { label: 'Drop a preset onto this line …', icon: PackagePlus, run: actions.drop },
    { label: 'Rename', icon: Pencil, keys: 'F2', run: actions.rename },
    ...instrumentMenu(track),
    ...contentMenu(track),
    ...printMenu([track]),
    ...onlyLines(() => placeMenu(session, track)),
    ...defaultsMenu(track),
    stateEntry(track),
    ...onlyLines(() => sendsMenu(session, track)),
    ...onlyLines(() => folderMenu(session, track)),
    ...colourMenu(track),
    ...onlyLines(() => deleteMenu(track)),
  ];
}

const edit = (label: string, track: Track, change: Partial<Track>) => () => {
  useSession().edit(label, onTrack(track.id, change));
};

/** What plays on it. */
function contentMenu(track: Track): MenuEntry[] {
  switch (track.role) {
    case 'master':
    case 'folder':
      return [];
    case 'midi':
      return [
        { label: 'Put a MIDI file on it …', icon: Upload, run: () => chooseNotes(track.id) },
        { label: 'Add a pattern source', run: () => putDevice({ track: track.id }, 'pattern') },
      ];
    default:
      return [{ label: 'Put a sound on it (WAV) …', icon: Upload, run: () => chooseSound(track.id) }];
  }
}

function placeMenu(session: Session, track: Track): MenuEntry[] {
  return [
    { label: 'Duplicate', icon: Copy, run: () => duplicateLine(track) },
    { label: 'Duplicate, choosing parts …', run: () => useSheets().open('duplicate', { line: track.id }) },
    { label: 'Move up', run: () => step(session, track, -1) },
    { label: 'Move down', run: () => step(session, track, 1) },
  ];
}

/** One place up or down; the master stays last. */
function step(session: Session, track: Track, direction: 1 | -1): void {
  const at = session.tracks.findIndex((other) => other.id === track.id);
  const canMove = direction < 0 ? at > 0 : at < session.tracks.length - 2;
  if (!canMove) return;
  const before = direction < 0 ? session.tracks[at - 1] : session.tracks[at + 2];
  useSession().edit(`Move ${track.name}`, moveTrack(track.id, before?.id ?? null));
}

/** What new lines of its role begin with. */
function defaultsMenu(track: Track): MenuEntry[] {
  const defaults = useDefaults();
  const key = `track:${track.role}`;
  const entries: MenuEntry[] = [];
  const origin = track.origin;
  if (origin && track.role !== 'master') {
    entries.push({
      label: `“${origin.name}” for every new ${track.role} line`,
      run: () => void defaults.set(key, origin.preset, `“${origin.name}”`),
    });
  }
  if (defaults.has(key)) {
    entries.push({ label: `New ${track.role} lines begin empty`, run: () => void defaults.clear(key) });
  }
  return entries;
}

function stateEntry(track: Track): MenuEntry {
  const label = track.state === 'on' ? 'Make inactive' : 'Make active';
  const state = track.state === 'on' ? 'inactive' : 'on';
  return { label, run: edit(`${label}: ${track.name}`, track, { state }) };
}

function sendsMenu(session: Session, track: Track): MenuEntry[] {
  const sendable = destinations(session, track, true).filter(
    (to) => !track.sends.some((send) => send.to === to.id),
  );
  if (!sendable.length) return [];
  return [
    { heading: 'Sends' },
    ...sendable.map((to) => ({
      label: `Send to ${to.name}`,
      run: () => {
        useSession().edit(`Send ${track.name} to ${to.name}`, addSend(track.id, to.id));
        useSession().select(track.id);
      },
    })),
  ];
}

function folderMenu(session: Session, track: Track): MenuEntry[] {
  const folders = session.tracks.filter((other) => other.role === 'folder' && other.id !== track.id);
  if (!folders.length) return [];
  return [
    { heading: 'Folder' },
    ...folders.map((folder) => ({
      label: `Into “${folder.name}”`,
      icon: FolderPlus,
      checked: track.folder === folder.id,
      run: edit(`Put ${track.name} into ${folder.name}`, track, { folder: folder.id }),
    })),
    {
      label: 'No folder',
      checked: track.folder === null,
      run: edit(`Take ${track.name} out of its folder`, track, { folder: null }),
    },
  ];
}

function colourMenu(track: Track): MenuEntry[] {
  return [
    { heading: 'Colour' },
    ...COLOURS.map((colour) => ({
      label: colour.label,
      swatch: colour.day,
      checked: track.colour === colour.id,
      run: edit(`Colour of ${track.name}`, track, { colour: colour.id }),
    })),
  ];
}

function deleteMenu(track: Track): MenuEntry[] {
  return [
    { heading: ' ' },
    {
      label: 'Delete',
      icon: Trash2,
      danger: true,
      keys: 'Del',
      run: () => {
        useSession().edit(`Delete ${track.name}`, removeTrack(track.id));
      },
    },
  ];
}
