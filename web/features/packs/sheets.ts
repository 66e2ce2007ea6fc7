import PackSheet from './PackSheet.vue';
import type { SentPack } from './packs.ts';

declare module '../../ui/sheets.ts' {
  interface Sheets {
    /** what a pack would bring */
    pack: SentPack;
  }
}

export const packSheets = { pack: PackSheet };
