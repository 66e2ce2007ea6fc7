/** What other features and the shell may use of this one. */
export { portSheets } from './sheets.ts';
export { usePorts, type Sink } from './store.ts';
