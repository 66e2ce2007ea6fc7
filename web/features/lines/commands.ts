import { DEVICE_TYPES, onTrack, removeTrack, type Track } from '../../../core/index.ts';
import { useSession } from '../../document/doc.ts';
import { onControl, type Command, type FeatureCommands, type Place } from '../../ui/commands.ts';
import { useSheets } from '../../ui/sheets.ts';
import { remove } from '../device/index.ts';
import { addLine, putInstrument } from './add.ts';
import { duplicateLine } from './lines.ts';

const adding = (): Command[] => [
  ...(['audio', 'bus', 'return', 'folder'] as const).map((role) => ({
    group: 'Lines',
    label: `Add ${role === 'audio' ? 'an audio track' : `a ${role}`}`,
    run: () => void addLine(role),
  })),
  { group: 'Lines', label: 'Add a MIDI track', run: () => void addLine('midi') },
  ...['kit', 'keys', 'bass'].map((type) => ({
    group: 'Lines',
    label: `Add ${DEVICE_TYPES[type].label} with a pattern`,
    run: () => putInstrument(type),
  })),
  {
    group: 'Lines',
    label: 'Add a parts player',
    run: () => useSheets().open('kitPlayer', { tracks: [] }),
  },
];

function switching(t: Track): Command[] {
  const session = useSession();
  const group = `On ${t.name}`;
  return [
    {
      group,
      label: t.mute ? 'Unmute' : 'Mute',
      keys: 'M',
      run: () => {
        session.edit(`Mute ${t.name}`, onTrack(t.id, { mute: !t.mute }));
      },
    },
    {
      group,
      label: t.solo ? 'Unsolo' : 'Solo',
      keys: 'S',
      run: () => {
        session.edit(`Solo ${t.name}`, onTrack(t.id, { solo: !t.solo }));
      },
    },
  ];
}

/** What K saves, in words: the selected device, the chosen lines, or the line. */
function saveLabel(): string {
  const session = useSession();
  if (session.slot) return `Save ${session.slot.name} to the shelf`;
  return session.many.length > 1 ? `Save ${session.many.length} lines as a rig` : 'Save to the shelf';
}

function ofLine(t: Track): Command[] {
  const session = useSession();
  const sheets = useSheets();
  const group = `On ${t.name}`;
  return [
    {
      group,
      label: saveLabel(),
      keys: 'K',
      run: () => {
        const x = session.slot;
        if (x) sheets.open('save', { slot: { track: t.id, slot: x.id } });
        else sheets.open('save', { lines: session.together.length > 1 ? session.together : [t.id] });
      },
    },
    { group, label: 'Duplicate the line', run: () => duplicateLine(t) },
    {
      group,
      label: 'Duplicate the line, choosing parts',
      run: () => sheets.open('duplicate', { line: t.id }),
    },
    {
      group,
      label: 'Delete',
      keys: 'Delete',
      run: () => {
        const d = session.slot;
        if (d) remove(t, d);
        else session.edit(`Delete ${t.name}`, removeTrack(t.id));
      },
    },
  ];
}

/** ↑ and ↓ choose the line above or below, unless what has the focus uses them itself. */
function key(e: KeyboardEvent, place: Place): boolean {
  const session = useSession();
  const tracks = session.doc?.tracks;
  if (place !== 'session' || !tracks || (e.key !== 'ArrowUp' && e.key !== 'ArrowDown')) return false;
  const el = e.target as HTMLElement;
  if (onControl(e) && el instanceof HTMLInputElement) return true;
  if (el.closest('[data-arrows],[role="radiogroup"]')) return true;
  e.preventDefault();
  const i = tracks.findIndex((t) => t.id === session.selectedTrack) + (e.key === 'ArrowUp' ? -1 : 1);
  session.select(tracks[Math.max(0, Math.min(tracks.length - 1, i))].id);
  return true;
}

export const lineCommands: FeatureCommands = {
  commands: (place) => {
    if (place !== 'session' || !useSession().doc) return [];
    const t = useSession().track;
    const own = t ? [...switching(t), ...(t.role === 'master' ? [] : ofLine(t))] : [];
    return [...adding(), ...own];
  },
  key,
  shortcuts: [
    ['↑ ↓', 'Choose the line above or below'],
    ['Ctrl or Shift click', 'Choose several lines, or several devices of a chain'],
    ['M', 'Mute the line'],
    ['S', 'Solo the line'],
    ['K', 'Save the device, rack or line to the shelf'],
    ['F2', 'Rename the line'],
    ['Delete', 'Remove the device, or the line'],
  ],
};
