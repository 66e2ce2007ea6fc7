/** What other features and the shell may use of this one. */
export { default as AutomationPanel } from './AutomationPanel.vue';
export { useLaneView } from './view.ts';
