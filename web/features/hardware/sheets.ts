import type { Id } from '../../../core/index.ts';
import InputUnitsSheet from './InputUnitsSheet.vue';
import SetupSheet from './SetupSheet.vue';

declare module '../../ui/sheets.ts' {
  interface Sheets {
    /** the ports of the studio that the session is in */
    ports: object;
    /** the units before a line's hardware input */
    inputUnits: { track: Id };
  }
}

export const hardwareSheets = { ports: SetupSheet, inputUnits: InputUnitsSheet };
