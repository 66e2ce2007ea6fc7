/** What other features and the shell may use of this one. */
export { default as KeyLines } from './KeyLines.vue';
export { default as LinePanel } from './LinePanel.vue';
export { default as LineRow } from './LineRow.vue';
export { default as LineSketch } from './LineSketch.vue';
export { default as MultiPanel } from './MultiPanel.vue';
export { default as HeadingRow } from './HeadingRow.vue';
export { addLine, addMenu, chooseMenu } from './add.ts';
export { lineCommands } from './commands.ts';
export { lineLayout } from './measure.ts';
export { listed, type Item } from './listed.ts';
export { saveLines } from './lines.ts';
export { inHandWith, putBefore } from './many.ts';
export { useOneLine } from './one-line.ts';
export { useLineView } from './view.ts';
export { lineSheets } from './sheets.ts';
