import { defineAsyncComponent } from 'vue';

declare module '../../ui/sheets.ts' {
  interface Sheets {
    /** the guide, at a chapter */
    guide: { about?: string };
  }
}

// its text comes when it is wanted
const GuideSheet = defineAsyncComponent(() => import('./GuideSheet.vue'));
export const guideSheets = { guide: GuideSheet };
