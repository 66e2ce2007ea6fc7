/** What other features and the shell may use of this one. */
export { default as ShelfPanel } from './ShelfPanel.vue';
export { shelfCommands } from './commands.ts';
export { shelfSheets } from './sheets.ts';
export { useShelf } from './store.ts';
