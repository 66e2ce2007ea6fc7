/** Edits of a session as pure functions: a session in, a new one out, everything that did not change shared. */
export * from './on.ts';
export * from './lanes.ts';
export { setSongKey } from './key.ts';
export * from './tracks.ts';
export * from './many.ts';
export { addHeading, headingsUnder, ledHeadings, onHeading, removeHeading } from './headings.ts';
export * from './files.ts';
export { onClip, playTake, removeClip, setClipGains, splitClip } from './clips.ts';
export { MOST_LINES, namesFrom, portsFrom } from './names.ts';
export * from './slots.ts';
export * from './racks.ts';
export { takenControllers, withControllers, type Controllers } from './controllers.ts';
export { setHardware, setInputUnits, setStudio, setTicks } from './hardware.ts';
