import { Copy, FolderPlus, Package, PackagePlus, Pencil, Trash2, Upload } from '@lucide/vue';
import {
  COLOURS,
  type Track,
  addSend,
  destinations,
  moveTrack,
  removeTrack,
  onTrack,
} from '../../../core/index.ts';
import { useDefaults } from '../defaults/index.ts';
import { useSession } from '../../document/doc.ts';
import type { MenuEntry } from '../../ui/menu.ts';
import { duplicateLine } from './lines.ts';
import { useSheets } from '../../ui/sheets.ts';
import { chooseNotes } from './notes.ts';
import { chooseSound } from './sound.ts';
import { instrumentMenu } from '../kit/index.ts';
import { putDevice } from '../device/index.ts';

interface LineActions {
  rename: () => void;
  save: () => void;
  drop: () => void;
  colours: typeof COLOURS;
  types: unknown;
}

export function lineMenu(t: Track, a: LineActions): MenuEntry[] {
  const session = useSession();
  const s = session.doc!;
  const isMaster = t.role === 'master';
  const step = (d: 1 | -1) => {
    const i = s.tracks.findIndex((x) => x.id === t.id);
    const before = d < 0 ? s.tracks[i - 1] : s.tracks[i + 2];
    if (d < 0 ? i > 0 : i < s.tracks.length - 2) {
      session.edit(`Move ${t.name}`, moveTrack(t.id, before?.id ?? null));
    }
  };
  const folders = s.tracks.filter((x) => x.role === 'folder' && x.id !== t.id);
  const sendable = destinations(s, t, true).filter((x) => !t.sends.some((y) => y.to === x.id));
  return [
    ...(isMaster ? [] : [{ label: 'Save to the shelf …', icon: Package, run: a.save }]),
    { label: 'Drop a preset onto this line …', icon: PackagePlus, run: a.drop },
    { label: 'Rename', icon: Pencil, keys: 'F2', run: a.rename },
    ...instrumentMenu(t),
    ...(t.role === 'midi'
      ? [
          { label: 'Put a MIDI file on it …', icon: Upload, run: () => chooseNotes(t.id) },
          { label: 'Add a pattern source', run: () => putDevice({ track: t.id }, 'pattern') },
        ]
      : []),
    ...(isMaster || t.role === 'folder' || t.role === 'midi'
      ? []
      : [{ label: 'Put a sound on it (WAV) …', icon: Upload, run: () => chooseSound(t.id) }]),
    ...(isMaster
      ? []
      : [
          { label: 'Duplicate', icon: Copy, run: () => duplicateLine(t) },
          {
            label: 'Duplicate, choosing parts …',
            run: () => useSheets().open('duplicate', { line: t.id }),
          },
          { label: 'Move up', run: () => step(-1) },
          { label: 'Move down', run: () => step(1) },
        ]),
    ...(t.origin && !isMaster
      ? [
          {
            label: `“${t.origin.name}” for every new ${t.role} line`,
            run: () => void useDefaults().set(`track:${t.role}`, t.origin!.preset, `“${t.origin!.name}”`),
          },
        ]
      : []),
    ...(useDefaults().has(`track:${t.role}`)
      ? [{ label: `New ${t.role} lines begin empty`, run: () => void useDefaults().clear(`track:${t.role}`) }]
      : []),
    {
      label: t.state === 'on' ? 'Make inactive' : 'Make active',
      run: () => {
        session.edit(
          `${t.state === 'on' ? 'Make inactive' : 'Make active'}: ${t.name}`,
          onTrack(t.id, { state: t.state === 'on' ? 'inactive' : 'on' }),
        );
      },
    },
    ...(sendable.length && !isMaster
      ? [
          { heading: 'Sends' },
          ...sendable.map((x) => ({
            label: `Send to ${x.name}`,
            run: () => {
              session.edit(`Send ${t.name} to ${x.name}`, addSend(t.id, x.id));
              session.select(t.id);
            },
          })),
        ]
      : []),
    ...(folders.length && !isMaster
      ? [
          { heading: 'Folder' },
          ...folders.map((f) => ({
            label: `Into “${f.name}”`,
            icon: FolderPlus,
            checked: t.folder === f.id,
            run: () => {
              session.edit(`Put ${t.name} into ${f.name}`, onTrack(t.id, { folder: f.id }));
            },
          })),
          {
            label: 'No folder',
            checked: t.folder === null,
            run: () => {
              session.edit(`Take ${t.name} out of its folder`, onTrack(t.id, { folder: null }));
            },
          },
        ]
      : []),
    { heading: 'Colour' },
    ...a.colours.map((c) => ({
      label: c.label,
      swatch: c.day,
      checked: t.colour === c.id,
      run: () => {
        session.edit(`Colour of ${t.name}`, onTrack(t.id, { colour: c.id }));
      },
    })),
    ...(isMaster
      ? []
      : [
          { heading: ' ' },
          {
            label: 'Delete',
            icon: Trash2,
            danger: true,
            keys: 'Del',
            run: () => {
              session.edit(`Delete ${t.name}`, removeTrack(t.id));
            },
          },
        ]),
  ];
}
