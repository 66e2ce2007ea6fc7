import HistorySheet from './HistorySheet.vue';

declare module '../../ui/sheets.ts' {
  interface Sheets {
    /** what was done to the open session */
    history: object;
  }
}

export const sessionSheets = { history: HistorySheet };
