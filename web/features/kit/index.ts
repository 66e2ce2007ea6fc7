/** What other features and the shell may use of this one. */
export { default as KitActions } from './KitActions.vue';
export { default as KitPanel } from './KitPanel.vue';
export { default as PatternPanel } from './PatternPanel.vue';
export { default as PlayerPanel } from './PlayerPanel.vue';
export { default as TapTest } from './TapTest.vue';
export { kitCommands } from './commands.ts';
export { instrumentMenu } from './menus.ts';
export { kitSheets } from './sheets.ts';
export { useKit } from './store.ts';
