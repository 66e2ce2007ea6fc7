/** What other features and the shell may use of this one. */
export { hasBegun } from '../../ui/begun.ts';
export { default as StartDoors } from './StartDoors.vue';
