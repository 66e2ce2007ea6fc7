/** What other features and the shell may use of this one. */
export { default as DevicePanel } from './DevicePanel.vue';
export { default as DeviceTile } from './DeviceTile.vue';
export { default as SlotHeader } from './SlotHeader.vue';
export { deviceCommands } from './commands.ts';
export { deviceMenu, putDevice, putRack } from './menus.ts';
export { remove } from './slots.ts';
