import { type Track, duplicateTrack } from '../../../core/index.ts';
import { useSession } from '../../document/doc.ts';
import { useLineView } from './view.ts';

/** Copies behind the original, with the parts that were chosen last. */
export function duplicateLine(t: Track, count = 1): void {
  const session = useSession();
  const { edit, ids } = duplicateTrack(t.id, useLineView().duplicateParts, count);
  if (session.edit(`Duplicate ${t.name}`, edit)) session.select(ids[0]);
}
