import type { Id } from '../../../core/index.ts';
import LinesSheet from './LinesSheet.vue';

declare module '../../ui/sheets.ts' {
  interface Sheets {
    /** lines printed to audio with their chains */
    printLines: { tracks: Id[] };
  }
}

export const printSheets = { printLines: LinesSheet };
