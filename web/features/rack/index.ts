/** What other features and the shell may use of this one. */
export { default as ControllerPanel } from './ControllerPanel.vue';
export { default as RackPanel } from './RackPanel.vue';
export { useRackView } from './view.ts';
export { pickUp } from './controller.ts';
export { rackCommands } from './commands.ts';
export { rackSheets } from './sheets.ts';
