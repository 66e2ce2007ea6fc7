import type { Id } from '../../../core/index.ts';
import LayoutSheet from './LayoutSheet.vue';
import LevelSheet from './LevelSheet.vue';
import PlayerSheet from './PlayerSheet.vue';
import PrintSheet from './PrintSheet.vue';

declare module '../../ui/sheets.ts' {
  interface Sheets {
    kitLayout: { slotId: Id };
    kitLevels: { slotId: Id };
    kitPrint: { slotId: Id };
    /** the parts players on these lines; none: a new one */
    kitPlayer: { tracks: Id[] };
  }
}

export const kitSheets = {
  kitLayout: LayoutSheet,
  kitLevels: LevelSheet,
  kitPrint: PrintSheet,
  kitPlayer: PlayerSheet,
};
