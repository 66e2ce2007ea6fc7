/** What other features and the shell may use of this one. */
export { hardwareSheets } from './sheets.ts';
export { default as DeviceHardware } from './DeviceHardware.vue';
export { default as UnitChoices } from './UnitChoices.vue';
