/** What other features and the shell may use of this one. */
export { hardwareSheets } from './sheets.ts';
