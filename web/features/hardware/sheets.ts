import SetupSheet from './SetupSheet.vue';

declare module '../../ui/sheets.ts' {
  interface Sheets {
    /** the ports of the studio that the session is in */
    ports: object;
  }
}

export const hardwareSheets = { ports: SetupSheet };
