import {
  Copy,
  Eye,
  EyeOff,
  FolderInput,
  FolderMinus,
  FolderPlus,
  Heading,
  Package,
  PackagePlus,
  Pencil,
  Trash2,
  Upload,
} from '@lucide/vue';
import {
  COLOURS,
  addSend,
  destinations,
  dissolve,
  type Id,
  type Session,
  type Track,
} from '../../../core/index.ts';
import { useDefaults } from '../defaults/index.ts';
import { useSession } from '../../document/doc.ts';
import type { MenuEntry } from '../../ui/menu.ts';
import { duplicateLine, rename } from './lines.ts';
import {
  duplicateAll,
  flip,
  flipActive,
  flipChains,
  hide,
  inHandWith,
  makeFolder,
  makeHeading,
  putInto,
  removeAll,
  setColour,
  step,
  wordsFor,
} from './many.ts';
import { useSheets } from '../../ui/sheets.ts';
import { chooseNotes } from './notes.ts';
import { chooseSound } from './sound.ts';
import { fitMenu } from '../fit/index.ts';
import { instrumentMenu } from '../kit/index.ts';
import { printMenu } from '../print/index.ts';
import { putDevice } from '../device/index.ts';

/** What only the row itself can do. */
interface LineActions {
  save: () => void;
  drop: () => void;
}

/**
 * All that can be done with a line; what only makes sense for some roles is left out for the others. Of a line that is
 * chosen with others it is what can be done with all of them.
 */
export function lineMenu(track: Track, actions: LineActions): MenuEntry[] {
  const lines = inHandWith(track);
  if (lines.length > 1) return manyMenu(lines, actions);
  const session = useSession().doc!;
  const isMaster = track.role === 'master';
  const onlyLines = (entries: () => MenuEntry[]) => (isMaster ? [] : entries());
  return [
    ...onlyLines(() => [{ label: saveLabel(track), icon: Package, run: actions.save }]),
    { label: 'Drop a preset onto this line …', icon: PackagePlus, run: actions.drop },
    { label: 'Rename', icon: Pencil, keys: 'F2', run: () => rename(track.id) },
    ...instrumentMenu(track),
    ...contentMenu(track),
    ...fitMenu(track),
    ...printMenu([track]),
    ...onlyLines(() => placeMenu(track)),
    ...defaultsMenu(track),
    ...stateMenu(lines),
    ...onlyLines(() => sendsMenu(session, track)),
    ...onlyLines(() => folderMenu(lines)),
    ...colourMenu(lines),
    ...onlyLines(() => deleteMenu(lines)),
  ];
}

function manyMenu(lines: readonly Track[], actions: LineActions): MenuEntry[] {
  return [
    { heading: wordsFor(lines) },
    { label: 'Save as a rig …', icon: Package, run: actions.save },
    { label: 'Duplicate', icon: Copy, keys: 'D', run: () => duplicateAll(lines) },
    { label: 'Mute or unmute', keys: 'M', run: () => flip('mute', lines) },
    { label: 'Solo or unsolo', keys: 'S', run: () => flip('solo', lines) },
    { label: 'Devices bypassed, or on again', keys: 'B', run: () => flipChains(lines, 'bypassed') },
    { label: 'Devices inactive, or on again', keys: 'I', run: () => flipChains(lines, 'inactive') },
    ...printMenu(lines.filter((t) => t.role !== 'master')),
    ...moveMenu(lines),
    ...stateMenu(lines),
    ...folderMenu(lines),
    ...colourMenu(lines),
    ...deleteMenu(lines),
  ];
}

const saveLabel = (track: Track): string =>
  track.role === 'folder' ? 'Save with what is in it …' : 'Save to the shelf …';

