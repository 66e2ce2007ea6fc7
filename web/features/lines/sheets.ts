import type { Id } from '../../../core/index.ts';
import DuplicateSheet from './DuplicateSheet.vue';

declare module '../../ui/sheets.ts' {
  interface Sheets {
    /** a copy of a line, choosing parts */
    duplicate: { line: Id };
  }
}

export const lineSheets = { duplicate: DuplicateSheet };
