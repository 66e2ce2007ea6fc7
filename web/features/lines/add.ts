import { ListPlus } from '@lucide/vue';
import { COLOURS, DEVICE_TYPES, type Role, addInstrument, addTrack } from '../../../core/index.ts';
import { useDefaults } from '../defaults/index.ts';
import { useDrop } from '../drop/index.ts';
import { useSheets } from '../../ui/sheets.ts';
import { useSession } from '../../document/doc.ts';
import type { MenuEntry } from '../../ui/menu.ts';
import { rename } from './lines.ts';
import { waysToChoose } from './many.ts';

export function addMenu(): MenuEntry[] {
  const roles = [
    ['audio', 'Audio track'],
    ['bus', 'Bus'],
    ['return', 'Return'],
    ['folder', 'Folder'],
  ] as const;
  return [
    { label: 'Several lines …', icon: ListPlus, run: () => useSheets().open('addLines', {}) },
    { heading: 'Add a line' },
    ...roles.map(([role, label]) => ({ label, run: () => void addLine(role) })),
    { label: 'MIDI track', run: () => void addLine('midi') },
    { heading: 'Add an instrument' },
    ...['kit', 'keys', 'bass'].flatMap((type) => [
      { label: DEVICE_TYPES[type].label, run: () => void putInstrument(type, false) },
      { label: `${DEVICE_TYPES[type].label} with a pattern`, run: () => void putInstrument(type) },
    ]),
    {
      label: 'Parts player …',
      run: () => useSheets().open('kitPlayer', { tracks: [] }),
    },
  ];
}

/** Ways to choose lines by what they have in common. */
export const chooseMenu = (): MenuEntry[] => [
  { heading: 'Choose' },
  ...waysToChoose().map(({ label, ids }, i) => ({
    label: `${label} (${ids.length})`,
    keys: i === 0 ? 'Ctrl A' : undefined,
    run: () => useSession().selectAll(ids),
  })),
  ...colourWays(),
];
/** Colours that are there, to choose by. */
function colourWays(): MenuEntry[] {
  const lines = useSession().doc!.tracks.filter((t) => t.role !== 'master');
  const found = COLOURS.filter((c) => lines.some((t) => t.colour === c.id));
  return [
    { heading: 'Of a colour' },
    ...found.map((c) => {
      const ids = lines.filter((t) => t.colour === c.id).map((t) => t.id);
      const run = () => useSession().selectAll(ids);
      return { label: `${c.label} (${ids.length})`, swatch: c.day, run };
    }),
  ];
}

/** Adds an instrument on a line of its own, with a pattern that plays it where wished; selects the instrument. */
export async function putInstrument(type: string, withPattern = true): Promise<void> {
  const session = useSession();
  const edit = session.editLater();
  const defaults = useDefaults();
  await defaults.load();
  const a = addInstrument(type, session.doc!, withPattern, defaults.valuesOf);
  if (edit(`Add ${DEVICE_TYPES[type].label}`, a.edit)) session.select(a.id, a.device);
}

/** Adds a line: the default strip of its role when the shelf has one, otherwise an empty one. */
export async function addLine(role: Role): Promise<void> {
  const session = useSession();
  const edit = session.editLater();
  const defaults = useDefaults();
  await defaults.load();
  const strip = defaults.presetOf(`track:${role}`);
  if (strip) {
    await useDrop().begin(strip, { kind: 'new' }, true);
    return;
  }
  const a = addTrack(role);
  if (!edit(`Add a ${role}`, a.edit)) return;
  session.select(a.id);
  rename(a.id);
}
