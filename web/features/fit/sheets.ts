import type { Id } from '../../../core/index.ts';
import FitSheet from './FitSheet.vue';

declare module '../../ui/sheets.ts' {
  interface Sheets {
    /** the values of a line that depend on the voice, worked out anew */
    fit: { track: Id };
  }
}

export const fitSheets = { fit: FitSheet };
