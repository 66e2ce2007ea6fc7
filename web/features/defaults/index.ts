/** What other features and the shell may use of this one. */
export { useDefaults } from './store.ts';
