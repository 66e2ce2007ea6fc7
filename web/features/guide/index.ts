export { default as HelpMark } from './HelpMark.vue';
export { default as TourStrip } from './TourStrip.vue';
export { guideSheets } from './sheets.ts';