/** What plays on it. */
function contentMenu(track: Track): MenuEntry[] {
  switch (track.role) {
    case 'master':
    case 'folder':
      return [];
    case 'midi':
      return [
        { label: 'Put a MIDI file on it …', icon: Upload, run: () => chooseNotes(track.id) },
        { label: 'Add a pattern source', run: () => void putDevice({ track: track.id }, 'pattern') },
      ];
    default:
      return [{ label: 'Put a sound on it (WAV) …', icon: Upload, run: () => chooseSound(track.id) }];
  }
}

function placeMenu(track: Track): MenuEntry[] {
  const isFolder = track.role === 'folder';
  const duplicate = () => (isFolder ? duplicateAll([track]) : duplicateLine(track));
  return [
    { label: isFolder ? 'Duplicate with what is in it' : 'Duplicate', icon: Copy, keys: 'D', run: duplicate },
    { label: 'Duplicate, choosing parts …', run: () => useSheets().open('duplicate', { line: track.id }) },
    ...moveMenu([track]),
    { label: 'A heading above it', icon: Heading, run: () => makeHeading(track) },
  ];
}
const moveMenu = (lines: readonly Track[]): MenuEntry[] => [
  { label: 'Move up', keys: 'Alt ↑', run: () => void step(lines, -1) },
  { label: 'Move down', keys: 'Alt ↓', run: () => void step(lines, 1) },
];

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

function stateMenu(lines: readonly Track[]): MenuEntry[] {
  const own = lines.filter((t) => t.role !== 'master');
  if (!own.length) return [];
  const isOff = own.every((t) => t.state === 'inactive');
  const isHidden = own.every((t) => t.hidden);
  return [
    { label: isOff ? 'Make active' : 'Make inactive', run: () => flipActive(own) },
    {
      label: isHidden ? 'Show' : 'Hide',
      icon: isHidden ? Eye : EyeOff,
      keys: 'H',
      run: () => hide(own),
    },
  ];
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

function folderMenu(lines: readonly Track[]): MenuEntry[] {
  const { tracks } = useSession().doc!;
  const taken = new Set(lines.map((t) => t.id));
  const folders = tracks.filter((t) => t.role === 'folder' && !taken.has(t.id));
  const isIn = (folder: Id | null) => lines.every((t) => t.folder === folder);
  const out = { label: 'No folder', checked: isIn(null), run: () => putInto(lines, null) };
  return [
    { heading: 'Folder' },
    { label: 'Into a new folder', icon: FolderPlus, keys: 'F', run: () => makeFolder(lines) },
    ...folders.map((folder) => ({
      label: `Into “${folder.name}”`,
      icon: FolderInput,
      checked: isIn(folder.id),
      run: () => putInto(lines, folder.id),
    })),
    ...(folders.length ? [out] : []),
  ];
}

function colourMenu(lines: readonly Track[]): MenuEntry[] {
  const ids = lines.map((t) => t.id);
  const inTurn = {
    label: 'Several colours in turn …',
    run: () => useSheets().open('colours', { lines: ids }),
  };
  return [
    { heading: 'Colour' },
    ...(lines.length > 1 || lines[0].role === 'folder' ? [inTurn] : []),
    ...COLOURS.map((colour) => ({
      label: colour.label,
      swatch: colour.day,
      checked: lines.every((t) => t.colour === colour.id),
      run: () => setColour(lines, [colour.id]),
    })),
  ];
}

function deleteMenu(lines: readonly Track[]): MenuEntry[] {
  const [only] = lines;
  const isFolder = lines.length === 1 && only.role === 'folder';
  const dissolveIt = {
    label: 'Delete the folder, keep what is in it',
    icon: FolderMinus,
    run: () => {
      useSession().edit(`Delete the folder ${only.name}`, dissolve(only.id));
    },
  };
  return [
    { heading: ' ' },
    ...(isFolder ? [dissolveIt] : []),
    {
      label: isFolder ? 'Delete with what is in it' : 'Delete',
      icon: Trash2,
      danger: true,
      keys: 'Delete',
      run: () => removeAll(lines),
    },
  ];
}
