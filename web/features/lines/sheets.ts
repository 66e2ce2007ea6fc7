import type { Id } from '../../../core/index.ts';
import AddLinesSheet from './AddLinesSheet.vue';
import ColoursSheet from './ColoursSheet.vue';
import DuplicateSheet from './DuplicateSheet.vue';
import EvenSheet from './EvenSheet.vue';
import FilesSheet from './FilesSheet.vue';

declare module '../../ui/sheets.ts' {
  interface Sheets {
    /** a copy of a line, choosing parts */
    duplicate: { line: Id };
    /** clips of lines brought to one loudness */
    even: { tracks: Id[] };
    /** several new lines at once */
    addLines: object;
    /** sounds and notes that were let go over the session; `onto`: the line under the pointer */
    files: { files: File[]; onto: Id | null };
    /** colours for several lines, in turn */
    colours: { lines: Id[] };
  }
}

export const lineSheets = {
  duplicate: DuplicateSheet,
  addLines: AddLinesSheet,
  even: EvenSheet,
  files: FilesSheet,
  colours: ColoursSheet,
};
