import type { Edit, Id } from '../../../core/index.ts';
import ControllersSheet from './ControllersSheet.vue';
import HandlesSheet from './HandlesSheet.vue';

declare module '../../ui/sheets.ts' {
  interface Sheets {
    /** several handles for a rack at once */
    handles: { track: Id; rack: Id };
    /** what becomes of controllers that a copy has taken along; `run` does it */
    controllers: { label: string; edit: Edit; taken: number; run: (edit: Edit) => void };
  }
}

export const rackSheets = { handles: HandlesSheet, controllers: ControllersSheet };
