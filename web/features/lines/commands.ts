import { DEVICE_TYPES, type Track } from '../../../core/index.ts';
import { useSession } from '../../document/doc.ts';
import { onControl, type Command, type FeatureCommands, type Place } from '../../ui/commands.ts';
import { useSheets } from '../../ui/sheets.ts';
import { remove } from '../device/index.ts';
import { addLine, putInstrument } from './add.ts';
import { duplicateLine, rename, saveLines, shownLines } from './lines.ts';
import {
  duplicateAll,
  flip,
  flipActive,
  hide,
  inHand,
  makeFolder,
  makeHeading,
  removeAll,
  step,
  waysToChoose,
  wordsFor,
} from './many.ts';

const adding = (): Command[] => [
  { group: 'Lines', label: 'Add several lines …', run: () => useSheets().open('addLines', {}) },
  ...(['audio', 'bus', 'return', 'folder'] as const).map((role) => ({
    group: 'Lines',
    label: `Add ${role === 'audio' ? 'an audio track' : `a ${role}`}`,
    run: () => void addLine(role),
  })),
  { group: 'Lines', label: 'Add a MIDI track', run: () => void addLine('midi') },
  ...['kit', 'keys', 'bass'].map((type) => ({
    group: 'Lines',
    label: `Add ${DEVICE_TYPES[type].label} with a pattern`,
    run: () => void putInstrument(type),
  })),
  {
    group: 'Lines',
    label: 'Add a parts player',
    run: () => useSheets().open('kitPlayer', { tracks: [] }),
  },
];

/** What can be done with the lines in hand, the master among them. */
function switching(lines: readonly Track[]): Command[] {
  const group = `On ${wordsFor(lines)}`;
  const isMuted = lines.every((t) => t.mute);
  const isSolo = lines.every((t) => t.solo);
  return [
    { group, label: isMuted ? 'Unmute' : 'Mute', keys: 'M', run: () => flip('mute', lines) },
    { group, label: isSolo ? 'Unsolo' : 'Solo', keys: 'S', run: () => flip('solo', lines) },
  ];
}

/** What K saves, in words: the selected device, the chosen lines, or the line. */
function saveLabel(): string {
  const session = useSession();
  if (session.slot) return `Save ${session.slot.name} to the shelf`;
  return session.many.length > 1 ? `Save ${session.many.length} lines as a rig` : 'Save to the shelf';
}

function save(t: Track): void {
  const session = useSession();
  const x = session.slot;
  if (x) useSheets().open('save', { slot: { track: t.id, slot: x.id } });
  else saveLines(inHand());
}

function ofLines(t: Track, lines: readonly Track[]): Command[] {
  const session = useSession();
  const group = `On ${wordsFor(lines)}`;
  const one = lines.length === 1;
  return [
    { group, label: saveLabel(), keys: 'K', run: () => save(t) },
    { group, label: one ? 'Rename' : `Rename ${t.name}`, keys: 'F2', run: () => rename(t.id) },
    { group, label: 'Duplicate', keys: 'D', run: () => (one ? duplicateLine(t) : duplicateAll(lines)) },
    ...(one
      ? [
          {
            group,
            label: 'Duplicate the line, choosing parts',
            run: () => useSheets().open('duplicate', { line: t.id }),
          },
          { group, label: `A heading above ${t.name}`, run: () => makeHeading(t) },
        ]
      : []),
    {
      group,
      label: 'Colours …',
      keys: 'C',
      run: () => useSheets().open('colours', { lines: lines.map((x) => x.id) }),
    },
    { group, label: 'Into a new folder', keys: 'F', run: () => makeFolder(lines) },
    { group, label: lines.every((x) => x.hidden) ? 'Show' : 'Hide', keys: 'H', run: () => hide(lines) },
    { group, label: 'Active or inactive', run: () => flipActive(lines) },
    {
      group,
      label: 'Delete',
      keys: 'Delete',
      run: () => (session.slot ? remove(t, session.slot) : removeAll(lines)),
    },
  ];
}

const choosing = (): Command[] =>
  waysToChoose().map(({ label, ids }, i) => ({
    group: 'Choose',
    label: i === 0 ? label : `Choose: ${label}`,
    keys: i === 0 ? 'Ctrl A' : undefined,
    run: () => useSession().selectAll(ids),
  }));

/** ↑ and ↓ choose the line above or below, unless what has the focus uses them itself. */
function key(e: KeyboardEvent, place: Place): boolean {
  const session = useSession();
  const tracks = session.doc?.tracks;
  if (place !== 'session' || !tracks || (e.key !== 'ArrowUp' && e.key !== 'ArrowDown')) return false;
  const el = e.target as HTMLElement;
  if (onControl(e) && el instanceof HTMLInputElement) return true;
  if (el.closest('[data-arrows],[role="radiogroup"]')) return true;
  e.preventDefault();
  const by = e.key === 'ArrowUp' ? -1 : 1;
  if (e.altKey) {
    step(inHand(), by);
    return true;
  }
  const shown = shownLines();
  const i = shown.findIndex((id) => id === session.selectedTrack) + by;
  session.select(shown[Math.max(0, Math.min(shown.length - 1, i))] ?? null);
  return true;
}

export const lineCommands: FeatureCommands = {
  commands: (place) => {
    if (place !== 'session' || !useSession().doc) return [];
    const t = useSession().track;
    const lines = inHand();
    const own = t ? [...switching(lines), ...(t.role === 'master' ? [] : ofLines(t, lines))] : [];
    return [...adding(), ...own, ...choosing()];
  },
  key,
  shortcuts: [
    ['↑ ↓', 'Choose the line above or below'],
    ['Ctrl or Shift click', 'Choose several lines, or several devices of a chain'],
    ['Ctrl A', 'Choose all lines'],
    ['Alt ↑ ↓', 'Move the chosen lines'],
    ['M', 'Mute the chosen lines; a folder with what is in it'],
    ['S', 'Solo the chosen lines'],
    ['K', 'Save the device, rack or lines to the shelf'],
    ['F2', 'Name the line; Tab goes on to the next'],
    ['D', 'Duplicate the chosen lines'],
    ['C', 'Colours of the chosen lines; a folder with what is in it'],
    ['F', 'The chosen lines into a new folder'],
    ['H', 'Hide the chosen lines, or show them'],
    ['Delete', 'Remove the device, or the chosen lines'],
  ],
};
