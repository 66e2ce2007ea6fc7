import { onTrack, type Track } from '../../../core/index.ts';
import { useSession } from '../../document/doc.ts';

/**
 * Edits of one line from a panel: `edit('Level', { level: -3 }, 'level')`.
 * A key joins the edits of one slide into one undo step.
 */
export const lineEdit =
  (track: () => Track) =>
  (label: string, change: Partial<Track>, key?: string): boolean =>
    useSession().edit(
      `${label} of ${track().name}`,
      onTrack(track().id, change),
      key ? key + track().id : undefined,
    );
