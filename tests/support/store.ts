import { createPinia } from 'pinia';
import { createApp } from 'vue';

/** A store as a page has it that was just opened: no other test's. */
export const fresh = <Store>(use: () => Store): Store => createApp({}).use(createPinia()).runWithContext(use);
