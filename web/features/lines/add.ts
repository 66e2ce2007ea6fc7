import { DEVICE_TYPES, type Role, addInstrument, addTrack } from '../../../core/index.ts';
import { useDefaults } from '../defaults/index.ts';
import { useDrop } from '../drop/index.ts';
import { useSheets } from '../../ui/sheets.ts';
import { useSession } from '../../document/doc.ts';
import type { MenuEntry } from '../../ui/menu.ts';

export function addMenu(): MenuEntry[] {
  const roles = [
    ['audio', 'Audio track'],
    ['bus', 'Bus'],
    ['return', 'Return'],
    ['folder', 'Folder'],
  ] as const;
  return [
    { heading: 'Add a line' },
    ...roles.map(([role, label]) => ({ label, run: () => void addLine(role) })),
    { label: 'MIDI track', run: () => void addLine('midi') },
    { heading: 'Add an instrument' },
    ...['kit', 'keys', 'bass'].map((type) => ({
      label: `${DEVICE_TYPES[type].label} with a pattern`,
      run: () => putInstrument(type),
    })),
    {
      label: 'Parts player …',
      run: () => useSheets().open('kitPlayer', { tracks: [] }),
    },
  ];
}

/** Adds an instrument on a line of its own and a pattern that plays it; selects the instrument. */
export function putInstrument(type: string): void {
  const session = useSession();
  const a = addInstrument(type, session.doc!, true, useDefaults().valuesOf);
  if (session.edit(`Add ${DEVICE_TYPES[type].label}`, a.edit)) session.select(a.id, a.device);
}

/** Adds a line: the default strip of its role when the shelf has one, otherwise an empty one. */
export async function addLine(role: Role): Promise<void> {
  const session = useSession();
  const strip = useDefaults().presetOf(`track:${role}`);
  if (strip) {
    await useDrop().begin(strip, { kind: 'new' }, true);
    return;
  }
  const a = addTrack(role);
  if (session.edit(`Add a ${role}`, a.edit)) session.select(a.id);
}
