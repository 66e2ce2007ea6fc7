import ShareSheet from './ShareSheet.vue';

declare module '../../ui/sheets.ts' {
  interface Sheets {
    /** who works on the open session */
    share: object;
  }
}

export const peopleSheets = { share: ShareSheet };
