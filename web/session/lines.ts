import type { Track } from '../../core/index.ts';
import { duplicateTrack } from '../stores/edits.ts';
import { useSession } from '../stores/session.ts';
import { useUi } from '../stores/ui.ts';

/** A copy beside the original, with the parts that were chosen last. */
export function duplicateLine(t: Track): void {
  const session = useSession();
  const d = duplicateTrack(t.id, useUi().duplicateParts);
  if (session.edit(`Duplicate ${t.name}`, d.edit)) session.select(d.id);
}
