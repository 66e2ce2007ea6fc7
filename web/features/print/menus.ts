import { canPrint, type Track } from '../../../core/index.ts';
import type { MenuEntry } from '../../ui/menu.ts';
import { useSheets } from '../../ui/sheets.ts';
import { usePrint } from './store.ts';

/** What printing offers for lines: in the menu of one, or for several at once. */
export function printMenu(lines: readonly Track[]): MenuEntry[] {
  const print = usePrint();
  const ready = lines.filter(canPrint);
  const printed = lines.filter((t) => t.printed?.chain);
  const many = (list: readonly Track[]) => (list.length > 1 ? ` ${list.length} lines` : '');
  return [
    ...(ready.length
      ? [
          {
            label: `Print${many(ready)} with the chain …`,
            run: () => useSheets().open('printLines', { tracks: ready.map((t) => t.id) }),
          },
        ]
      : []),
    ...(printed.length
      ? [{ label: `Restore${many(printed)} from the print`, run: () => print.restore(printed) }]
      : []),
  ];
}
