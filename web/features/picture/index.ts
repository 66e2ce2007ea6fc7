/** What other features and the shell may use of this one. */
export { default as CurvePlot } from './CurvePlot.vue';
export { default as DevicePicture } from './DevicePicture.vue';
export { default as EqPicture } from './EqPicture.vue';
export { default as FlowPicture } from './FlowPicture.vue';
export { default as Readings } from './Readings.vue';
export { shapeOf, stateWord } from './shapes.ts';
