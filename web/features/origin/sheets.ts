import type { Id } from '../../../core/index.ts';
import OriginSheet from './OriginSheet.vue';
import OverviewSheet from './OverviewSheet.vue';

declare module '../../ui/sheets.ts' {
  interface Sheets {
    /** one line or piece, by its id, against the shelf */
    origin: { at: Id };
    /** everything in the session that came from the shelf */
    overview: object;
  }
}

export const originSheets = { origin: OriginSheet, overview: OverviewSheet };
