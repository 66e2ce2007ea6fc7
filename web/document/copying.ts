import { takenControllers, type Edit } from '../../core/index.ts';
import { useSession } from './doc.ts';
import { useSheets } from '../ui/sheets.ts';

/**
 * Does an edit that copies lines or racks; where the copies listen to controllers that move something already, it is
 * asked before what becomes of them.
 * @param then after it is done
 */
export function copyWith(label: string, edit: Edit, then: () => void): void {
  const session = useSession();
  const run = (settled: Edit) => {
    if (session.edit(label, settled)) then();
  };
  const taken = session.doc ? takenControllers(session.doc, edit) : 0;
  if (taken) useSheets().open('controllers', { label, edit, taken, run });
  else run(edit);
}
