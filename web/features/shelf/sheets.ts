import type { Id } from '../../../core/index.ts';
import CompareSheet from './CompareSheet.vue';
import SaveSheet from './SaveSheet.vue';

/** A preset's version, or a line of the open session. */
export type Side = { preset: string; version?: number } | { line: Id };

declare module '../../ui/sheets.ts' {
  interface Sheets {
    /** lines, all of them as a starter, or one device or rack; as the next version or as a new preset */
    save: { lines?: Id[] | 'starter'; slot?: { track: Id; slot: Id }; mode?: 'version' | 'new' };
    /** two things that are looked at and listened to side by side */
    compare: { a: Side; b: Side | null };
  }
}

export const shelfSheets = { save: SaveSheet, compare: CompareSheet };
