import { ref } from 'vue';
import type { Id } from '../../core/index.ts';

/** The line whose save sheet is open. */
export const saving = ref<Id | null>(null);
/** The device or rack whose save sheet is open. */
export const savingSlot = ref<{ track: Id; slot: Id } | null>(null);
