import { type Track, duplicateTrack } from '../../../core/index.ts';
import { useSession } from '../../document/doc.ts';
import { useLineView } from './view.ts';

/** A copy beside the original, with the parts that were chosen last. */
export function duplicateLine(t: Track): void {
  const session = useSession();
  const d = duplicateTrack(t.id, useLineView().duplicateParts);
  if (session.edit(`Duplicate ${t.name}`, d.edit)) session.select(d.id);
}
