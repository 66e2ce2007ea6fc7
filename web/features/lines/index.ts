/** What other features and the shell may use of this one. */
export { default as KeyLines } from './KeyLines.vue';
export { default as LinePanel } from './LinePanel.vue';
export { default as LineRow } from './LineRow.vue';
export { default as MultiPanel } from './MultiPanel.vue';
export { addMenu } from './add.ts';
export { lineCommands } from './commands.ts';
export { lineLayout } from './measure.ts';
export { useLineView } from './view.ts';
export { lineSheets } from './sheets.ts';
