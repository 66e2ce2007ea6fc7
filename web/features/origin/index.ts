/** What other features and the shell may use of this one. */
export { default as OriginMark } from './OriginMark.vue';
export { originCommands } from './commands.ts';
export { originSheets } from './sheets.ts';
export { useOrigins } from './store.ts';
