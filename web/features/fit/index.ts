/** What other features and the shell may use of this one. */
export { fitMenu } from './menus.ts';
export { useFitView } from './view.ts';
export { fitSheets } from './sheets.ts';
export { heardChain } from './heard.ts';
