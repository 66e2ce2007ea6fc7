/** What other features and the shell may use of this one. */
export { sessionsCommands } from './commands.ts';
export { default as SessionFinder } from './SessionFinder.vue';
