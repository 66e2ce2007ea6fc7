import BorrowSheet from './BorrowSheet.vue';
import DropList from './DropList.vue';

declare module '../../ui/sheets.ts' {
  interface Sheets {
    /** lines of another session */
    borrow: object;
    /** what was dropped into this session */
    dropList: object;
  }
}

export const dropSheets = { borrow: BorrowSheet, dropList: DropList };
