/** What other features and the shell may use of this one. */
export { printMenu } from './menus.ts';
export { printSheets } from './sheets.ts';
export { usePrint } from './store.ts';
