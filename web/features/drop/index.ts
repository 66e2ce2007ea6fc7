/** What other features and the shell may use of this one. */
export { default as DragWords } from './DragWords.vue';
export { default as DropSheet } from './DropSheet.vue';
export { default as ReportSheet } from './ReportSheet.vue';
export { default as SeveralSheet } from './SeveralSheet.vue';
export { dragWords, dragged, startDrag, wordsOf, type DropSpot } from './drag.ts';
export { dropSheets } from './sheets.ts';
export { useDrop } from './store.ts';
export { END_WORDS } from './words.ts';
