import type { Id } from '../../../core/index.ts';
import type { Side } from './side.ts';
import ByHandSheet from './ByHandSheet.vue';
import ClearOutSheet from './ClearOutSheet.vue';
import CompareSheet from './CompareSheet.vue';
import ManySheet from './ManySheet.vue';
import NearSheet from './NearSheet.vue';
import SaveSheet from './SaveSheet.vue';

declare module '../../ui/sheets.ts' {
  interface Sheets {
    /** lines, all of them as a starter, or one device or rack; as the next version or as a new preset */
    save: { lines?: Id[] | 'starter'; slot?: { track: Id; slot: Id }; mode?: 'version' | 'new' };
    /** presets that are changed together */
    many: { ids: string[] };
    /** presets that do nearly the same, in groups */
    near: object;
    /** chains that sessions build by hand again and again */
    byHand: object;
    /** presets that could go */
    clearOut: object;
    /** two things that are looked at and listened to side by side */
    compare: { a: Side; b: Side | null };
  }
}

export const shelfSheets = {
  save: SaveSheet,
  compare: CompareSheet,
  many: ManySheet,
  clearOut: ClearOutSheet,
  near: NearSheet,
  byHand: ByHandSheet,
};
