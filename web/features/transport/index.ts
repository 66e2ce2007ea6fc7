/** What other features and the shell may use of this one. */
export { default as CompareButton } from './CompareButton.vue';
export { default as MasterMeters } from './MasterMeters.vue';
export { default as Meter } from './Meter.vue';
export { transportCommands } from './commands.ts';
export { useOpened } from './opened.ts';
export { FREQS, useSpectrum } from './spectrum.ts';
export { useAudio } from './store.ts';
export { default as WaysToHear } from './WaysToHear.vue';
