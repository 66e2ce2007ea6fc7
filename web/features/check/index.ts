/** What other features and the shell may use of this one. */
export { useCheck } from './store.ts';
