import { type Id, type Track, duplicateTrack, withContent } from '../../../core/index.ts';
import { useSession } from '../../document/doc.ts';
import { useSheets } from '../../ui/sheets.ts';
import { copyWith } from '../../document/copying.ts';
import { listed } from './listed.ts';
import { useLineView } from './view.ts';

/** Copies behind the original, with the parts that were chosen last. */
export function duplicateLine(t: Track, count = 1): void {
  const session = useSession();
  const { edit, ids } = duplicateTrack(t.id, useLineView().duplicateParts, count);
  copyWith(`Duplicate ${t.name}`, edit, () => session.select(ids[0]));
}

/** Begins to name a line where it stands. */
export function rename(id: Id): void {
  useLineView().naming = id;
}

/** Opens the sheet that saves lines: a folder with what lies in it. */
export function saveLines(lines: readonly Track[]): void {
  const session = useSession();
  const ids = withContent(
    session.doc!,
    lines.map((t) => t.id),
  );
  if (ids.length) useSheets().open('save', { lines: ids });
}

/** Ids of the lines that are seen, in their order. */
export function shownLines(): Id[] {
  const { doc } = useSession();
  const { closed, showsHidden } = useLineView();
  const items = doc ? listed(doc, { closed, showsHidden }) : [];
  return items.flatMap((item) => (item.kind === 'line' ? [item.track.id] : []));
}
