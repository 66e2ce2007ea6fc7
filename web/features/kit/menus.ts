import { Rows3 } from '@lucide/vue';
import { DEVICE_TYPES, instrumentsOn, type Track } from '../../../core/index.ts';
import { useKit } from './store.ts';
import { useSession } from '../../document/doc.ts';
import type { MenuEntry } from '../../ui/menu.ts';
import { useSheets } from '../../ui/sheets.ts';

/** What can be done with a line's instrument, for its menu and the palette. */
export function instrumentMenu(t: Track): MenuEntry[] {
  const kit = useKit();
  const sheets = useSheets();
  const s = useSession().doc!;
  const slot = instrumentsOn(t)[0]?.device;
  const outputs = slot ? DEVICE_TYPES[slot.type].instrument!.outputs : 0;
  const printed = s.tracks.find(
    ({ id, printed: p }) => p?.instrument && (id === t.id || p.instrument.track === t.id),
  )?.printed?.instrument;
  return [
    ...(printed ? [{ label: 'Restore the instrument', run: () => kit.restore(printed.slot) }] : []),
    ...(slot && outputs
      ? [
          {
            label: 'Lay out the outputs …',
            icon: Rows3,
            run: () => sheets.open('kitLayout', { slotId: slot.id }),
          },
          {
            label: 'Output levels …',
            run: () => sheets.open('kitLevels', { slotId: slot.id }),
          },
        ]
      : []),
    ...(slot && DEVICE_TYPES[slot.type].instrument?.addressed
      ? [
          {
            label: 'Parts and channels …',
            run: () => sheets.open('kitPlayer', { tracks: [t.id] }),
          },
        ]
      : []),
    ...(slot && !printed
      ? [
          {
            label: 'Print to audio …',
            run: () => sheets.open('kitPrint', { slotId: slot.id }),
          },
        ]
      : []),
  ];
}
