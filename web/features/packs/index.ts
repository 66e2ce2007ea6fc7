/** What other features and the shell may use of this one. */
export { takenIn } from './news.ts';
export { choosePack, isPackFile, openPack, savePack } from './packs.ts';
export { packSheets } from './sheets.ts';
export { default as BackupPanel } from './BackupPanel.vue';
