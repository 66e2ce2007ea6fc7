/** What other features and the shell may use of this one. */
export { sessionCommands } from './commands.ts';
export { sessionSheets } from './sheets.ts';
